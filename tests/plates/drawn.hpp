// Plates drawn in closed form: discs of lamps out of focus on a textured ground, each pixel the
// exact mean over its square. Made to judge measuring by: it shares no code with the tracer, the
// sampler of the lens or the fits, only the words for what an iris is.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <numbers>
#include <vector>

#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::plates {

struct Point {
  double x = 0.0;
  double y = 0.0;
};
using Outline = std::vector<Point>;  // closed, counter-clockwise with y up

/// An opening whose area is that of the unit circle.
struct Opening {
  int blades = 0;           ///< 0: round
  double curvature = 1.0;   ///< 1 / a blade's radius: 1 is round, 0 straight, < 0 bent inward
  double rotation_deg = 0;  ///< counter-clockwise as seen into the scene; 0 has a corner at the top
  bool round() const { return blades == 0 || curvature >= 1.0; }
};

/// What lies between a chord and an arc of a radius over it.
inline double segment_area(double half_chord, double radius) {
  const double half = std::asin(std::min(1.0, half_chord / radius));
  return radius * radius * (half - std::sin(half) * std::cos(half));
}

/// The circle through the corners of an opening: polygon and segments together have the area π.
inline double corner_radius(const Opening& o) {
  const double turn = std::numbers::pi / o.blades;
  const auto area = [&](double r) {
    const double polygon = o.blades * r * r * std::sin(turn) * std::cos(turn);
    if (o.curvature == 0.0) return polygon;
    const double bow = segment_area(r * std::sin(turn), 1.0 / std::abs(o.curvature));
    return polygon + (o.curvature > 0.0 ? 1.0 : -1.0) * o.blades * bow;
  };
  double low = 0.5;
  double high = 2.5;
  for (int i = 0; i < 60; ++i) {
    const double middle = 0.5 * (low + high);
    (area(middle) < std::numbers::pi ? low : high) = middle;
  }
  return 0.5 * (low + high);
}

inline Outline outline_of(const Opening& o, int points_a_turn = 720) {
  using std::numbers::pi;
  Outline out;
  if (o.round()) {
    for (int i = 0; i < points_a_turn; ++i) {
      const double a = 2.0 * pi * i / points_a_turn;
      out.push_back({std::cos(a), std::sin(a)});
    }
    return out;
  }
  const double r = corner_radius(o);
  const double first = pi / 2.0 + o.rotation_deg * pi / 180.0;
  const int pieces = std::max(1, points_a_turn / o.blades);
  for (int blade = 0; blade < o.blades; ++blade) {
    const double a = first + 2.0 * pi * blade / o.blades;
    const double b = a + 2.0 * pi / o.blades;
    const Point from{r * std::cos(a), r * std::sin(a)};
    const Point to{r * std::cos(b), r * std::sin(b)};
    if (o.curvature == 0.0) {
      out.push_back(from);
      continue;
    }
    // The arc's middle lies on the line from the axis through the chord's middle.
    const double radius = 1.0 / std::abs(o.curvature);
    const double half = std::hypot(to.x - from.x, to.y - from.y) / 2.0;
    const double middle = 0.5 * (a + b);
    const double sign = o.curvature > 0.0 ? 1.0 : -1.0;
    const double out_by = r * std::cos(pi / o.blades) -
                          sign * std::sqrt(std::max(0.0, radius * radius - half * half));
    const Point centre{out_by * std::cos(middle), out_by * std::sin(middle)};
    const double begin = std::atan2(from.y - centre.y, from.x - centre.x);
    double turn = std::atan2(to.y - centre.y, to.x - centre.x) - begin;
    turn = std::remainder(turn, 2.0 * pi);
    for (int i = 0; i < pieces; ++i) {
      const double t = begin + turn * i / pieces;
      out.push_back({centre.x + radius * std::cos(t), centre.y + radius * std::sin(t)});
    }
  }
  return out;
}

/// What of an outline lies within a circle: the barrel's rim. Both are convex, so the outline is
/// cut by the circle's tangents (Sutherland and Hodgman, Reentrant Polygon Clipping, CACM 17,
/// 1974).
inline Outline within_circle(Outline out, Point centre, double radius) {
  constexpr int sides = 240;
  for (int i = 0; i < sides && !out.empty(); ++i) {
    const double a = 2.0 * std::numbers::pi * i / sides;
    const Point n{std::cos(a), std::sin(a)};
    const auto beyond = [&](const Point& p) {
      return (p.x - centre.x) * n.x + (p.y - centre.y) * n.y - radius;
    };
    Outline kept;
    for (std::size_t k = 0; k < out.size(); ++k) {
      const Point& p = out[k];
      const Point& q = out[(k + 1) % out.size()];
      const double u = beyond(p);
      const double v = beyond(q);
      if (u <= 0.0) kept.push_back(p);
      if ((u < 0.0) != (v < 0.0) && u != v) {
        const double t = u / (u - v);
        kept.push_back({p.x + t * (q.x - p.x), p.y + t * (q.y - p.y)});
      }
    }
    out = std::move(kept);
  }
  return out;
}

