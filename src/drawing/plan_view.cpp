#include "plan_view.hpp"

#include <algorithm>
#include <cmath>

namespace jolly_iris::drawing {

PlanView::PlanView(const Plan& plan) : plan_(plan), lean_(lean_of(plan.answer.place)) {
  const VirtualCamera& c = plan.answer.camera;
  const double w = c.pixels.width;
  const double h = c.pixels.height;
  // Of a rolled camera, the corners that reach farthest aside.
  rays_[1] = Vec3(0.0, 0.0, -1.0);
  rays_[0] = rays_[2] = rays_[1];
  double min = 1e300;
  double max = -1e300;
  for (const double x : {0.0, w}) {
    for (const double y : {0.0, h}) {
      const auto d = direction_of_pixel(c, x, y);
      const Vec3 ray(d[0], d[1], d[2]);
      const Spot p = on_paper(ray);
      const double aside = std::atan2(p[1], p[0]);
      if (aside < min) rays_[0] = ray;
      if (aside > max) rays_[2] = ray;
      min = std::min(min, aside);
      max = std::max(max, aside);
    }
  }
}

Spot PlanView::on_paper(const Vec3& p) const {
  // From above the paper holds the view axis and the level across it; from the side, the plumb.
  const Lean lean = plan_.from_side ? lean_ : Lean{Angle{}, lean_.roll};
  const auto d = levelled(lean, {p.x, p.y, p.z});
  return plan_.from_side ? Spot{-d[2], d[1]} : Spot{-d[2], d[0]};
}

Spot PlanView::of_world(const Vec3& p) const { return on_paper(plan_.answer.place.inverse() * p); }

Spot PlanView::at_edge(double z, double edge) const {
  const Vec3& ray = rays_[edge < 0.25 ? 0 : edge > 0.75 ? 2 : 1];
  return on_paper(ray * z);
}

Spot PlanView::of(const SubjectPlace& place) const {
  if (place.middle) return on_paper(*place.middle);
  return on_paper({0.0, 0.0, -place.axial.m()});
}

std::optional<double> PlanView::ground() const {
  const double height = plan_.answer.place.translation.y;
  if (!plan_.from_side || !(height > 0.0)) return std::nullopt;
  return -height;
}

Spot PlanView::in_panel(const PlanPanel& panel, const Spot& m, bool from_side) {
  const double aside = (m[1] - panel.aside_m) * panel.px_per_m;
  return {panel.box.x + (m[0] - panel.ahead_m) * panel.px_per_m,
          panel.box.y + 0.5 * panel.box.height + (from_side ? -aside : aside)};
}

std::vector<Spot> hull_of(std::vector<Spot> points) {
  std::sort(points.begin(), points.end());
  points.erase(std::unique(points.begin(), points.end()), points.end());
  if (points.size() < 3) return points;
  std::vector<Spot> hull;
  const auto left = [](const Spot& a, const Spot& b, const Spot& c) {
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) > 0.0;
  };
  for (int pass = 0; pass < 2; ++pass) {
    const std::size_t start = hull.size();
    for (const Spot& p : points) {
      while (hull.size() >= start + 2 && !left(hull[hull.size() - 2], hull.back(), p)) {
        hull.pop_back();
      }
      hull.push_back(p);
    }
    hull.pop_back();
    std::reverse(points.begin(), points.end());
  }
  return hull;
}

}  // namespace jolly_iris::drawing
