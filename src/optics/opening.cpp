#include "jolly_iris/opening.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/errors.hpp"

namespace jolly_iris {

namespace {

constexpr double pi = std::numbers::pi;
// Flatter than this, an edge is a straight line to far below a pixel, and the arc's closed forms
// would subtract nearly equal numbers.
constexpr double flattest_arc = 2000.0;
constexpr double smallest_corner = 5.0 * pi / 180.0;

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
    const double most = std::abs(edge) * std::sin(std::min(widest, pi / 2.0)) / std::sin(pi / n);
    constexpr int steps = 1024;
    int i = 1;
    while (i <= steps && outline_area(n, most * i / steps, edge) < pi) ++i;
    if (i > steps) refuse_crossing(iris, edge);
    high = most * i / steps;
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
        "the blade radius is zero; give a length, a multiple such as 1.6 x, round or straight",
        "lens.iris.blade_radius");
  }
  return std::abs(edge) > flattest_arc ? 0.0 : edge;
}

}  // namespace

Opening::Opening(const Iris& iris, Length radius) {
  if (iris.blades == 0) return;
  if (iris.blades < 3 || iris.blades > 32) {
    throw OpticsError(
        fmt::format("an iris has no {} blades; use 0 (round) or 3 to 32", iris.blades),
        "lens.iris.blades");
  }
  if (!(radius.mm() > 0.0)) {
    throw OpticsError(
        fmt::format("the aperture radius is {:g} mm; it must be greater than zero", radius.mm()),
        "take.stop");
  }
  const double edge = edge_in_radii(iris, radius);
  if (edge > 0.0 && edge <= 1.0) return;  // round by definition
  blades_ = iris.blades;
  half_sector_ = pi / blades_;
  for (int i = 0; i < blades_; ++i) {
    const double axis = pi / 2.0 + iris.rotation.radians() + half_sector_ * (2.0 * i + 1.0);
    axes_[static_cast<std::size_t>(i)] = {std::cos(axis), std::sin(axis)};
  }
  corner_radius_ = iris.size_by == SizeBy::area ? corner_for_area(iris, edge) : 1.0;
  if (corner_angle(blades_, corner_radius_, edge) <= smallest_corner) refuse_crossing(iris, edge);
  const double half_chord = corner_radius_ * std::sin(half_sector_);
  const double apothem = corner_radius_ * std::cos(half_sector_);
  if (edge == 0.0) {
    arc_centre_ = apothem;
    arc_half_ = half_chord;
    return;
  }
  bend_ = std::copysign(1.0, edge);
  arc_radius_ = std::abs(edge);
  arc_half_ = std::asin(std::min(1.0, half_chord / arc_radius_));
  arc_centre_ = apothem - bend_ * arc_radius_ * std::cos(arc_half_);
}

// Twice the area swept from the centre along half an edge, up to parameter t.
double Opening::swept(double t) const {
  if (bend_ == 0.0) return arc_centre_ * t;
  return arc_radius_ * (arc_centre_ * std::sin(t) + bend_ * arc_radius_ * t);
}

Point2 Opening::edge_point(int blade, double t) const {
  const double along = bend_ == 0.0 ? arc_centre_ : arc_centre_ + bend_ * arc_radius_ * std::cos(t);
  const double across = bend_ == 0.0 ? t : arc_radius_ * std::sin(t);
  const auto [c, s] = axes_[static_cast<std::size_t>(blade)];
  return {along * c - across * s, along * s + across * c};
}

Point2 Opening::sample(double u, double v) const {
  if (blades_ == 0) {
    // Concentric map: Shirley & Chiu, "A low distortion map between disk and square" (1997).
    const double a = 2.0 * u - 1.0;
    const double b = 2.0 * v - 1.0;
    if (a == 0.0 && b == 0.0) return {};
    const bool wide = std::abs(a) > std::abs(b);
    const double r = wide ? a : b;
    const double phi = wide ? pi / 4.0 * (b / a) : pi / 2.0 - pi / 4.0 * (a / b);
    return {r * std::cos(phi), r * std::sin(phi)};
  }
  const double scaled = u * blades_;
  const int blade = std::min(static_cast<int>(scaled), blades_ - 1);
  const double side = 2.0 * (scaled - blade) - 1.0;  // −1 … 1 along the edge, by area
  const double wanted = std::abs(side) * swept(arc_half_);
  double t = std::abs(side) * arc_half_;
  if (bend_ != 0.0) {
    for (int i = 0; i < 6; ++i) {
      const double slope = arc_radius_ * (arc_centre_ * std::cos(t) + bend_ * arc_radius_);
      const double step = (swept(t) - wanted) / slope;
      t = std::clamp(t - step, 0.0, arc_half_);
      if (std::abs(step) < 1e-14) break;
    }
  }
  const Point2 edge = edge_point(blade, std::copysign(t, side));
  const double r = std::sqrt(v);
  return {edge.x * r, edge.y * r};
}

std::vector<Point2> Opening::outline(double tolerance) const {
  // A chord of angle a on radius R stands off the arc by R (1 − cos(a/2)).
  const auto pieces = [tolerance](double radius, double angle) {
    const double step = 2.0 * std::acos(1.0 - std::min(1.0, tolerance / radius));
    return std::max(1, static_cast<int>(std::ceil(angle / step)));
  };
  std::vector<Point2> points;
  if (blades_ == 0) {
    const int n = std::max(12, pieces(1.0, 2.0 * pi));
    // Corners slightly outside, so that the polygon has the circle's area.
    const double r = std::sqrt(2.0 * pi / (n * std::sin(2.0 * pi / n)));
    for (int i = 0; i < n; ++i) {
      points.push_back({r * std::cos(2.0 * pi * i / n), r * std::sin(2.0 * pi * i / n)});
    }
    return points;
  }
  const int n = bend_ == 0.0 ? 1 : pieces(arc_radius_, 2.0 * arc_half_);
  for (int blade = 0; blade < blades_; ++blade) {
    for (int i = 0; i < n; ++i) {
      points.push_back(edge_point(blade, arc_half_ * (2.0 * i / n - 1.0)));
    }
  }
  return points;
}

double Opening::area() const { return blades_ == 0 ? pi : blades_ * swept(arc_half_); }

}  // namespace jolly_iris
