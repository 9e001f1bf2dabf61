#include "free_outline.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

constexpr std::size_t max_corners = 2000;
constexpr const char* outline_key = "lens.iris.outline";

double turn(Point2 a, Point2 b, Point2 c) {
  return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
}

bool between(double a, double b, double v) { return std::min(a, b) <= v && v <= std::max(a, b); }

// Whether c, known to lie on the line through a and b, lies on the side between them.
bool on_side(Point2 a, Point2 b, Point2 c) {
  return between(a.x, b.x, c.x) && between(a.y, b.y, c.y);
}

bool meet(Point2 a, Point2 b, Point2 c, Point2 d) {
  const double abc = turn(a, b, c);
  const double abd = turn(a, b, d);
  const double cda = turn(c, d, a);
  const double cdb = turn(c, d, b);
  if (((abc > 0.0) != (abd > 0.0)) && ((cda > 0.0) != (cdb > 0.0)) && abc != 0.0 && abd != 0.0 &&
      cda != 0.0 && cdb != 0.0) {
    return true;
  }
  return (abc == 0.0 && on_side(a, b, c)) || (abd == 0.0 && on_side(a, b, d)) ||
         (cda == 0.0 && on_side(c, d, a)) || (cdb == 0.0 && on_side(c, d, b));
}

void require_simple(const Contour& p) {
  const std::size_t n = p.size();
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t j = i + 2; j < n; ++j) {
      if (i == 0 && j == n - 1) continue;  // neighbours
      if (!meet(p[i], p[i + 1], p[j], p[(j + 1) % n])) continue;
      throw OpticsError(
          fmt::format("the outline crosses or touches itself: the side from corner {} meets the "
                      "side from corner {}; draw it as one simple closed line",
                      i + 1, j + 1),
          outline_key);
    }
  }
}

Contour without_repeats(const std::vector<Point2>& drawn) {
  Contour p;
  for (const Point2& q : drawn) {
    if (!std::isfinite(q.x) || !std::isfinite(q.y)) {
      throw OpticsError("a corner of the outline is not finite", outline_key);
    }
    if (p.empty() || q.x != p.back().x || q.y != p.back().y) p.push_back(q);
  }
  while (p.size() > 1 && p.front().x == p.back().x && p.front().y == p.back().y) p.pop_back();
  return p;
}

bool within(const std::array<Point2, 3>& t, Point2 p) {
  return turn(t[0], t[1], p) >= 0.0 && turn(t[1], t[2], p) >= 0.0 && turn(t[2], t[0], p) >= 0.0;
}

}  // namespace

Contour checked_outline(const std::vector<Point2>& drawn) {
  Contour p = without_repeats(drawn);
  if (p.size() < 3 || p.size() > max_corners) {
    throw OpticsError(
        fmt::format("the outline has {} corners; it takes 3 to {}", p.size(), max_corners),
        outline_key);
  }
  // About its own middle and size first, so that nothing below depends on the drawing's unit.
  Point2 low = p[0];
  Point2 high = p[0];
  for (const Point2& q : p) {
    low = {std::min(low.x, q.x), std::min(low.y, q.y)};
    high = {std::max(high.x, q.x), std::max(high.y, q.y)};
  }
  const double size = std::max(high.x - low.x, high.y - low.y);
  if (!(size > 0.0) || !std::isfinite(size)) {
    throw OpticsError("the outline has no size: all its corners are one point", outline_key);
  }
  for (Point2& q : p) {
    q = {(q.x - 0.5 * low.x - 0.5 * high.x) / size, (q.y - 0.5 * low.y - 0.5 * high.y) / size};
  }
  require_simple(p);
  double twice = signed_area_twice(p);
  if (std::abs(twice) < 1e-4) {
    throw OpticsError("the outline holds no area to speak of: it is a line", outline_key);
  }
  if (twice < 0.0) {
    std::reverse(p.begin(), p.end());
    twice = -twice;
  }
  Point2 centre;
  for (std::size_t i = 0; i < p.size(); ++i) {
    const Point2 a = p[i];
    const Point2 b = p[(i + 1) % p.size()];
    const double w = (a.x * b.y - a.y * b.x) / (3.0 * twice);
    centre = {centre.x + w * (a.x + b.x), centre.y + w * (a.y + b.y)};
  }
  for (Point2& q : p) q = {q.x - centre.x, q.y - centre.y};
  return p;
}

std::vector<std::array<Point2, 3>> triangles_of(const Contour& outline) {
  Contour left = outline;
  std::vector<std::array<Point2, 3>> triangles;
  std::size_t i = 0;
  std::size_t idle = 0;
  while (left.size() > 3) {
    const std::size_t n = left.size();
    i %= n;
    const std::array<Point2, 3> ear{left[(i + n - 1) % n], left[i], left[(i + 1) % n]};
    bool clip = turn(ear[0], ear[1], ear[2]) > 0.0;
    for (std::size_t j = 2; clip && j + 1 < n; ++j) {
      const Point2 p = left[(i + j) % n];
      // A corner in one place with one of the ear's own does not lie within it.
      const bool own =
          std::any_of(ear.begin(), ear.end(), [&](Point2 e) { return e.x == p.x && e.y == p.y; });
      clip = own || !within(ear, p);
    }
    // Corners on a straight line are no ears and no area; after a whole idle round one of them
    // goes.
    const bool flat = turn(ear[0], ear[1], ear[2]) == 0.0;
    if (clip || flat || idle > n) {
      if (clip) triangles.push_back(ear);
      left.erase(left.begin() + static_cast<std::ptrdiff_t>(i));
      idle = 0;
      if (i > 0) --i;
    } else {
      ++i;
      ++idle;
    }
  }
  if (turn(left[0], left[1], left[2]) > 0.0) triangles.push_back({left[0], left[1], left[2]});
  return triangles;
}

}  // namespace jolly_iris
