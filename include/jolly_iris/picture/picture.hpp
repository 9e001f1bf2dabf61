// Pictures in linear light, and their depth. Pixel centres at +0.5, x to the right, y down.
#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Red, green, blue, alpha; linear, premultiplied, unclamped.
using Rgba = std::array<float, 4>;

/// A picture of RGBA pixels, row by row from the top.
class Picture {
 public:
  Picture() = default;
  /// A picture of one colour. @throws UsageError unless both sides are at least 1
  explicit Picture(PixelSize size, const Rgba& fill = {0, 0, 0, 0});

  PixelSize size() const { return size_; }
  int width() const { return size_.width; }
  int height() const { return size_.height; }
  bool empty() const { return pixels_.empty(); }
  Rgba& at(int x, int y) { return pixels_[index(x, y)]; }
  const Rgba& at(int x, int y) const { return pixels_[index(x, y)]; }
  std::vector<Rgba>& pixels() { return pixels_; }
  const std::vector<Rgba>& pixels() const { return pixels_; }

 private:
  std::size_t index(int x, int y) const {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(size_.width) +
           static_cast<std::size_t>(x);
  }
  PixelSize size_{};
  std::vector<Rgba> pixels_{};
};

/// What else an EXR had that a frame was read from. It goes along when the frame, or one made of it
/// in the same place, is written as an EXR.
struct FileRest {
  std::string file{};
  std::vector<std::string> channels{};  ///< that nobody read: "id", "crypto00.R" …
  bool header = false;                  ///< its header has entries that are not about the file
  PixelSize size{};                     ///< of its display window
  int part = 0;                         ///< the one with the colour, from 0

  bool any() const { return header || !channels.empty(); }
};

/// Of which whole a frame is a part, and where: its upper left corner, px.
struct PartOf {
  PixelSize whole{};
  int x = 0;
  int y = 0;
};

/// A picture with, where known, the axial distance of what each pixel shows, in metres (infinity:
/// sky).
struct Frame {
  Picture colour{};
  std::vector<float> depth{};        ///< empty, or one a pixel, row by row
  std::vector<std::string> notes{};  ///< what reading it decided or doubts, a sentence each
  /// That it has beyond the camera's picture on each side; files keep it as the data window.
  Margin margin{};
  std::optional<PartOf>
      part{};       ///< none: it is all of the picture. Files keep it as the data window
  FileRest rest{};  ///< of the file that it was read from

  bool has_depth() const { return !depth.empty(); }
};

/// A part of a picture, in pixels from its top left corner.
struct Box {
  int x = 0;
  int y = 0;
  int width = 0;
  int height = 0;
};

/// @throws UsageError unless the box has pixels and lies within a picture of this size
void require_within(const Box& box, PixelSize whole);

/// The part of a frame. @throws UsageError if it does not lie within
Frame crop(const Frame& frame, const Box& box);

}  // namespace jolly_iris
