// How points in front of the camera come to lie on the paper of a plan.
#pragma once

#include <array>
#include <optional>
#include <vector>
#include "jolly_iris/optics/geometry.hpp"

#include "canvas.hpp"
#include "jolly_iris/drawing/plan.hpp"

namespace jolly_iris::drawing {

class PlanView {
 public:
  explicit PlanView(const Plan& plan);

  /// Camera space → metres ahead and aside (right from above, up from the side).
  Spot on_paper(const Vec3& p) const;
  /// A point of the world.
  Spot of_world(const Vec3& p) const;
  /// The place at axial distance z (metres) on one edge of the view: 0 left or bottom, 1 right or
  /// top; 0.5 the axis's own ray.
  Spot at_edge(double z, double edge) const;
  /// Where a subject stands; on the axis if only its distance is known.
  Spot of(const SubjectPlace& place) const;
  /// Height of the camera above the world's ground, from the side where it is known.
  std::optional<double> ground() const;

  static Spot in_panel(const PlanPanel& panel, const Spot& m, bool from_side);

 private:
  const Plan& plan_;
  Lean lean_{};
  std::array<Vec3, 3> rays_{};  // low edge, axis, high edge; z = −1
};

/// The outline around points, counter-clockwise (Andrew 1979).
std::vector<Spot> hull_of(std::vector<Spot> points);

}  // namespace jolly_iris::drawing
