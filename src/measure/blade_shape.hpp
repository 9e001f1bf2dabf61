// The outline of an iris of even blades as a radius by direction, in closed form, so that fits can
// ask it a million times. The area is that of the unit circle.
#pragma once

#include <array>
#include <cmath>
#include <cstddef>
#include <cstdint>

namespace jolly_iris::measuring {

/// Blades' edges are arcs of curvature q / m through the middle of each edge at distance m. In
/// direction φ from that middle, the outline is at
///
///   r = m (2 − q) / ((1 − q) cos φ + √((1 − q)² cos² φ + q (2 − q)))
///
/// (a ray met with a circle), which is 1 for q = 1 and a polygon for q = 0.
class BladeShape {
 public:
  /// A circle.
  BladeShape() = default;
  /// @param blades 0 (round) or ≥ 3
  /// @param curvature opening radius / blade radius, −0.5 … 1: 1 is round
  /// @param rotation counter-clockwise, radians; 0 has a corner at the top
  BladeShape(int blades, double curvature, double rotation);

  /// Distance of the outline in a direction (radians, counter-clockwise from the right).
  double radius(double direction) const { return outline(direction).radius; }
  /// The same, and how it changes with direction.
  struct Outline {
    double radius = 1.0;
    double slope = 0.0;
  };
  Outline outline(double direction) const {
    if (round()) return {};
    const double turns = (direction - first_) * blades_a_radian_;
    double part = turns - static_cast<double>(static_cast<std::int64_t>(turns));
    if (part < 0.0) part += 1.0;
    const double off = part - 0.5;  // of a blade, from its middle
    const double at = std::abs(off) * (2.0 * cells);
    const auto i = static_cast<std::size_t>(at);
    const double step = table_[i + 1] - table_[i];
    return {table_[i] + (at - static_cast<double>(i)) * step,
            off < 0.0 ? -step * cells_a_radian_ : step * cells_a_radian_};
  }
  /// Radians to the nearest corner in that direction; not for a round one.
  double from_corner(double direction) const {
    const double turns = (direction - first_) * blades_a_radian_;
    return std::abs(turns - std::round(turns)) / blades_a_radian_;
  }
  /// The same blades with a corner elsewhere; `rotation` as above.
  BladeShape turned_to(double rotation) const;
  /// The outline as a soft edge shows it: smoothed along itself. (Where light falls to a half, an
  /// edge blurred by a bell is where the edge's own mean under that bell is.)
  /// @param blur the bell's deviation, radians
  BladeShape smoothed(double blur) const;

  bool round() const { return blades_ == 0 || q_ == 1.0; }

 private:
  double exact_radius(double from_middle) const;

  static constexpr int cells =
      160;  // from a blade's middle to its corner, finer than edges round it
  std::array<double, cells + 2> table_{};
  double cells_a_radian_ = 0.0;
  double first_ = 0.0;  // direction of a corner
  double blades_a_radian_ = 0.0;
  int blades_ = 0;
  double q_ = 1.0;
  double m_ = 1.0;
};

}  // namespace jolly_iris::measuring
