#include "jolly_iris/glass/glass_distortion.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <vector>

#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// Ways outwards in the quarter that is looked at, and steps along each.
constexpr int ways = 12;
constexpr int steps = 64;
// Tangent that shows how long the glass's focal lengths are near the axis.
constexpr double small_tangent = 1e-4;
constexpr int terms = 3;

struct Seen {
  std::array<double, 2> straight{};  // mm, in the desqueezed picture
  std::array<double, 2> at{};
};

// By the same terms for both ways, or by a set for each: axis 0 across, 1 up, 2 both.
std::array<double, 3> fitted(const std::vector<Seen>& all, double radius, std::size_t axis) {
  Eigen::Matrix3d sums = Eigen::Matrix3d::Zero();
  Eigen::Vector3d right = Eigen::Vector3d::Zero();
  for (const Seen& s : all) {
    const double r2 = (s.at[0] * s.at[0] + s.at[1] * s.at[1]) / (radius * radius);
    for (std::size_t k = 0; k < 2; ++k) {
      if (axis < 2 && k != axis) continue;
      const Eigen::Vector3d row = s.at[k] * Eigen::Vector3d(r2, r2 * r2, r2 * r2 * r2);
      sums += row * row.transpose();
      right += row * (s.straight[k] - s.at[k]);
    }
  }
  const Eigen::Vector3d k = sums.ldlt().solve(right);
  return {k[0], k[1], k[2]};
}

// How far out on the film the ray through the opening's middle comes that no rim stops, mm: beyond
// it there may be a little light, but nothing that goes straight.
double lit_reach(const TracedGlass& glass, Meridian meridian) {
  const auto landing = [&](double tangent) -> std::optional<double> {
    const auto ray = aimed(glass,
                           meridian == Meridian::up ? RaySource::far({0.0, -tangent, 1.0})
                                                    : RaySource::far({-tangent, 0.0, 1.0}),
                           {0.0, 0.0});
    if (!ray) return std::nullopt;
    const GlassWay way = glass.to_film(*ray);
    if (way.end != RayEnd::passed) return std::nullopt;
    return std::hypot(way.ray.at[0], way.ray.at[1]);
  };
  constexpr double steepest = 40.0;  // nothing is shown beyond 88 degrees
  double low = 0.0;
  double high = 0.05;
  while (high < steepest && landing(high)) {
    low = high;
    high *= 1.4;
  }
  constexpr int halvings = 12;
  for (int i = 0; i < halvings; ++i) {
    const double middle = 0.5 * (low + high);
    (landing(middle) ? low : high) = middle;
  }
  return landing(low).value_or(0.0);
}

}  // namespace

GlassDistortion distortion_of(const Prescription& p, double squeeze) {
  const TracedGlass glass(p);
  const double circle = lit_reach(glass, Meridian::up);
  const bool round = p.is_round();
  const double across = round ? circle : squeeze * lit_reach(glass, Meridian::across);
  const double radius = std::max(circle, across);
  if (!(radius > 0.0)) throw OpticsError("the glass " + p.name + " shows nothing off its axis");
  const auto landing = [&](double right, double up) -> std::optional<std::array<double, 2>> {
    const auto ray = aimed(glass, RaySource::far({-right, -up, 1.0}), {0.0, 0.0});
    if (!ray) return std::nullopt;
    const GlassWay way = glass.to_film(*ray, false);
    if (way.end != RayEnd::passed) return std::nullopt;
    return std::array<double, 2>{-squeeze * way.ray.at[0], -way.ray.at[1]};
  };
  const auto beside = landing(small_tangent, 0.0);
  const auto above = landing(0.0, small_tangent);
  if (!beside || !above || !((*beside)[0] > 0.0) || !((*above)[1] > 0.0)) {
    throw OpticsError("no ray near the axis of the glass " + p.name + " goes through its opening");
  }
  const std::array<double, 2> focal{(*beside)[0] / small_tangent, (*above)[1] / small_tangent};
  // Outwards one way after the other, as far as places go outwards too: farther off the axis than
  // the glass was made for, rays may come back.
  constexpr double drawn_in = 1.8;
  std::vector<Seen> all;
  for (int j = round ? ways : 0; j <= ways; ++j) {  // one way is all of a round glass
    const double angle = 0.5 * std::numbers::pi * j / ways;
    double last = 0.0;
    for (int i = 1; i <= steps; ++i) {
      const double x = drawn_in * across * std::cos(angle) * i / steps;
      const double y = drawn_in * circle * std::sin(angle) * i / steps;
      const auto at = landing(x / focal[0], y / focal[1]);
      if (!at) break;
      const double out_there = std::hypot((*at)[0] / across, (*at)[1] / circle);
      if (out_there > 1.0 || out_there < last) break;
      last = out_there;
      all.push_back({{x, y}, *at});
    }
  }
  if (all.size() < 3 * terms) {
    throw OpticsError("the glass " + p.name +
                      " shows too little off its axis to tell its distortion");
  }
  GlassDistortion out;
  out.distortion.radius = Length::from_mm(radius);
  out.distortion.k = fitted(all, radius, round ? 2 : 1);
  if (!round) out.distortion.width = fitted(all, radius, 0);
  for (const Seen& s : all) {
    const double r2 = (s.at[0] * s.at[0] + s.at[1] * s.at[1]) / (radius * radius);
    double square = 0.0;
    for (std::size_t k = 0; k < 2; ++k) {
      const auto& c = k == 0 && out.distortion.width ? *out.distortion.width : out.distortion.k;
      const double off = s.at[k] * (1.0 + r2 * (c[0] + r2 * (c[1] + r2 * c[2]))) - s.straight[k];
      square += off * off;
    }
    out.worst = std::max(out.worst, Length::from_mm(std::sqrt(square)));
  }
  return out;
}

}  // namespace jolly_iris
