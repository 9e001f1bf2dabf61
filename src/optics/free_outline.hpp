// Outlines that people drew: checked, and cut into triangles.
#pragma once

#include <array>
#include <vector>

#include "jolly_iris/optics/opening.hpp"

namespace jolly_iris {

/// The outline counter-clockwise, about its area's centre, without corners given twice in a row.
/// @throws OpticsError (lens.iris.outline) for fewer than 3 corners or more than 2000, for ones
/// that
///         are not finite, for no area, and for sides that cross or touch
Contour checked_outline(const std::vector<Point2>& drawn);

/// Triangles that cover a simple counter-clockwise outline, each counter-clockwise. By clipping
/// ears (Meisters, 1975).
std::vector<std::array<Point2, 3>> triangles_of(const Contour& outline);

}  // namespace jolly_iris
