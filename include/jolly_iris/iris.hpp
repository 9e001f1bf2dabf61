// The iris as an artist describes it. Its outline and sampling are in opening.hpp.
#pragma once

#include "jolly_iris/units.hpp"

namespace jolly_iris {

/// Radius of curvature of a blade's edge. At or below the opening's radius the opening is round;
/// larger is flatter; straight is a polygon; negative is bent inward. Being a length, it makes an
/// iris round wide open and polygonal stopped down, as real ones are.
struct BladeRadius {
  enum class Kind { straight, multiple, length };
  Kind kind = Kind::straight;
  double times = 0.0;  ///< for `multiple`: of the opening's radius; negative bends inward
  Length length{};     ///< for `length`: in the entrance pupil; negative bends inward

  static BladeRadius straight() { return {}; }
  static BladeRadius round() { return multiple(1.0); }
  static BladeRadius multiple(double k) { return {Kind::multiple, k, {}}; }
  static BladeRadius of_length(Length l) { return {Kind::length, 0.0, l}; }
};

/// What the f-number's diameter D measures on a bladed opening. Light is what f-numbers mark, so
/// `area` (the outline has the area of a circle of diameter D) is the truth; `corners` (D is the
/// circle through the corners) is for renderers that count that way.
enum class SizeBy { area, corners };

/// The opening: number of blades, how they are turned and bent.
struct Iris {
  int blades = 0;    ///< 0 = round; else 3 … 32
  Angle rotation{};  ///< counter-clockwise, looking into the scene; 0 = a corner at the top
  BladeRadius blade_radius{};
  SizeBy size_by = SizeBy::area;
};

}  // namespace jolly_iris
