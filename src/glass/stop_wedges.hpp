// The opening's outline as wedges around its middle: what cuts pieces of light along it. Outlines
// are star-shaped about the middle: blades bent inward, too.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>
#include <vector>

#include "jolly_iris/glass/traced.hpp"
#include "jolly_iris/optics/lens_sampler.hpp"

namespace jolly_iris {

class StopWedges {
 public:
  /// a x + b y + c ≥ 0: on the inside of it.
  struct Line {
    double a = 0.0, b = 0.0, c = 0.0;
    double side(Point2 p) const { return a * p.x + b * p.y + c; }
  };
  struct Wedge {
    std::array<Line, 3> sides{};  ///< towards the outline, its begin and its end
  };
  enum class Where { inside, outside, across };

  explicit StopWedges(const TracedGlass& glass) {
    std::vector<std::array<double, 2>> outline = glass.outline();
    if (outline.empty()) {
      round_ = true;
      // As many sides as no chord can be told from the circle's arc.
      constexpr int sides = 128;
      const double step = 2.0 * std::numbers::pi / sides;
      const double r = glass.opening().mm();
      for (int k = 0; k < sides; ++k) {
        outline.push_back({r * std::cos(k * step), r * std::sin(k * step)});
      }
    }
    inside_ = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < outline.size(); ++i) {
      const auto& p = outline[i];
      const auto& q = outline[(i + 1) % outline.size()];
      const double length = std::hypot(q[0] - p[0], q[1] - p[1]);
      if (!(length > 0.0)) continue;
      const Line edge{-(q[1] - p[1]) / length, (q[0] - p[0]) / length,
                      (p[0] * (q[1] - p[1]) - p[1] * (q[0] - p[0])) / length};
      inside_ = std::min(inside_, edge.c);
      outside_ = std::max(outside_, std::hypot(p[0], p[1]));
      // On the left of the way out to p, on the right of that to q.
      wedges_.push_back({{edge, Line{-p[1], p[0], 0.0}, Line{q[1], -q[0], 0.0}}});
      begins_.push_back(std::atan2(p[1], p[0]));
    }
  }

  /// How far out a place is, against the outline that way: up to 1 within.
  double outward(Point2 p) const {
    const double r = std::hypot(p.x, p.y);
    if (round_ || !(r > 0.0)) return r / outside_;
    const Line& edge = wedges_[wedge_at(std::atan2(p.y, p.x))].sides[0];
    // Along the way out, the edge's line is met where its side is 0.
    const double inward = edge.c - edge.side(p);
    return inward / edge.c;
  }

  /// Of a triangle, as far as that is plain.
  Where where(const std::array<Point2, 3>& t) const {
    double most = 0.0;
    for (const Point2& p : t) most = std::max(most, p.x * p.x + p.y * p.y);
    if (most <= inside_ * inside_) return Where::inside;
    // All of it beyond a line that the outline does not reach.
    for (std::size_t i = 0; i < 3; ++i) {
      const Point2& a = t[i];
      const Point2& b = t[(i + 1) % 3];
      const Point2& c = t[(i + 2) % 3];
      const double nx = b.y - a.y;
      const double ny = a.x - b.x;
      const double at = nx * a.x + ny * a.y;
      const double third = nx * c.x + ny * c.y;
      const double reach = outside_ * std::hypot(nx, ny);
      if ((at > reach && third > reach) || (at < -reach && third < -reach)) return Where::outside;
    }
    return Where::across;
  }

  /// Whether it is a circle: then `within` cuts as well as wedges do, at once.
  bool round() const { return round_; }
  double radius() const { return outside_; }
  /// Of a circle: ≥ 0 inside.
  double within(Point2 p) const { return outside_ * outside_ - p.x * p.x - p.y * p.y; }

  /// Calls `with` for each wedge that a triangle may lie in.
  template <class With>
  void over(const std::array<Point2, 3>& t, const With& with) const {
    // Angles from the first corner's: a triangle that holds the middle has them all.
    const double first = std::atan2(t[0].y, t[0].x);
    double low = 0.0;
    double high = 0.0;
    bool around = false;
    for (std::size_t i = 1; i < 3; ++i) {
      const double a = std::remainder(std::atan2(t[i].y, t[i].x) - first, 2.0 * std::numbers::pi);
      low = std::min(low, a);
      high = std::max(high, a);
      around = around || std::abs(a) > 0.5 * std::numbers::pi;
    }
    const std::size_t n = wedges_.size();
    std::size_t k = around ? 0 : wedge_at(first + low);
    for (std::size_t seen = 0; seen < n; ++seen, k = (k + 1) % n) {
      if (!around && seen > 0 &&
          std::remainder(begins_[k] - first, 2.0 * std::numbers::pi) > high) {
        break;
      }
      with(wedges_[k]);
    }
  }

 private:
  // Counter-clockwise, so that begins go up once around.
  std::size_t wedge_at(double angle) const {
    const double a = std::remainder(angle - begins_[0], 2.0 * std::numbers::pi);
    const double from = a < 0.0 ? a + 2.0 * std::numbers::pi : a;
    std::size_t low = 0;
    std::size_t high = begins_.size();
    while (high - low > 1) {
      const std::size_t middle = (low + high) / 2;
      const double b = std::remainder(begins_[middle] - begins_[0], 2.0 * std::numbers::pi);
      ((b < 0.0 ? b + 2.0 * std::numbers::pi : b) <= from ? low : high) = middle;
    }
    return low;
  }

  bool round_ = false;
  std::vector<Wedge> wedges_{};
  std::vector<double> begins_{};
  double inside_ = 0.0;
  double outside_ = 0.0;
};

}  // namespace jolly_iris
