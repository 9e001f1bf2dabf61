// A disc as fits draw it: an opening on a sloping ground, with a soft edge.
#pragma once

#include <array>

#include "blade_shape.hpp"
#include "edge_kernel.hpp"

namespace jolly_iris::measuring {

/// A disc as it is drawn. Lengths are px of the plate.
struct DrawnDisc {
  double x = 0.0;
  double y = 0.0;
  double height = 20.0;
  double aspect = 1.0;    ///< width / height
  double contrast = 1.0;  ///< of its even part above the ground, linear
  /// Its light by channel, and the ground's, against what the numbers here say.
  std::array<double, 3> colour{1.0, 1.0, 1.0};
  std::array<double, 3> ground_colour{1.0, 1.0, 1.0};
  double rim = 0.0;  ///< stops
  double ground = 0.0;
  double ground_x = 0.0;  ///< change of the ground over half the height
  double ground_y = 0.0;
  double soft = 0.5;  ///< deviation of the blur of its edge, its lamp's size and the kernel's
  const EdgeTable* edges = &usual_kernel();  ///< what all edges of the plate go through
  bool turned = false;
  /// A rim of the lens tube over the opening: a point p of it, in half heights as the iris stands,
  /// passes if |p + tube_at| ≤ tube; 0: no rim.
  std::array<double, 2> tube_at{};
  double tube = 0.0;
};

/// Whether its edge is too soft for a lamp's disc: a patch of the ground.
bool too_soft(const DrawnDisc& disc);

/// How far out a tube's rim lets pass in a direction (not a unit one: multiples of it), ≥ 0.
double tube_opens_to(double ex, double ey, const std::array<double, 2>& at, double tube);

/// Where a pixel lies against a disc's outline.
struct Against {
  double inside = 0.0;        ///< px within the edge, along its normal
  double u = 0.0, v = 0.0;    ///< half heights/widths from the middle, y up, as the iris stands
  double fu = 0.0, fv = 0.0;  ///< slope of (radius − outline) there
  double slope = 1.0;         ///< of the same, per px
  double fraction = 0.0;      ///< radius against the outline's
};
Against against(const DrawnDisc& disc, const BladeShape& shape, double x, double y);

/// The disc's own light at a pixel's middle, without the ground.
double light_at(const DrawnDisc& disc, const BladeShape& shape, double x, double y);
double light_of(const DrawnDisc& disc, const Against& a);

/// How far inside a straight edge it would look like this: a bent edge that is blurred lies farther
/// in than a straight one.
double inside_straight(const DrawnDisc& disc, const Against& at);

/// The lamp's part of the square of the edge's softness.
double lamp_fraction(const DrawnDisc& disc);

/// How much of a pixel lies within the edge, and how that changes.
EdgeLight edge_of(const DrawnDisc& disc, const Against& at);

}  // namespace jolly_iris::measuring
