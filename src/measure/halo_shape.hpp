// How halo light falls with the distance: (1 + (r/r₀)²)^(−p/2), its sum over the plate's reach 1.
#pragma once

#include <array>
#include <cmath>
#include <numbers>

namespace jolly_iris::measuring {

struct HaloShape {
  double reach_px = 4.0;
  double power = 3.0;

  /// Light within a radius of its middle, were it endless.
  double inside(double px) const {
    const double r = px / reach_px;
    return 1.0 - std::pow(1.0 + r * r, 1.0 - 0.5 * power);
  }
  /// Light a px² at a distance, where all of it is 1 within `largest_px`.
  double at(double px, double largest_px) const {
    const double r = px / reach_px;
    return (power - 2.0) / (2.0 * std::numbers::pi * reach_px * reach_px * inside(largest_px)) *
           std::pow(1.0 + r * r, -0.5 * power);
  }
};

/// A halo that is known already, more or less.
struct GuessedHalo {
  HaloShape shape{};
  std::array<double, 3> fraction{};
};

}  // namespace jolly_iris::measuring
