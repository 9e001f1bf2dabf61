#include "jolly_iris/glass/point_light.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "light_lattice.hpp"
#include "stop_wedges.hpp"

namespace jolly_iris {

namespace {

// Points of the opening's rim by which its outline is found.
constexpr int outline_points = 12;
// How much wider than found, as a share: what bulges between those points, and other colours.
constexpr double more = 0.04;
// 1/m: nothing tells a point beyond from one infinitely far away, but rounding.
constexpr double far_away = 1e-5;
// A difference of directions for what distortion does here.
constexpr double direction_nudge = 1e-4;

using Pair = std::array<double, 2>;

RaySource source(const GlassCamera& camera, const PupilPlace& from) {
  if (from.inverse_z < far_away) return RaySource::far({-from.right, -from.up, 1.0});
  const double z = 1e3 / from.inverse_z;
  return RaySource::point({z * from.right, z * from.up, -camera.pupil_to_film().mm() - z});
}

// Where a ray meets the first vertex's plane.
Pair in_plane(const GlassRay& ray, double plane) {
  const double t = (plane - ray.at[2]) / ray.along[2];
  return {ray.at[0] + t * ray.along[0], ray.at[1] + t * ray.along[1]};
}

}  // namespace

PointLight::PointLight(const GlassCamera& camera, const PupilPlace& from)
    : camera_(camera), from_(from) {
  reaches_ = find_middle();
  if (reaches_) find_box();
}

bool PointLight::find_middle() {
  const TracedGlass& glass = camera_.green();
  const double plane = glass.surfaces().front().z;
  // Nearer than the first surface nothing goes through it.
  if (!(1.0 + 1e-3 * (plane + camera_.pupil_to_film().mm()) * from_.inverse_z > 1e-6)) return false;
  std::optional<Pair> guess;
  const auto landing = [&](const PupilPlace& place) -> std::optional<Pair> {
    const auto ray = aimed(glass, source(camera_, place), {0.0, 0.0}, guess);
    if (!ray) return std::nullopt;
    guess = in_plane(*ray, plane);
    const GlassWay way = glass.to_film(*ray, false);
    if (way.end != RayEnd::passed) return std::nullopt;
    return Pair{-1e-3 * camera_.squeeze() * way.ray.at[0], -1e-3 * way.ray.at[1]};
  };
  const auto here = landing(from_);
  if (!here) return false;
  const auto right = landing({from_.right + direction_nudge, from_.up, from_.inverse_z});
  const auto above = landing({from_.right, from_.up + direction_nudge, from_.inverse_z});
  if (!right || !above) return false;
  middle_ = *here;
  const double a = ((*right)[0] - middle_[0]) / direction_nudge;
  const double b = ((*above)[0] - middle_[0]) / direction_nudge;
  const double c = ((*right)[1] - middle_[1]) / direction_nudge;
  const double d = ((*above)[1] - middle_[1]) / direction_nudge;
  const double det = a * d - b * c;
  if (!(det > 0.0)) return false;
  straight_ = {d / det, -b / det, -c / det, a / det};
  // Flux through a piece dP of the first plane against what the pinhole's picture of an emitter
  // counts: an emitter of projected area A, r away at the angle θ, sends A dP cos θ / r² and lies
  // on A det / (z² cos θ) of the picture, det m² on the film for a unit of direction each way. A
  // picture counts irradiance against that of its middle, the projected solid angle there.
  const double off = 1.0 / std::sqrt(1.0 + from_.right * from_.right + from_.up * from_.up);
  light_of_mm2_ = off * camera_.squeeze() / (camera_.middle_light() * 1e6 * det);
  return true;
}

void PointLight::find_box() {
  const TracedGlass& glass = camera_.green();
  const RaySource from = source(camera_, from_);
  const double plane = glass.surfaces().front().z;
  const auto chief = aimed(glass, from, {0.0, 0.0});
  if (!chief) return;
  const Pair middle = in_plane(*chief, plane);
  const double radius = glass.farthest_open().mm();
  box_ = {middle, middle};
  const auto grow = [&](const Pair& p) {
    for (std::size_t k = 0; k < 2; ++k) {
      box_.low[k] = std::min(box_.low[k], p[k]);
      box_.high[k] = std::max(box_.high[k], p[k]);
    }
  };
  std::optional<Pair> guess;
  for (int k = 0; k < outline_points; ++k) {
    const double angle = 2.0 * std::numbers::pi * k / outline_points;
    const auto ray =
        aimed(glass, from, {radius * std::cos(angle), radius * std::sin(angle)}, guess);
    if (!ray) continue;
    guess = in_plane(*ray, plane);
    grow(*guess);
    // Where no ray goes on the other side, as far as on this one.
    grow({2.0 * middle[0] - (*guess)[0], 2.0 * middle[1] - (*guess)[1]});
  }
  // A slanting ray meets the plane farther out than the rim it goes past, where that lies behind.
  const TracedSurface& front = glass.surfaces().front();
  const double clear = std::sqrt(front.clear_sq);
  const double sag = sag_of(front, clear, clear);
  const double behind = std::isfinite(sag) ? std::abs(sag) : clear;
  const std::array<double, 2> slope{from_.right, from_.up};
  for (std::size_t k = 0; k < 2; ++k) {
    const double reach = clear + 1.5 * behind * std::abs(slope[k]);
    const double aside = more * (box_.high[k] - box_.low[k]);
    box_.low[k] = std::clamp(box_.low[k] - aside, -reach, reach);
    box_.high[k] = std::clamp(box_.high[k] + aside, -reach, reach);
  }
}

void PointLight::pieces(std::size_t colour, int side, std::vector<LightPiece>& pieces) const {
  pieces.clear();
  thread_local std::vector<LightRay> lattice;
  const double cell = rays(colour, side, lattice);
  if (cell > 0.0) cut_lattice(lattice, side, cell, camera_.wedges(), pieces);
}

double PointLight::rays(std::size_t colour, int side, std::vector<LightRay>& lattice) const {
  lattice.clear();
  if (!reaches_) return 0.0;
  const TracedGlass& glass = camera_.glass(colour);
  const double plane = glass.surfaces().front().z;
  const double behind = 1e-3 * (plane + camera_.pupil_to_film().mm());  // of the pupil, m
  const auto columns = static_cast<std::size_t>(side) + 1;
  lattice.assign(columns * columns, {});
  const double step_x = (box_.high[0] - box_.low[0]) / side;
  const double step_y = (box_.high[1] - box_.low[1]) / side;
  if (!(step_x > 0.0) || !(step_y > 0.0)) return 0.0;
  const LatticePlane front{plane, behind, box_.low[0], box_.low[1], step_x, step_y, columns};
  RayBlock block;
  RayMarks marks;
  for (std::size_t first = 0; first < lattice.size(); first += RayBlock::most) {
    begin_rays(front, from_, first, light_of_mm2_, block, lattice);
    camera_.blocks(colour).follow(block, marks);
    for (std::size_t i = 0; i < block.count; ++i) {
      LightRay& c = lattice[first + i];
      if (block.open[i] == 0) continue;
      c.met = true;
      const double right = -1e-3 * camera_.squeeze() * static_cast<double>(block.x[i]) - middle_[0];
      const double up = -1e-3 * static_cast<double>(block.y[i]) - middle_[1];
      const double v = camera_.scene_focal().m();
      c.at = {v * (straight_[0] * right + straight_[1] * up),
              v * (straight_[2] * right + straight_[3] * up)};
      c.stop = {static_cast<double>(marks.stop_x[i]), static_cast<double>(marks.stop_y[i])};
      c.rim = static_cast<double>(marks.rim[i]);
    }
  }
  return step_x * step_y;
}

double PointLight::light(int side) const {
  thread_local std::vector<LightPiece> found;
  pieces(1, side, found);
  double sum = 0.0;
  for (const LightPiece& p : found) sum += p.light;
  return sum;
}

}  // namespace jolly_iris
