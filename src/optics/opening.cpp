#include "jolly_iris/optics/opening.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "free_outline.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "seeded.hpp"

namespace jolly_iris {

namespace {

using std::numbers::pi;
// Flatter than this, an edge is a straight line to far below a pixel, and the arc's closed forms
// would subtract nearly equal numbers.
constexpr double flattest_arc = 2000.0;
constexpr double smallest_corner = 5.0 * pi / 180.0;
constexpr double max_uneven = 0.2;
constexpr double max_blocked = 0.95;

// Interior angle of the outline at a corner, for corners at radius `corner` and edges of signed
// radius `edge` (0: straight).
double corner_angle(int blades, double corner, double edge) {
  const double polygon = pi - 2.0 * pi / blades;
  if (edge == 0.0) return polygon;
  const double half_chord = corner * std::sin(pi / blades);
  const double lean = std::asin(std::min(1.0, half_chord / std::abs(edge)));
  return polygon + std::copysign(2.0 * lean, edge);
}

// Area of the polygon plus (or minus) the circular segments its edges bulge by.
double outline_area(int blades, double corner, double edge) {
  const double half = pi / blades;
  const double polygon = blades * corner * corner * std::sin(half) * std::cos(half);
  if (edge == 0.0) return polygon;
  const double r = std::abs(edge);
  const double lean = std::asin(std::min(1.0, corner * std::sin(half) / r));
  const double segment = r * r * (lean - std::sin(lean) * std::cos(lean));
  return polygon + std::copysign(blades * segment, edge);
}

[[noreturn]] void refuse_crossing(const Iris& iris, double edge) {
  throw OpticsError(
      fmt::format(
          "{} blades bent inward with a blade radius of {:.3g} × the opening's radius would "
          "cross each other; bend them less (a larger negative radius) or use more blades",
          iris.blades, edge),
      "lens.iris.blade_radius");
}

// The corner radius that gives the outline the area of the unit circle.
double corner_for_area(const Iris& iris, double edge) {
  const int n = iris.blades;
  double low = 0.0;
  double high = 0.0;
  if (edge > 0.0) {
    low = 1.0;    // corners inside the unit circle cannot hold its area …
    high = edge;  // … and with corners at the edge's own radius the outline is that circle
  } else if (edge == 0.0) {
    return std::sqrt(pi / outline_area(n, 1.0, 0.0));
  } else {
    low = 0.0;
    const double widest = (pi - 2.0 * pi / n - smallest_corner) / 2.0;
    if (widest <= 0.0) refuse_crossing(iris, edge);
    // The area first grows with the corner radius; past its peak the segments eat it up. The
    // smallest corner radius that holds the area is the opening a real iris would have.
    const double max = std::abs(edge) * std::sin(std::min(widest, pi / 2.0)) / std::sin(pi / n);
    constexpr int steps = 1024;
    int i = 1;
    while (i <= steps && outline_area(n, max * i / steps, edge) < pi) ++i;
    if (i > steps) refuse_crossing(iris, edge);
    high = max * i / steps;
  }
  for (int i = 0; i < 200; ++i) {
    const double middle = 0.5 * (low + high);
    (outline_area(n, middle, edge) < pi ? low : high) = middle;
  }
  return 0.5 * (low + high);
}

double edge_in_radii(const Iris& iris, Length radius) {
  double edge = 0.0;
  switch (iris.blade_radius.kind) {
    case BladeRadius::Kind::straight:
      return 0.0;
    case BladeRadius::Kind::multiple:
      edge = iris.blade_radius.times;
      break;
    case BladeRadius::Kind::length:
      edge = iris.blade_radius.length / radius;
      break;
  }
  if (!std::isfinite(edge) || edge == 0.0) {
    throw OpticsError(
        "the blade radius is zero; give a length, a multiple such as 1.5 x, round or straight",
        "lens.iris.blade_radius");
  }
  return std::abs(edge) > flattest_arc ? 0.0 : edge;
}

double cross(Point2 a, Point2 b) { return a.x * b.y - a.y * b.x; }

// The edge of every blade as a circle (or a line) before they are met at corners.
struct Blade {
  Point2 axis{};        // direction of its middle
  double centre = 0.0;  // along the axis; of a straight one, how far out it is
};

// Where two neighbouring blades meet, near where even blades would.
Point2 meeting(const Blade& a, const Blade& b, double radius, Point2 nominal) {
  if (radius == 0.0) {
    const double det = cross(a.axis, b.axis);
    return {(a.centre * b.axis.y - b.centre * a.axis.y) / det,
            (a.axis.x * b.centre - b.axis.x * a.centre) / det};
  }
  const Point2 p{a.axis.x * a.centre, a.axis.y * a.centre};
  const Point2 q{b.axis.x * b.centre, b.axis.y * b.centre};
  const Point2 half{0.5 * (q.x - p.x), 0.5 * (q.y - p.y)};
  const double d = std::hypot(half.x, half.y);
  const double h = std::sqrt(std::max(0.0, radius * radius - d * d));
  const auto at = [&](double side) {
    return Point2{p.x + half.x - side * half.y * h / d, p.y + half.y + side * half.x * h / d};
  };
  const auto far = [&](Point2 c) { return std::hypot(c.x - nominal.x, c.y - nominal.y); };
  return far(at(1.0)) < far(at(-1.0)) ? at(1.0) : at(-1.0);
}

}  // namespace

double signed_area_twice(const Contour& contour) {
  if (contour.empty()) return 0.0;
  double twice = 0.0;
  Point2 last = contour.back();
  for (const Point2& p : contour) {
    twice += cross(last, p);
    last = p;
  }
  return twice;
}

Point2 Opening::Edge::at(double t) const {
  if (radius == 0.0) return {from.x + t * (to.x - from.x), from.y + t * (to.y - from.y)};
  const double a = from_angle + t * (to_angle - from_angle);
  return {centre.x + radius * std::cos(a), centre.y + radius * std::sin(a)};
}

double Opening::Edge::swept(double t) const {
  if (radius == 0.0) return t * cross(from, to);
  const double a = from_angle + t * (to_angle - from_angle);
  return radius * (radius * (a - from_angle) + centre.x * (std::sin(a) - std::sin(from_angle)) -
                   centre.y * (std::cos(a) - std::cos(from_angle)));
}

Opening::Opening(const Iris& iris, Length radius) : area_(pi) {
  if (iris.blades != 0 && (iris.blades < 3 || iris.blades > 32)) {
    throw OpticsError(
        fmt::format("an iris has no {} blades; use 0 (round) or 3 to 32", iris.blades),
        "lens.iris.blades");
  }
  if (!(iris.uneven >= 0.0 && iris.uneven <= max_uneven)) {
    throw OpticsError(fmt::format("blades uneven by {:g} of the radius; they are by 0 (even) to "
                                  "{:g}",
                                  iris.uneven, max_uneven),
                      "lens.iris.uneven");
  }
  if (!iris.outline.empty()) {
    make_free(iris);
  } else if (iris.blades != 0) {
    if (!(radius.mm() > 0.0)) {
      throw OpticsError(
          fmt::format("the aperture radius is {:g} mm; it must be greater than zero", radius.mm()),
          "take.stop");
    }
    const double edge = edge_in_radii(iris, radius);
    if (!(edge > 0.0 && edge <= 1.0)) make_blades(iris, edge);  // else round by definition
  }
  block_middle(iris);
  fill_table();
}

void Opening::make_blades(const Iris& iris, double edge) {
  const int n = iris.blades;
  const double half = pi / n;
  const double corner = iris.size_by == SizeBy::area ? corner_for_area(iris, edge) : 1.0;
  if (corner_angle(n, corner, edge) <= smallest_corner) refuse_crossing(iris, edge);
  const double apothem = corner * std::cos(half);
  const double r = std::abs(edge);
  const double arc_half = edge == 0.0 ? 0.0 : std::asin(std::min(1.0, corner * std::sin(half) / r));
  const double centre =
      edge == 0.0 ? apothem : apothem - std::copysign(r * std::cos(arc_half), edge);
  const auto axis_of = [&](int i) {
    return pi / 2.0 + iris.rotation.radians() + half * (2.0 * i + 1.0);
  };
  std::vector<Blade> blades;
  Seeded random(iris.seed);
  for (int i = 0; i < n; ++i) {
    blades.push_back({{std::cos(axis_of(i)), std::sin(axis_of(i))},
                      centre + iris.uneven * (2.0 * random.next() - 1.0)});
  }
  std::vector<Point2> corners;  // the one before each blade
  for (int i = 0; i < n; ++i) {
    const double angle = axis_of(i) - half;
    const Point2 nominal{corner * std::cos(angle), corner * std::sin(angle)};
    corners.push_back(iris.uneven == 0.0
                          ? nominal
                          : meeting(blades[static_cast<std::size_t>((i + n - 1) % n)],
                                    blades[static_cast<std::size_t>(i)], r, nominal));
  }
  for (int i = 0; i < n; ++i) {
    const auto at = static_cast<std::size_t>(i);
    Edge e;
    e.from = corners[at];
    e.to = corners[(at + 1) % corners.size()];
    if (edge != 0.0) {
      e.radius = r;
      e.centre = {blades[at].axis.x * blades[at].centre, blades[at].axis.y * blades[at].centre};
      const double middle = edge > 0.0 ? axis_of(i) : axis_of(i) + pi;
      const auto angle = [&](Point2 p) {  // near the arc's middle
        const double a = std::atan2(p.y - e.centre.y, p.x - e.centre.x);
        return a - 2.0 * pi * std::round((a - middle) / (2.0 * pi));
      };
      e.from_angle = angle(e.from);
      e.to_angle = angle(e.to);
    }
    const double run = edge == 0.0 ? cross(blades[at].axis, {e.to.x - e.from.x, e.to.y - e.from.y})
                                   : std::copysign(1.0, edge) * (e.to_angle - e.from_angle);
    if (run <= 1e-6 || cross(e.from, e.to) <= 0.0) {
      throw OpticsError(fmt::format("{} blades uneven by {:g} of the radius leave one without an "
                                    "edge; make them less uneven",
                                    n, iris.uneven),
                        "lens.iris.uneven");
    }
    edges_.push_back(e);
  }
  equal_blades_ = iris.uneven == 0.0;
  area_ = 0.0;
  corner_radius_ = 0.0;
  for (const Edge& e : edges_) {
    area_ += 0.5 * e.swept(1.0);
    corner_radius_ = std::max(corner_radius_, std::hypot(e.from.x, e.from.y));
  }
  if (equal_blades_) return;
  // What unevenness took from the wanted size, or added to it.
  const double k = iris.size_by == SizeBy::area ? std::sqrt(pi / area_) : 1.0 / corner_radius_;
  for (Edge& e : edges_) {
    for (Point2* p : {&e.from, &e.to, &e.centre}) *p = {p->x * k, p->y * k};
    e.radius *= k;
  }
  area_ *= k * k;
  corner_radius_ *= k;
}

void Opening::make_free(const Iris& iris) {
  free_ = checked_outline(iris.outline);
  const double c = std::cos(iris.rotation.radians());
  const double s = std::sin(iris.rotation.radians());
  corner_radius_ = 0.0;
  for (const Point2& p : free_) corner_radius_ = std::max(corner_radius_, std::hypot(p.x, p.y));
  const double k = iris.size_by == SizeBy::area ? std::sqrt(2.0 * pi / signed_area_twice(free_))
                                                : 1.0 / corner_radius_;
  for (Point2& p : free_) p = {k * (p.x * c - p.y * s), k * (p.x * s + p.y * c)};
  corner_radius_ *= k;
  area_ = 0.5 * signed_area_twice(free_);
}

void Opening::block_middle(const Iris& iris) {
  hole_ = iris.obstruction;
  if (!(hole_ >= 0.0 && hole_ <= max_blocked)) {
    throw OpticsError(fmt::format("an obstruction of {:g} of the opening's diameter; it is 0 "
                                  "(none) to {:g}",
                                  hole_, max_blocked),
                      "lens.iris.obstruction");
  }
  if (hole_ == 0.0) return;
  const Contour edge = outline(1e-3);
  for (std::size_t i = 0; i < edge.size(); ++i) {
    const Point2 a = edge[i];
    const Point2 b = edge[(i + 1) % edge.size()];
    const Point2 d{b.x - a.x, b.y - a.y};
    const double t = std::clamp(-(a.x * d.x + a.y * d.y) / (d.x * d.x + d.y * d.y), 0.0, 1.0);
    if (std::hypot(a.x + t * d.x, a.y + t * d.y) > hole_) continue;
    throw OpticsError(
        fmt::format("an obstruction of {:g} of the opening's diameter reaches beyond its outline",
                    hole_),
        "lens.iris.obstruction");
  }
}

namespace {
// A chord of angle a on radius R stands off the arc by R (1 − cos(a/2)).
int pieces(double tolerance, double radius, double angle) {
  const double step = 2.0 * std::acos(1.0 - std::min(1.0, tolerance / radius));
  return std::max(1, static_cast<int>(std::ceil(std::abs(angle) / step)));
}

// Corners slightly outside, so that the polygon has the circle's area.
Contour circle(double radius, double tolerance) {
  const int n = std::max(12, pieces(tolerance, radius, 2.0 * pi));
  const double r = radius * std::sqrt(2.0 * pi / (n * std::sin(2.0 * pi / n)));
  Contour points;
  for (int i = 0; i < n; ++i) {
    points.push_back({r * std::cos(2.0 * pi * i / n), r * std::sin(2.0 * pi * i / n)});
  }
  return points;
}
}  // namespace

Contour Opening::outline(double tolerance) const {
  if (!free_.empty()) return free_;
  if (edges_.empty()) return circle(1.0, tolerance);
  Contour points;
  for (const Edge& e : edges_) {
    const int n = e.radius == 0.0 ? 1 : pieces(tolerance, e.radius, e.to_angle - e.from_angle);
    for (int i = 0; i < n; ++i) points.push_back(e.at(static_cast<double>(i) / n));
  }
  return points;
}

std::vector<Contour> Opening::contours(double tolerance) const {
  std::vector<Contour> all{outline(tolerance)};
  if (hole_ > 0.0) {
    all.push_back(circle(hole_, tolerance));
    std::reverse(all.back().begin(), all.back().end());
  }
  return all;
}

double Opening::open_area() const { return area_ - pi * hole_ * hole_; }

}  // namespace jolly_iris
