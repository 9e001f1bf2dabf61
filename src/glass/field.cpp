#include "jolly_iris/glass/field.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <optional>

#include "exit_pupil.hpp"
#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// Rings and spokes of a spot.
constexpr int spot_rings = 8;
constexpr int spot_spokes = 16;
// Rays "beside each other": how far apart in the opening, as a share of its radius.
constexpr double beside_share = 1e-3;
// What counts as dark.
constexpr double dark = 1e-3;
// A small height for what lies near the axis, mm.
constexpr double near_axis = 1e-3;

using Point = std::array<double, 2>;

std::size_t axis_of(Meridian meridian) { return meridian == Meridian::up ? 1 : 0; }

std::array<double, 3> on_film(double height, Meridian meridian) {
  std::array<double, 3> out{};
  out[axis_of(meridian)] = height;
  return out;
}

// The ray from a height on the film through the opening's middle, at the first surface's plane,
// going to the scene; continued from smaller heights by `guess`.
std::optional<GlassWay> chief_of(const TracedGlass& glass, double height, Meridian meridian,
                                 std::optional<Point>& guess) {
  const RaySource from = RaySource::point(on_film(height, meridian));
  const auto ray = aimed(glass, from, {0.0, 0.0}, guess);
  if (!ray) return std::nullopt;
  const double t = (aiming_plane(glass, from) - ray->at[2]) / ray->along[2];
  guess = Point{ray->at[0] + t * ray->along[0], ray->at[1] + t * ray->along[1]};
  const GlassWay way = glass.to_scene(*ray, false);
  return way.end == RayEnd::passed ? std::optional(way) : std::nullopt;
}

// Where its light comes from: reversed, in the scene.
RaySource source_of(const GlassRay& chief, Length distance) {
  if (!distance.is_finite()) {
    return RaySource::far({-chief.along[0], -chief.along[1], -chief.along[2]});
  }
  const double t = (-distance.mm() - chief.at[2]) / chief.along[2];
  return RaySource::point(
      {chief.at[0] + t * chief.along[0], chief.at[1] + t * chief.along[1], -distance.mm()});
}

Length spot_of(const TracedGlass& glass, const RaySource& from) {
  std::vector<Point> landed;
  const double radius = glass.opening().mm();
  for (int i = 0; i < spot_rings; ++i) {
    const double r = radius * std::sqrt((i + 0.5) / spot_rings);
    for (int k = 0; k < spot_spokes; ++k) {
      const double angle = 2.0 * std::numbers::pi * (k + 0.5) / spot_spokes;
      const auto ray = aimed(glass, from, {r * std::cos(angle), r * std::sin(angle)});
      if (!ray) continue;
      const GlassWay way = glass.to_film(*ray);
      if (way.end == RayEnd::passed) landed.push_back({way.ray.at[0], way.ray.at[1]});
    }
  }
  if (landed.empty()) return Length::infinity();
  Point mean{};
  for (const Point& p : landed) {
    mean[0] += p[0] / static_cast<double>(landed.size());
    mean[1] += p[1] / static_cast<double>(landed.size());
  }
  double sum = 0.0;
  for (const Point& p : landed)
    sum += std::pow(p[0] - mean[0], 2.0) + std::pow(p[1] - mean[1], 2.0);
  return Length::from_mm(std::sqrt(sum / static_cast<double>(landed.size())));
}

// Where the chief ray and one beside it meet, behind the film.
Length meeting(const TracedGlass& glass, const RaySource& from, std::size_t axis) {
  const double off = beside_share * glass.opening().mm();
  Point aside{};
  aside[axis] = off;
  const auto a = aimed(glass, from, aside);
  aside[axis] = -off;
  const auto b = aimed(glass, from, aside);
  if (!a || !b) return Length::infinity();
  const GlassWay one = glass.to_film(*a, false);
  const GlassWay other = glass.to_film(*b, false);
  if (one.end != RayEnd::passed || other.end != RayEnd::passed) return Length::infinity();
  const double apart = one.ray.at[axis] - other.ray.at[axis];
  const double slopes =
      one.ray.along[axis] / one.ray.along[2] - other.ray.along[axis] / other.ray.along[2];
  return slopes != 0.0 ? Length::from_mm(-apart / slopes) : Length::infinity();
}

double irradiance(const TracedGlass& glass, double height, Meridian meridian) {
  return exit_light(glass, on_film(height, meridian));
}

}  // namespace

double relative_light(const TracedGlass& glass, Length height, Meridian meridian) {
  const double middle = irradiance(glass, 0.0, meridian);
  if (!(middle > 0.0)) throw OpticsError("no light of the picture's middle passes the glass");
  return irradiance(glass, height.mm(), meridian) / middle;
}

Length image_circle(const TracedGlass& glass, Meridian meridian) {
  const double middle = irradiance(glass, 0.0, meridian);
  if (!(middle > 0.0)) throw OpticsError("no light of the picture's middle passes the glass");
  double lit = 0.0;
  double black = 0.25 * paraxial_facts(glass, meridian).focal.mm();
  black = std::abs(black);
  while (irradiance(glass, black, meridian) > dark * middle) {
    lit = black;
    black *= 1.5;
    if (black > 1e5) return Length::infinity();
  }
  while (black - lit > 0.002 * black) {
    const double between = 0.5 * (lit + black);
    (irradiance(glass, between, meridian) > dark * middle ? lit : black) = between;
  }
  return Length::from_mm(0.5 * (lit + black));
}

std::vector<FieldPoint> over_field(const TracedGlass& glass, Length distance, Length height,
                                   int points, Meridian meridian) {
  if (!(height.mm() > 0.0) || !height.is_finite() || points < 2 || points > 1000) {
    throw UsageError(fmt::format(
        "{} points up to {:g} mm are none over a picture; ask for 2 to 1000 up to a height above "
        "zero",
        points, height.mm()));
  }
  const std::size_t axis = axis_of(meridian);
  std::optional<Point> guess;
  const auto tangent = [&](const GlassWay& way) {
    // Directions of the scene: what is high there is low on the film.
    return -way.ray.along[axis] / way.ray.along[2];
  };
  const auto middle = chief_of(glass, near_axis, meridian, guess);
  if (!middle)
    throw OpticsError("no ray of the picture's middle goes through the opening's middle");
  const double straight = near_axis / tangent(*middle);  // height for a tangent of 1
  const double light = irradiance(glass, 0.0, meridian);
  if (!(light > 0.0)) throw OpticsError("no light of the picture's middle passes the glass");
  std::vector<FieldPoint> out;
  for (int i = 0; i < points; ++i) {
    FieldPoint p;
    const double h = height.mm() * i / (points - 1);
    p.height = Length::from_mm(h);
    const auto chief = chief_of(glass, h, meridian, guess);
    if (!chief) break;
    const double t = tangent(*chief);
    p.angle = Angle::from_radians(std::atan(std::abs(t)));
    p.distortion = i == 0 ? 0.0 : h / (straight * t) - 1.0;
    p.light = irradiance(glass, h, meridian) / light;
    if (!(p.light > 0.0)) break;
    const RaySource from = source_of(chief->ray, distance);
    p.spot = spot_of(glass, from);
    p.tangential = meeting(glass, from, axis);
    p.sagittal = meeting(glass, from, 1 - axis);
    out.push_back(p);
  }
  return out;
}

}  // namespace jolly_iris