/// One channel of a picture, rows from the top.
struct Plane {
  int width = 0;
  int height = 0;
  std::vector<double> values{};
  Plane(int w, int h)
      : width(w),
        height(h),
        values(static_cast<std::size_t>(w) * static_cast<std::size_t>(h), 0.0) {}
  double& at(int x, int y) {
    return values[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                  static_cast<std::size_t>(x)];
  }
  double at(int x, int y) const { return const_cast<Plane*>(this)->at(x, y); }
};

/// Adds to each pixel how much of its square a polygon covers, times `value`. Exact: each side adds
/// what lies to the right of it, row by row, and a running sum turns that into areas.
class Coverage {
 public:
  Coverage(int width, int height) : width_(width), height_(height) {}

  /// @param polygon px, y down; either way round
  void add(const Outline& polygon, double value, Plane& to) {
    if (polygon.size() < 3) return;
    double top = 1e300;
    double bottom = -1e300;
    double twice = 0.0;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
      const Point& p = polygon[i];
      const Point& q = polygon[(i + 1) % polygon.size()];
      top = std::min(top, p.y);
      bottom = std::max(bottom, p.y);
      twice += p.x * q.y - q.x * p.y;
    }
    const int y0 = std::clamp(static_cast<int>(std::floor(top)), 0, height_);
    const int y1 = std::clamp(static_cast<int>(std::ceil(bottom)), 0, height_);
    const double sign = twice > 0.0 ? value : -value;
    std::vector<double> row(static_cast<std::size_t>(width_) + 2);
    for (int y = y0; y < y1; ++y) {
      std::fill(row.begin(), row.end(), 0.0);
      for (std::size_t i = 0; i < polygon.size(); ++i) {
        side(polygon[i], polygon[(i + 1) % polygon.size()], y, row);
      }
      double sum = 0.0;
      for (int x = 0; x < width_; ++x) {
        sum += row[static_cast<std::size_t>(x)];
        to.at(x, y) += sign * sum;
      }
    }
  }

 private:
  // The part of a side within a row, its cover of the pixels it crosses.
  void side(Point p, Point q, int y, std::vector<double>& row) const {
    const double low = std::max(static_cast<double>(y), std::min(p.y, q.y));
    const double high = std::min(y + 1.0, std::max(p.y, q.y));
    if (!(low < high)) return;
    const auto x_at = [&](double v) { return p.x + (q.x - p.x) * (v - p.y) / (q.y - p.y); };
    // Where the area counts as positive, sides that go down lie on the polygon's right.
    const double way = q.y > p.y ? -1.0 : 1.0;
    double a = std::clamp(x_at(low), 0.0, static_cast<double>(width_));
    double b = std::clamp(x_at(high), 0.0, static_cast<double>(width_));
    const double rise = high - low;
    if (a > b) std::swap(a, b);
    const int first = static_cast<int>(a);
    const int last = static_cast<int>(std::ceil(b)) - 1;
    if (last <= first) {
      // All within one pixel: a trapezium to its right.
      const double right = first + 1.0 - 0.5 * (a + b);
      put(row, first, way * rise * right);
      put(row, first + 1, way * rise * (1.0 - right));
      return;
    }
    // Of each column, the mean over it of how much of the rise lies to its left.
    double area_before = 0.0;
    for (int x = first; x <= last + 1; ++x) {
      const double left = std::clamp((x - a) / (b - a), 0.0, 1.0);
      const double right = std::clamp((x + 1.0 - a) / (b - a), 0.0, 1.0);
      const double u = std::clamp(a, static_cast<double>(x), x + 1.0);
      const double v = std::clamp(b, static_cast<double>(x), x + 1.0);
      const double area = 0.5 * (left + right) * (v - u) + right * (x + 1.0 - v);
      put(row, x, way * rise * (area - area_before));
      area_before = area;
    }
  }
  static void put(std::vector<double>& row, int x, double v) {
    if (x >= 0 && static_cast<std::size_t>(x) < row.size()) row[static_cast<std::size_t>(x)] += v;
  }
  int width_;
  int height_;
};

/// A rim of the barrel, as discs show it: a circle over the opening, its middle moved by so many
/// opening radii for each px that a disc behind the focus lies from the picture's middle.
struct BarrelRim {
  double radius = 1.2;
  double shift_a_px = 0.0;
};

struct Lamp {
  Point at{};                            ///< px from the left and the top
  double height_px = 20.0;               ///< of the circle (ellipse) of the opening's area
  bool in_front = false;                 ///< of the focus: the disc is turned
  std::array<double, 3> value{1, 1, 1};  ///< of its disc above the ground
  double own_px = 0.0;                   ///< diameter of its own sharp picture
};

struct PlateDrawing {
  PixelSize size{960, 540};
  Opening opening{};
  double squeeze = 1.0;  ///< discs are so many times as high as wide
  std::vector<BarrelRim> rims{};
  std::vector<Lamp> lamps{};
  double ground = 0.04;       ///< linear, its mean
  double contrast = 0.35;     ///< of the ground's texture
  std::uint32_t texture = 1;  ///< which
};

