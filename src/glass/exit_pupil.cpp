#include "exit_pupil.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

#include "jolly_iris/glass/aim.hpp"

namespace jolly_iris {

namespace {

// Directions that light is asked in, along one side of the box.
constexpr int light_grid = 96;
// Points of the opening's rim by which the pupil is found.
constexpr int rim_points = 24;

}  // namespace

namespace {

// How far out in the last vertex's plane a ray may go that passes the last rim: a slanting one
// meets the plane farther out than the rim, where that lies behind or before it.
double last_reach(const TracedGlass& glass, const std::array<double, 3>& film) {
  const TracedSurface& last = glass.surfaces().back();
  const double clear = std::min(std::sqrt(last.clear_sq), 20.0 * std::abs(last.z));
  const double sag = sag_of(last, clear, clear);
  const double aside = std::isfinite(sag) ? std::abs(sag) : clear;
  return clear + 1.5 * aside * (std::hypot(film[0], film[1]) + clear) / std::abs(last.z);
}

// Where light of the opening's rim comes to in the last surface's plane; empty where a ray does
// not.
std::vector<std::array<double, 2>> rim_of(const TracedGlass& glass,
                                          const std::array<double, 3>& film) {
  const double widest = std::sqrt(glass.surfaces()[glass.stop()].clear_sq);
  const double r = std::min(widest, glass.farthest_open().mm());
  const double plane = glass.surfaces().back().z;
  std::vector<std::array<double, 2>> out;
  for (int k = 0; k < rim_points; ++k) {
    const double angle = 2.0 * std::numbers::pi * k / rim_points;
    const auto ray =
        aimed(glass, RaySource::point(film), {r * std::cos(angle), r * std::sin(angle)});
    if (!ray) return {};
    const double t = (plane - ray->at[2]) / ray->along[2];
    out.push_back({ray->at[0] + t * ray->along[0], ray->at[1] + t * ray->along[1]});
  }
  return out;
}

}  // namespace

ExitBox exit_box(const TracedGlass& glass, const std::array<double, 3>& film, double more) {
  const double reach = last_reach(glass, film);
  const auto rim = rim_of(glass, film);
  if (rim.empty()) return {{-reach, -reach}, {reach, reach}};
  ExitBox out{rim.front(), rim.front()};
  for (const auto& p : rim) {
    for (std::size_t i = 0; i < 2; ++i) {
      out.low[i] = std::min(out.low[i], p[i]);
      out.high[i] = std::max(out.high[i], p[i]);
    }
  }
  // Between the rim's points, and what else a bent pupil bulges by.
  for (std::size_t i = 0; i < 2; ++i) {
    const double aside = more * (out.high[i] - out.low[i]);
    out.low[i] = std::clamp(out.low[i] - aside, -reach, reach);
    out.high[i] = std::clamp(out.high[i] + aside, -reach, reach);
  }
  return out;
}

ExitEllipse exit_ellipse(const TracedGlass& glass, const std::array<double, 3>& film, double more) {
  const auto rim = rim_of(glass, film);
  if (rim.empty()) {
    const double reach = last_reach(glass, film);
    return {{0.0, 0.0}, {reach, reach}};
  }
  ExitBox box{rim.front(), rim.front()};
  for (const auto& p : rim) {
    for (std::size_t i = 0; i < 2; ++i) {
      box.low[i] = std::min(box.low[i], p[i]);
      box.high[i] = std::max(box.high[i], p[i]);
    }
  }
  ExitEllipse out;
  for (std::size_t i = 0; i < 2; ++i) {
    out.middle[i] = 0.5 * (box.low[i] + box.high[i]);
    out.half[i] = std::max(0.5 * (box.high[i] - box.low[i]), 1e-9);
  }
  // As large as it takes for all of the rim to lie within.
  double farthest = 1.0;
  for (const auto& p : rim) {
    farthest = std::max(farthest, std::hypot((p[0] - out.middle[0]) / out.half[0],
                                             (p[1] - out.middle[1]) / out.half[1]));
  }
  for (double& h : out.half) h *= farthest * (1.0 + more);
  return out;
}

double exit_light(const TracedGlass& glass, const std::array<double, 3>& film) {
  const double d = -glass.surfaces().back().z;
  const ExitBox box = exit_box(glass, film);
  const double step_x = (box.high[0] - box.low[0]) / light_grid;
  const double step_y = (box.high[1] - box.low[1]) / light_grid;
  if (!(step_x > 0.0) || !(step_y > 0.0)) return 0.0;
  double sum = 0.0;
  for (int j = 0; j < light_grid; ++j) {
    for (int i = 0; i < light_grid; ++i) {
      const double x = box.low[0] + (i + 0.5) * step_x - film[0];
      const double y = box.low[1] + (j + 0.5) * step_y - film[1];
      const double square = x * x + y * y + d * d;
      const double length = std::sqrt(square);
      const GlassWay way = glass.to_scene({film, {x / length, y / length, -d / length}});
      if (way.end == RayEnd::passed) sum += d * d / (square * square);
    }
  }
  return sum * step_x * step_y;
}

}  // namespace jolly_iris
