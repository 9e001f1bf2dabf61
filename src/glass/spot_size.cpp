#include "spot_size.hpp"

#include <cmath>
#include <numbers>

#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

constexpr int rings = 12;

}  // namespace

double axis_spot_rms(const TracedGlass& glass, Length distance) {
  const RaySource from = distance.is_finite() ? RaySource::point({0.0, 0.0, -distance.mm()})
                                              : RaySource::far({0.0, 0.0, 1.0});
  bool round = true;
  for (const TracedSurface& s : glass.surfaces()) round = round && s.curved == Curved::round;
  // Round glasses are the same at any angle; others are as in one quarter.
  const int spokes = round ? 1 : 8;
  const double radius = glass.opening().mm();
  double sum = 0.0;
  int passed = 0;
  for (int k = 0; k < spokes; ++k) {
    const double angle = 0.5 * std::numbers::pi * (k + 0.5) / spokes;
    for (int i = 0; i < rings; ++i) {
      // Rings of one area each.
      const double r = radius * std::sqrt((i + 0.5) / rings);
      const double towards = round ? 0.0 : angle;
      const auto ray = aimed(glass, from, {r * std::cos(towards), r * std::sin(towards)});
      if (!ray) continue;
      const GlassWay way = glass.to_film(*ray);
      if (way.end != RayEnd::passed) continue;
      sum += way.ray.at[0] * way.ray.at[0] + way.ray.at[1] * way.ray.at[1];
      ++passed;
    }
  }
  if (4 * passed < rings * spokes) {
    throw OpticsError("hardly any light of a point on the axis passes the glass");
  }
  return std::sqrt(sum / passed);
}

}  // namespace jolly_iris