/// Places spread evenly over a disc of diameter 1.
inline std::vector<Point> spread_over_disc(int count) {
  std::vector<Point> out;
  for (int i = 0; i < count; ++i) {
    const double r = 0.5 * std::sqrt((i + 0.5) / count);
    const double a = i * std::numbers::pi * (3.0 - std::sqrt(5.0));
    out.push_back({r * std::cos(a), r * std::sin(a)});
  }
  return out;
}

/// The outline of one lamp's disc, px with y down.
inline Outline disc_outline(const PlateDrawing& plate, const Lamp& lamp) {
  Outline shape = outline_of(plate.opening);
  const double mx = lamp.at.x - 0.5 * plate.size.width;
  const double my = 0.5 * plate.size.height - lamp.at.y;
  for (const BarrelRim& rim : plate.rims) {
    // A rim in front of the pupil hides the outer side of what is behind the focus; seen from the
    // pupil its middle lies towards the picture's middle, in the opening's own upright picture.
    const double side = lamp.in_front ? 1.0 : -1.0;
    shape = within_circle(std::move(shape),
                          {side * rim.shift_a_px * mx, side * rim.shift_a_px * my}, rim.radius);
  }
  const double sign = lamp.in_front ? -1.0 : 1.0;
  for (Point& p : shape) {
    p = {lamp.at.x + sign * 0.5 * lamp.height_px / plate.squeeze * p.x,
         lamp.at.y - sign * 0.5 * lamp.height_px * p.y};
  }
  return shape;
}

/// Smooth noise of one scale, 0 … 1: values at whole places, blended.
inline double smooth_noise(std::uint32_t seed, double x, double y) {
  const auto value = [&](int i, int j) {
    std::uint32_t h = seed * 2246822519U + static_cast<std::uint32_t>(i) * 3266489917U +
                      static_cast<std::uint32_t>(j) * 668265263U;
    h ^= h >> 15U;
    h *= 2246822519U;
    h ^= h >> 13U;
    h *= 3266489917U;
    h ^= h >> 16U;
    return h / 4294967296.0;
  };
  const int i = static_cast<int>(std::floor(x));
  const int j = static_cast<int>(std::floor(y));
  const double u = x - i;
  const double v = y - j;
  const double s = u * u * (3.0 - 2.0 * u);
  const double t = v * v * (3.0 - 2.0 * v);
  const double top = value(i, j) + s * (value(i + 1, j) - value(i, j));
  const double low = value(i, j + 1) + s * (value(i + 1, j + 1) - value(i, j + 1));
  return top + t * (low - top);
}

/// Linear light, each pixel the mean over its square, nothing clipped, no noise.
inline Picture drawn(const PlateDrawing& plate) {
  const int w = plate.size.width;
  const int h = plate.size.height;
  std::array<Plane, 3> planes{Plane(w, h), Plane(w, h), Plane(w, h)};
  for (int y = 0; y < h; ++y) {
    for (int x = 0; x < w; ++x) {
      const double coarse = smooth_noise(plate.texture, x / 90.0, y / 90.0);
      const double fine = smooth_noise(plate.texture + 7U, x / 13.0, y / 13.0);
      const double tint = smooth_noise(plate.texture + 13U, x / 140.0, y / 140.0) - 0.5;
      const double v =
          plate.ground * std::exp(2.0 * plate.contrast * (0.7 * coarse + 0.3 * fine - 0.5));
      planes[0].at(x, y) = v * (1.0 + 0.3 * tint);
      planes[1].at(x, y) = v;
      planes[2].at(x, y) = v * (1.0 - 0.3 * tint);
    }
  }
  Coverage coverage(w, h);
  for (const Lamp& lamp : plate.lamps) {
    const Outline shape = disc_outline(plate, lamp);
    Plane disc(w, h);
    // A lamp of some size is many points.
    const int points = std::clamp(static_cast<int>(30.0 * lamp.own_px), 1, 90);
    for (const Point& p : spread_over_disc(points)) {
      Outline moved = shape;
      if (points > 1) {
        for (Point& q : moved) {
          q.x += lamp.own_px * p.x;
          q.y += lamp.own_px * p.y;
        }
      }
      coverage.add(moved, 1.0 / points, disc);
    }
    for (std::size_t i = 0; i < disc.values.size(); ++i) {
      if (disc.values[i] == 0.0) continue;
      for (std::size_t c = 0; c < 3; ++c) planes[c].values[i] += lamp.value[c] * disc.values[i];
    }
  }
  Picture out(plate.size, {0.0F, 0.0F, 0.0F, 1.0F});
  for (std::size_t i = 0; i < out.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) {
      out.pixels()[i][c] = static_cast<float>(planes[c].values[i]);
    }
  }
  return out;
}

}  // namespace jolly_iris::plates
