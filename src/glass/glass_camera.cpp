#include "jolly_iris/glass/glass_camera.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "exit_pupil.hpp"
#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/glass/focus_travel.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "stop_wedges.hpp"

namespace jolly_iris {

namespace {

// Places along one side of the quarter of the picture in which bounds are kept.
constexpr std::size_t bound_grid = 13;
// How much wider than found, as a share: what lies between those places, and other colours.
constexpr double bound_more = 0.06;
// How much wider than the paraxial entrance pupil points are spread for lamps: pupils bulge off the
// axis.
constexpr double pupil_more = 1.35;
constexpr int rounds_of_focus = 4;

}  // namespace

GlassCamera::GlassCamera(const Prescription& p, Length focus, double f_number, Length half_diagonal,
                         double squeeze)
    : squeeze_(squeeze) {
  // Focus counts from the entrance pupil, which goes along.
  Length pupil = -paraxial_facts(TracedGlass(p)).entrance_pupil;
  const Length opening = opening_for(TracedGlass(p), f_number);
  for (int round = 0; round < rounds_of_focus; ++round) {
    const Length from_film = focus.is_finite() ? focus + pupil : focus;
    travel_ = focused(p, from_film, {p.focus_by, line_d_um, opening}).travel;
    const Length now = -paraxial_facts(TracedGlass(p, travel_)).entrance_pupil;
    if (!focus.is_finite() || std::abs(now.mm() - pupil.mm()) < 1e-6) break;
    pupil = now;
  }
  for (const double um : colours_um) {
    glass_.emplace_back(p, travel_, um);
    glass_.back().set_opening(opening, p.iris);
    blocks_.emplace_back(glass_.back());
  }
  const ParaxialFacts facts = paraxial_facts(glass_[1]);
  if (!facts.entrance_pupil.is_finite()) {
    throw OpticsError("the glass " + p.name +
                      " is telecentric in front: it has no place for a camera's origin");
  }
  pupil_z_ = facts.entrance_pupil.mm();
  pupil_radius_ = 0.5 * facts.entrance_diameter.mm() * pupil_more;
  reach_mm_ = half_diagonal.mm();
  middle_light_ = exit_light(glass_[1], {0.0, 0.0, 0.0});
  if (!(middle_light_ > 0.0)) {
    throw OpticsError("no light of the picture's middle passes the glass " + p.name);
  }
  fill_bounds();
  wedges_ = std::make_shared<const StopWedges>(glass_[1]);
  // What is straight above the axis by this tangent lands so high.
  constexpr double tangent = 1e-4;
  const double far = focus.is_finite() ? focus.m() : 1e6;
  const auto at = project({0.0, tangent * far, -far});
  if (!at || !((*at)[1] > 0.0)) {
    throw OpticsError("no ray near the axis of the glass " + p.name + " goes through its opening");
  }
  scene_focal_ = Length::from_m((*at)[1] / tangent);
}

bool GlassCamera::alike(const GlassCamera& other) const {
  return squeeze_ == other.squeeze_ && reach_mm_ == other.reach_mm_ && glass_ == other.glass_;
}

void GlassCamera::fill_bounds() {
  bounds_.resize(bound_grid * bound_grid);
  for (std::size_t j = 0; j < bound_grid; ++j) {
    for (std::size_t i = 0; i < bound_grid; ++i) {
      const double x = reach_mm_ * static_cast<double>(i) / (bound_grid - 1);
      const double y = reach_mm_ * static_cast<double>(j) / (bound_grid - 1);
      const ExitEllipse at = exit_ellipse(glass_[1], {x, y, 0.0}, bound_more);
      bounds_[j * bound_grid + i] = {at.middle, at.half};
    }
  }
}

// Four quarters are alike but for their signs.
GlassCamera::Bounds GlassCamera::bounds_at(double x, double y) const {
  const double step = reach_mm_ / (bound_grid - 1);
  const double a = std::clamp(std::abs(x) / step, 0.0, bound_grid - 1.000001);
  const double b = std::clamp(std::abs(y) / step, 0.0, bound_grid - 1.000001);
  const auto i = static_cast<std::size_t>(a);
  const auto j = static_cast<std::size_t>(b);
  const double s = a - static_cast<double>(i);
  const double t = b - static_cast<double>(j);
  Bounds out;
  for (std::size_t dj = 0; dj < 2; ++dj) {
    for (std::size_t di = 0; di < 2; ++di) {
      const Bounds& one = bounds_[(j + dj) * bound_grid + i + di];
      const double share = (di == 1 ? s : 1.0 - s) * (dj == 1 ? t : 1.0 - t);
      for (std::size_t k = 0; k < 2; ++k) {
        out.middle[k] += share * one.middle[k];
        out.half[k] += share * one.half[k];
      }
    }
  }
  if (x < 0.0) out.middle[0] = -out.middle[0];
  if (y < 0.0) out.middle[1] = -out.middle[1];
  return out;
}

GlassCamera::Begun GlassCamera::begun(double right, double up, double u, double v) const {
  const double x = -1000.0 * right / squeeze_;
  const double y = -1000.0 * up;
  const Bounds at = bounds_at(x, y);
  const double plane = glass_[1].surfaces().back().z;
  const double r = std::sqrt(u);
  const double angle = 2.0 * std::numbers::pi * v;
  const double dx = at.middle[0] + at.half[0] * r * std::cos(angle) - x;
  const double dy = at.middle[1] + at.half[1] * r * std::sin(angle) - y;
  const double square = dx * dx + dy * dy + plane * plane;
  const double length = std::sqrt(square);
  // ∫ d² / r⁴ dA over the ellipse, against the middle's.
  const double area = std::numbers::pi * at.half[0] * at.half[1];
  return {{{x, y, 0.0}, {dx / length, dy / length, plane / length}},
          area * plane * plane / (square * square) / middle_light_};
}

GlassCameraRay GlassCamera::ray(double right, double up, double u, double v,
                                std::size_t colour) const {
  const Begun from = begun(right, up, u, v);
  const GlassWay way = glass_[colour].to_scene(from.ray);
  GlassCameraRay out;
  if (way.end != RayEnd::passed) return out;
  out.weight = from.weight;
  const std::array<double, 3>& along = way.ray.along;
  const double to_pupil = (pupil_z_ - way.ray.at[2]) / along[2];
  for (std::size_t k = 0; k < 3; ++k) {
    out.origin[k] = 1e-3 * (way.ray.at[k] + to_pupil * along[k]);
    out.direction[k] = -along[k] / along[2];
  }
  out.origin[2] = 0.0;
  return out;
}

void GlassCamera::rays(std::span<const double> right, std::span<const double> up,
                       std::span<const double> u, std::span<const double> v, std::size_t colour,
                       std::span<GlassCameraRay> out) const {
  RayBlock block;
  std::array<double, RayBlock::most> weight{};
  for (std::size_t first = 0; first < out.size(); first += RayBlock::most) {
    block.count = std::min(RayBlock::most, out.size() - first);
    for (std::size_t i = 0; i < block.count; ++i) {
      const std::size_t k = first + i;
      const Begun from = begun(right[k], up[k], u[k], v[k]);
      block.x[i] = static_cast<float>(from.ray.at[0]);
      block.y[i] = static_cast<float>(from.ray.at[1]);
      block.z[i] = 0.0F;
      block.along_x[i] = static_cast<float>(from.ray.along[0]);
      block.along_y[i] = static_cast<float>(from.ray.along[1]);
      block.along_z[i] = static_cast<float>(from.ray.along[2]);
      block.open[i] = 1;
      weight[i] = from.weight;
    }
    blocks_[colour].to_scene(block);
    for (std::size_t i = 0; i < block.count; ++i) {
      GlassCameraRay& ray = out[first + i];
      ray = {};
      if (block.open[i] == 0) continue;
      const auto wide = [](float f) { return static_cast<double>(f); };
      ray.weight = weight[i];
      const double along_z = wide(block.along_z[i]);
      ray.direction = {-wide(block.along_x[i]) / along_z, -wide(block.along_y[i]) / along_z, -1.0};
      const double to_pupil = pupil_z_ - wide(block.z[i]);
      ray.origin = {1e-3 * (wide(block.x[i]) - to_pupil * ray.direction[0]),
                    1e-3 * (wide(block.y[i]) - to_pupil * ray.direction[1]), 0.0};
    }
  }
}

std::array<double, 3> GlassCamera::pupil_point(double u, double v) const {
  const double r = 1e-3 * pupil_radius_ * std::sqrt(u);
  const double angle = 2.0 * std::numbers::pi * v;
  return {r * std::cos(angle), r * std::sin(angle), 0.0};
}

// Flux of an emitter of radiance 1 and projected area A through a piece dP of the pupil's plane is
// A dP cos θ / r²; on a pixel of area a it makes the irradiance A dP cos θ / (r² a), and a picture
// counts irradiance against that of the middle under radiance 1, the projected solid angle there.
// (A desqueezed picture's pixels are as much narrower on the film.) With dP = π R² / n and the
// pixel's area left to the caller: A / (n a) times this weight.
GlassLanding GlassCamera::land(const std::array<double, 3>& point,
                               const std::array<double, 3>& pupil, std::size_t colour) const {
  const TracedGlass& glass = glass_[colour];
  GlassRay ray;
  double square = 0.0;
  for (std::size_t k = 0; k < 3; ++k) {
    ray.along[k] = pupil[k] - point[k];
    square += ray.along[k] * ray.along[k];
    ray.at[k] = 1e3 * point[k];
  }
  ray.at[2] += pupil_z_;
  const double length = std::sqrt(square);
  for (double& d : ray.along) d /= length;
  GlassLanding out;
  if (!(ray.along[2] > 0.0)) return out;
  const GlassWay way = glass.to_film(ray);
  if (way.end != RayEnd::passed) return out;
  out.at = {-1e-3 * squeeze_ * way.ray.at[0], -1e-3 * way.ray.at[1]};
  const double piece = std::numbers::pi * 1e-6 * pupil_radius_ * pupil_radius_;
  out.weight = squeeze_ * piece * ray.along[2] / square / middle_light_;
  return out;
}

std::optional<std::array<double, 2>> GlassCamera::project(
    const std::array<double, 3>& point) const {
  const RaySource from =
      RaySource::point({1e3 * point[0], 1e3 * point[1], 1e3 * point[2] + pupil_z_});
  const auto ray = aimed(glass_[1], from, {0.0, 0.0});
  if (!ray) return std::nullopt;
  const GlassWay way = glass_[1].to_film(*ray, false);
  if (way.end != RayEnd::passed) return std::nullopt;
  return std::array<double, 2>{-1e-3 * squeeze_ * way.ray.at[0], -1e-3 * way.ray.at[1]};
}

double GlassCamera::reach(const std::array<double, 3>& point) const {
  const auto middle = project(point);
  if (!middle) return 0.0;
  constexpr int points = 16;
  const RaySource from =
      RaySource::point({1e3 * point[0], 1e3 * point[1], 1e3 * point[2] + pupil_z_});
  double most = 0.0;
  for (const TracedGlass& glass : glass_) {
    for (const double share : {0.5, 1.0}) {
      for (int k = 0; k < points; ++k) {
        const double angle = 2.0 * std::numbers::pi * k / points;
        const double h = share * glass.farthest_open().mm();
        const auto ray = aimed(glass, from, {h * std::cos(angle), h * std::sin(angle)});
        if (!ray) continue;
        const GlassWay way = glass.to_film(*ray, false);
        if (way.end != RayEnd::passed) continue;
        most = std::max(most, std::hypot(-1e-3 * squeeze_ * way.ray.at[0] - (*middle)[0],
                                         -1e-3 * way.ray.at[1] - (*middle)[1]));
      }
    }
  }
  return most;
}

}  // namespace jolly_iris
