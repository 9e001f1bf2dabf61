// The iris as an artist describes it: its outline, and how light spreads within it. The outline's
// exact shape and points spread over it are in opening.hpp, the light within it in
// opening_light.hpp.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/lens_sampler.hpp"  // Point2
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

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
  friend bool operator==(const BladeRadius&, const BladeRadius&) = default;
};

/// What the f-number's diameter D measures on a bladed opening. Light is what f-numbers mark, so
/// `area` (the outline has the area of a circle of diameter D) is the truth; `corners` (D is the
/// circle through the corners) is for renderers that count that way.
enum class SizeBy { area, corners };

/// A picture laid over the opening: how much light passes where, by colour. Rows from the top, as
/// seen looking into the scene. It spans the circle of diameter D, so it is 2 radii on a side.
struct OpeningPicture {
  int width = 0;
  int height = 0;
  std::vector<std::array<float, 3>> light{};  ///< width × height, finite, ≥ 0
};

/// The opening: its outline, then what changes the light within it. Nothing below the outline
/// changes how much light arrives in the middle of the picture: what it takes away is in the
/// T-number already.
struct Iris {
  int blades = 0;    ///< 0 = round; else 3 … 32
  Angle rotation{};  ///< counter-clockwise, looking into the scene; 0 = a corner at the top
  BladeRadius blade_radius{};
  SizeBy size_by = SizeBy::area;
  double uneven = 0.0;     ///< each blade in or out by up to this share of the radius, 0 … 0.2
  std::uint32_t seed = 1;  ///< of what is uneven, of dust and scratches
  /// A free outline in any unit, either way round; it takes the place of the blades. Its area's
  /// centre comes to lie on the axis.
  std::vector<Point2> outline{};
  std::string outline_file{};  ///< where it is read from: an SVG path

  double obstruction = 0.0;    ///< diameter in the middle that a mirror blocks, of D: 0 … 0.95
  double edge_falloff = 0.0;   ///< light at the edge against the middle, in stops, −8 … 8
  int rings = 0;               ///< from the middle to the edge, 0 … 64
  double ring_strength = 0.0;  ///< brightest against darkest part of a ring, in stops, 0 … 8
  int dust = 0;                ///< number of specks, 0 … 10000
  double dust_size = 0.03;     ///< of a speck, as a share of D, > 0 … 0.5
  int scratches = 0;           ///< 0 … 1000
  std::shared_ptr<const OpeningPicture> picture{};
  std::string picture_file{};  ///< where it is read from

  /// Whether the opening passes the same light everywhere.
  bool even() const {
    return edge_falloff == 0.0 && (rings == 0 || ring_strength == 0.0) && dust == 0 &&
           scratches == 0 && !picture;
  }
  friend bool operator==(const Iris&, const Iris&) = default;  ///< one picture is one object
};

}  // namespace jolly_iris
