// The grain of a plate, from its flat areas, which are found by themselves.
//
// In squares of the plate, differences of the second order (l(x−k) − 2 l(x) + l(x+k), along rows
// and columns) are not stirred by straight ramps of light; what is left in flat squares is grain.
// At a separation of eight pixels they have six times its variance, at one or two less, the more
// alike neighbours are: their ratio tells how soft it is. Squares with texture have more than
// others of their light and are left out: how much more chance allows is known.
//
// What a file's rounding or its codec adds or takes is part of what is measured: grain is as the
// file has it.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/finish.hpp"
#include "jolly_iris/optics/measured.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One square that told of grain.
struct GrainPlace {
  Box box{};
  Rgb level{};     ///< mean light
  Rgb variance{};  ///< of a pixel
};

struct GrainInPlate {
  /// Standard deviations of red, green and blue, linear light: at 0, at the middle of what was
  /// seen, and at 0.18. One that lies outside of the light that was seen is extrapolated by a + b
  /// L.
  std::array<Measured, 3> black{};
  std::array<Measured, 3> grey{};
  std::array<Measured, 3> at_level{};
  Rgb level{};         ///< the light of at_level
  Rgb darkest{};       ///< of the light that was seen: from …
  Rgb brightest{};     ///< … to
  Measured size_px{};  ///< standard deviation of the Gaussian that it is softened by
  Measured alike{};    ///< correlation between channels
  std::vector<GrainPlace> places{};
  int squares = 0;  ///< that the plate has
};

/// What was found, or why nothing: "not seen" comes with an upper limit.
struct GrainFinding {
  std::optional<GrainInPlate> grain{};
  std::string no_grain{};        ///< a sentence where there is none
  std::optional<Rgb> at_most{};  ///< standard deviation at `level` that would have been seen
};

struct GrainSettings {
  double steps = 0.0;      ///< how many the file has from 0 to 1 (255 of an 8-bit one); 0: floats
  double clips_at = 0.98;  ///< from here on a channel is no witness
};

/// The side of a square, px.
inline constexpr int grain_square = 32;

/// @throws PictureError for a picture smaller than four squares, or not finite
GrainFinding grain_in(const Picture& plate, const GrainSettings& settings = {});

/// What a finish would be told to make such grain. Where it is softened by less than its margin, it
/// is not.
Grain grain_like(const GrainInPlate& found);

}  // namespace jolly_iris
