// One bright thing as a shape: a soft disc drawn out along a straight way, or something that is
// long by itself.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "bright_things.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

/// The pixels around a thing: mean of channels, or of a clipped thing the channel that is cut off
/// least; and what each counts.
struct ThingPixels {
  std::array<int, 2> corner{};  ///< px of the plate
  int width = 0;
  int height = 0;
  std::vector<float> light{};
  std::vector<float> weight{};  ///< 1 / deviation²; 0: belongs to another thing
  double clip = 0.0;            ///< light from which it is cut off; 0: nowhere
  double peak = 0.0;
  double noise = 0.0;  ///< deviation of a pixel of the ground
};

/// None where other things stand in the way.
/// @param coded its file's codec left marks
std::optional<ThingPixels> pixels_around(const Picture& plate, const BrightThings& bright,
                                         std::size_t thing, double clips_at, bool coded);

/// What a thing may be.
enum class ThingShape {
  drawn_disc,  ///< a disc, evenly along a way
  oval,        ///< the same with less towards both ends: ovals, and ways of uneven speed
  window       ///< a rectangle
};

struct DrawnThing {
  std::array<double, 2> way{};  ///< px right and up, of a disc's way; of others what they are
                                ///< longer than wide
  std::array<double, 3> cov{};  ///< of it: right·right, right·up, up·up, for the noise as it is
  double across_px = 0.0;       ///< width across it
  double softness_px = 0.0;     ///< deviation of the Gaussian at its edges
  double misfit = 0.0;          ///< sum of squares, in deviations
  double pixels = 0.0;          ///< that counted
};

/// The best of a shape. None where there is no fit: nothing converges, or it is as large as the
/// window.
std::optional<DrawnThing> fitted_thing(const ThingPixels& pixels, ThingShape shape);

}  // namespace jolly_iris::measuring
