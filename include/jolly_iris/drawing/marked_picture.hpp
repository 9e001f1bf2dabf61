// A picture with outlines and words over it: what was found in a plate, and what was refused.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One outline. Places are px of the picture.
struct PictureMark {
  enum class Kind {
    found,    ///< drawn through
    doubted,  ///< drawn in dashes: it does not go with the others
    rejected  ///< dotted, with no number
  };
  std::vector<std::array<double, 2>> outline{};  ///< closed
  std::string label{};                           ///< beside it; empty: none
  Kind kind = Kind::found;
};

struct MarkedPicture {
  std::string title{};
  std::string subtitle{};
  std::string foot{};
  Picture picture{};  ///< linear light; shown as sRGB
  std::vector<PictureMark> marks{};
};

/// The drawing, 1280 × 800, the picture as large as fits. @return the file's bytes
/// @throws UsageError for a picture without pixels
std::string marked_png(const MarkedPicture& marked);
std::string marked_svg(const MarkedPicture& marked);

}  // namespace jolly_iris
