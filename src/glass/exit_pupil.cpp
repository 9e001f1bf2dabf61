#include "exit_pupil.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/glass/aim.hpp"

namespace jolly_iris {

namespace {

// Directions that light is asked in, along one side of the box.
constexpr int light_grid = 96;
// Points of the opening's rim by which the pupil is found.
constexpr int rim_points = 24;
// How much farther than the round opening the corners of a bladed one may stand.
constexpr double corners_more = 1.3;

}  // namespace

ExitBox exit_box(const TracedGlass& glass, const std::array<double, 3>& film, double more) {
  const TracedSurface& last = glass.surfaces().back();
  const double reach = std::min(std::sqrt(last.clear_sq), 20.0 * std::abs(last.z));
  const ExitBox all{{-reach, -reach}, {reach, reach}};
  ExitBox out{{reach, reach}, {-reach, -reach}};
  const double widest = std::sqrt(glass.surfaces()[glass.stop()].clear_sq);
  const double wide = glass.opens_round() ? 1.0 : corners_more;
  const double r = std::min(widest, wide * glass.opening().mm());
  for (int k = 0; k < rim_points; ++k) {
    const double angle = 2.0 * std::numbers::pi * k / rim_points;
    const auto ray =
        aimed(glass, RaySource::point(film), {r * std::cos(angle), r * std::sin(angle)});
    if (!ray) return all;
    const double t = (last.z - ray->at[2]) / ray->along[2];
    for (std::size_t i = 0; i < 2; ++i) {
      const double there = ray->at[i] + t * ray->along[i];
      out.low[i] = std::min(out.low[i], there);
      out.high[i] = std::max(out.high[i], there);
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
