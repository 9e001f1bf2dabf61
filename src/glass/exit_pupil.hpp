// What the film sees of the opening, in the plane of the last surface's vertex.
#pragma once

#include <array>

#include "jolly_iris/glass/traced.hpp"

namespace jolly_iris {

/// A box around it, mm.
struct ExitBox {
  std::array<double, 2> low{};
  std::array<double, 2> high{};
};

/// By rays through the opening's rim, within the last surface's clear diameter.
/// @param more how much wider than found, as a share of it
ExitBox exit_box(const TracedGlass& glass, const std::array<double, 3>& film, double more = 0.05);

/// An ellipse around it: its middle and half its axes, mm, along x and y.
struct ExitEllipse {
  std::array<double, 2> middle{};
  std::array<double, 2> half{};
};

/// By the same rays; where none go, an ellipse around all of the last surface.
ExitEllipse exit_ellipse(const TracedGlass& glass, const std::array<double, 3>& film, double more);

/// Projected solid angle of what passes to a place on the film: ∫ cos θ dΩ. 0: nothing.
double exit_light(const TracedGlass& glass, const std::array<double, 3>& film);

}  // namespace jolly_iris
