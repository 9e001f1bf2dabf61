#include "jolly_iris/glass/aim.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/glass/paraxial.hpp"

namespace jolly_iris {

namespace {

constexpr int most_rounds = 60;
// How near to the point asked for, mm.
constexpr double near_enough = 1e-9;
// A difference for slopes, mm.
constexpr double nudge = 1e-4;

using Point = std::array<double, 2>;

bool from_film(const TracedGlass& glass, const RaySource& from) {
  return !from.parallel && from.at[2] > glass.surfaces().back().z;
}

GlassRay through(const RaySource& from, double plane, const Point& p) {
  if (from.parallel) {
    const double length = std::hypot(from.at[0], from.at[1], from.at[2]);
    return {{p[0], p[1], plane}, {from.at[0] / length, from.at[1] / length, from.at[2] / length}};
  }
  const std::array<double, 3> d{p[0] - from.at[0], p[1] - from.at[1], plane - from.at[2]};
  const double length = std::hypot(d[0], d[1], d[2]);
  return {from.at, {d[0] / length, d[1] / length, d[2] / length}};
}

// Where the paraxial pupil of one meridian has it: in the plane, for the height in the stop.
double expected(const TracedGlass& glass, const RaySource& from, Meridian meridian, double plane,
                double height) {
  const std::size_t axis = meridian == Meridian::across ? 0 : 1;
  if (from_film(glass, from)) {
    // Backwards through the rear part: y_last = d y_stop − b n u_stop …, by its inverse.
    const RayMatrix m = matrix_from_stop(glass, meridian);
    // From the film point (y0, distance l) to y_last = y: slope u = (y − y0) / (z_last − z_film).
    // y_stop = d y − b u, with u along +z behind the last surface.
    const double reach = plane - from.at[2];  // negative
    const double at = from.at[axis];
    // y_stop = d y − b (at − y) / (−reach)
    const double scale = m.d + m.b / -reach;
    return std::abs(scale) > 1e-12 ? (height + m.b * at / -reach) / scale : 0.0;
  }
  const RayMatrix m = matrix_to_stop(glass, meridian);
  if (from.parallel) {
    const double slope = from.at[axis] / from.at[2];
    return std::abs(m.a) > 1e-12 ? (height - m.b * slope) / m.a : 0.0;
  }
  const double reach = plane - from.at[2];
  // y_stop = a y + b (y − at) / reach
  const double scale = m.a + m.b / reach;
  return std::abs(scale) > 1e-12 ? (height + m.b * from.at[axis] / reach) / scale : 0.0;
}

}  // namespace

double aiming_plane(const TracedGlass& glass, const RaySource& from) {
  return from_film(glass, from) ? glass.surfaces().back().z : glass.surfaces().front().z;
}

std::optional<GlassRay> aimed(const TracedGlass& glass, const RaySource& from, const Point& stop,
                              const std::optional<Point>& guess) {
  const double plane = aiming_plane(glass, from);
  const bool back = from_film(glass, from);
  const auto off_at = [&](const Point& p) -> std::optional<Point> {
    const GlassRay ray = through(from, plane, p);
    const GlassWay way = back ? glass.film_to_stop(ray, false) : glass.scene_to_stop(ray, false);
    if (way.end != RayEnd::passed) return std::nullopt;
    return Point{way.ray.at[0] - stop[0], way.ray.at[1] - stop[1]};
  };
  Point p = guess ? *guess
                  : Point{expected(glass, from, Meridian::across, plane, stop[0]),
                          expected(glass, from, Meridian::up, plane, stop[1])};
  std::optional<Point> off = off_at(p);
  // A guess beyond the glass: nearer to the axis until a ray is there.
  for (int i = 0; i < 12 && !off; ++i) {
    p = {0.8 * p[0], 0.8 * p[1]};
    off = off_at(p);
  }
  for (int round = 0; off && round < most_rounds; ++round) {
    const double now = std::hypot((*off)[0], (*off)[1]);
    if (now < near_enough) return through(from, plane, p);
    const auto right = off_at({p[0] + nudge, p[1]});
    const auto above = off_at({p[0], p[1] + nudge});
    if (!right || !above) return std::nullopt;
    const double a = ((*right)[0] - (*off)[0]) / nudge;
    const double b = ((*above)[0] - (*off)[0]) / nudge;
    const double c = ((*right)[1] - (*off)[1]) / nudge;
    const double d = ((*above)[1] - (*off)[1]) / nudge;
    const double det = a * d - b * c;
    if (!(std::abs(det) > 1e-12)) return std::nullopt;
    const Point step{(-d * (*off)[0] + b * (*off)[1]) / det, (c * (*off)[0] - a * (*off)[1]) / det};
    // As far as it becomes better.
    double share = 1.0;
    bool better = false;
    for (int i = 0; i < 20 && !better; ++i, share *= 0.5) {
      const Point next{p[0] + share * step[0], p[1] + share * step[1]};
      const auto there = off_at(next);
      if (!there || !(std::hypot((*there)[0], (*there)[1]) < now)) continue;
      p = next;
      off = there;
      better = true;
    }
    if (!better)
      return now < 1e3 * near_enough ? std::optional(through(from, plane, p)) : std::nullopt;
  }
  return std::nullopt;
}

}  // namespace jolly_iris
