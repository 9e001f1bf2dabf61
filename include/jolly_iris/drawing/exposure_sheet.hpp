// A picture's exposure on one sheet: the picture with the places that were metered, a map of its
// stops, how its pixels spread over stops, and the numbers.
//
// The map is drawn like one of a landscape: every stop is a terrace of its own lightness, rising
// from ink through plain grey (which is mid-grey) to cream, with its number written on it. What
// clips is hatched and what is black is dotted, so that it reads without colour too.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/meter.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A place that was metered or compared; px of the sheet's picture.
struct SheetSpot {
  std::array<double, 4> box{};  ///< left, top, width, height
  bool round = false;
  std::string words{};  ///< "+1.3"
};

struct ExposureSheet {
  std::string title{};
  std::string subtitle{};
  Picture picture{};  ///< linear; any size
  Primaries primaries = Primaries::rec709;
  double clips_at = 1.0;
  StopsHistogram histogram{};
  double black = 0.0;  ///< shares, as metered
  double clipped = 0.0;
  double non_finite = 0.0;
  double level_stops = 0.0;  ///< what was metered, from mid-grey: marked in the histogram
  std::vector<SheetSpot> spots{};
  std::vector<std::array<std::string, 2>> numbers{};  ///< what, how much
};

/// The drawing, 1280 × 800. @return the file's bytes
std::string exposure_png(const ExposureSheet& sheet);
std::string exposure_svg(const ExposureSheet& sheet);

}  // namespace jolly_iris
