// What narrow strips around a bright thing have more than the ground beside them.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "bright_things.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

inline constexpr int ray_directions =
    720;  // of strips: half a degree apart, twelve blades' rays 15

/// Strips outward from a thing, in all directions. Light is integrated across a strip, so that a
/// ray tells the same for lamps of any size: per px of its length.
struct RayStrips {
  std::size_t thing = 0;
  std::vector<double> distance{};  ///< px, middle of each part of a strip
  std::vector<double> length{};    ///< of each part
  double half_width = 0.0;         ///< of a strip, px
  /// [direction][part]: light above what is beside it, of red, green, blue; weight 0: covered.
  std::vector<std::array<float, 3>> excess{};
  std::vector<char> seen{};
  std::vector<double> sigma{};    ///< of each part, of the mean of channels, by all directions
  std::array<double, 3> light{};  ///< of the thing above its ground
  std::size_t parts() const { return distance.size(); }
  std::size_t at(int direction, std::size_t part) const {
    return static_cast<std::size_t>(direction) * distance.size() + part;
  }
  double mean(int direction, std::size_t part) const {
    const auto& e = excess[at(direction, part)];
    return (static_cast<double>(e[0]) + static_cast<double>(e[1]) + static_cast<double>(e[2])) /
           3.0;
  }
};

/// @param spoiled_px beside a thing, where a codec has left marks
/// @return none, and why, for a thing that the frame cuts or that others crowd
std::optional<RayStrips> strips_around(const Picture& plate, const BrightThings& bright,
                                       std::size_t thing, int spoiled_px, std::string& why);

/// Half of a strip's width for a thing so large.
double strip_half_width(double radius_px);

/// Integrated across a strip, less the ground beside it: of anything that tells its light at a
/// place in px from the middle, right and down.
template <class Light>
double across_strip(const Light& light, double cos, double sin, double along, double half) {
  // The middle of the strip, then both sides of it: as wide together.
  constexpr int steps = 4;
  double middle = 0.0;
  double beside = 0.0;
  for (int k = 0; k < 2 * steps; ++k) {
    const double v = half * ((k + 0.5) / steps - 1.0);
    middle += light(along * cos - v * sin, -along * sin - v * cos);
    const double w = v < 0.0 ? v - 1.2 * half : v + 1.2 * half;
    beside += light(along * cos - w * sin, -along * sin - w * cos);
  }
  return (middle - beside) * half / steps;
}

}  // namespace jolly_iris::measuring
