#include "jolly_iris/glass/ghost_light.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "jolly_iris/glass/coating.hpp"
#include "jolly_iris/glass/medium.hpp"
#include "light_lattice.hpp"
#include "stop_wedges.hpp"

namespace jolly_iris {

namespace {

// Rays along a side of the lattice by which it is found where light enters at all.
constexpr int search_side = 32;
// How far beyond a rim a ray of that lattice may be for its neighbours to pass.
constexpr double nearly = 1.25;

}  // namespace

struct GhostLight::Lattice {
  std::vector<LightRay> corners{};
  double cell_area = 0.0;
};

GhostLight::GhostLight(const GlassCamera& camera, const Prescription& p) : camera_(camera) {
  const std::size_t n = p.surfaces.size();
  std::vector<bool> reflects(n, false);
  for (std::size_t c = 0; c < 3; ++c) {
    double before = 1.0;
    direct_[c] = 1.0;
    for (std::size_t i = 0; i < n; ++i) {
      const GlassSurface& s = p.surfaces[i];
      ReflectanceTables::Table scene{};
      ReflectanceTables::Table film{};
      if (!s.stop) {
        const double after = refractive_index(s.medium, colours_um[c]);
        for (std::size_t k = 0; k < scene.size(); ++k) {
          const double cosine = std::min(1.0, static_cast<double>(k) / ReflectanceTables::steps);
          scene[k] = static_cast<float>(reflectance(s, before, after, cosine, colours_um[c]));
          film[k] = static_cast<float>(reflectance(s, after, before, cosine, colours_um[c]));
        }
        reflects[i] = reflects[i] || before != after;
        direct_[c] *= 1.0 - static_cast<double>(scene.back());
        before = after;
      }
      tables_[c].from_scene.push_back(scene);
      tables_[c].from_film.push_back(film);
    }
  }
  for (std::size_t far = 1; far < n; ++far) {
    for (std::size_t near = 0; near < far; ++near) {
      if (reflects[far] && reflects[near]) paths_.push_back({far, near});
    }
  }
  const TracedSurface& front = camera.green().surfaces().front();
  front_clear_ = std::sqrt(front.clear_sq);
  const double sag = sag_of(front, front_clear_, front_clear_);
  front_sag_ = std::isfinite(sag) ? std::abs(sag) : front_clear_;
}

void GhostLight::follow(const GhostPath& path, const PupilPlace& from, std::size_t colour,
                        const Box& box, int side, Lattice& out) const {
  const double plane = camera_.glass(colour).surfaces().front().z;
  const double behind = 1e-3 * (plane + camera_.pupil_to_film().mm());
  const auto columns = static_cast<std::size_t>(side) + 1;
  out.corners.assign(columns * columns, {});
  const double step_x = (box.right - box.left) / side;
  const double step_y = (box.high - box.low) / side;
  out.cell_area = step_x * step_y;
  const double off = 1.0 / std::sqrt(1.0 + from.right * from.right + from.up * from.up);
  const double v = camera_.scene_focal().mm();
  const double unit = off * camera_.squeeze() / (camera_.middle_light() * v * v * direct_[colour]);
  const StopWedges& wedges = camera_.wedges();
  const LatticePlane front{plane, behind, box.left, box.low, step_x, step_y, columns};
  thread_local RayBlock rays;
  thread_local GhostMarks marks;
  for (std::size_t first = 0; first < out.corners.size(); first += RayBlock::most) {
    begin_rays(front, from, first, unit, rays, out.corners);
    camera_.blocks(colour).follow_ghost(rays, path.far, path.near, tables_[colour], marks);
    for (std::size_t i = 0; i < rays.count; ++i) {
      if (rays.open[i] == 0) continue;
      LightRay& c = out.corners[first + i];
      c.met = true;
      c.light *= static_cast<double>(marks.light[i]);
      c.rim = static_cast<double>(marks.marks.rim[i]);
      c.at = {-1e-3 * camera_.squeeze() * static_cast<double>(rays.x[i]),
              -1e-3 * static_cast<double>(rays.y[i])};
      const auto crossing = [&](std::size_t n) {
        return Point2{static_cast<double>(marks.cross_x[n][i]),
                      static_cast<double>(marks.cross_y[n][i])};
      };
      c.stop = crossing(0);
      // The opening passed three times: once exactly, the others by how far out they are.
      for (std::size_t n = 1; n < marks.crossings; ++n) {
        c.rim = std::max(c.rim, wedges.outward(crossing(n)));
      }
    }
  }
}

void GhostLight::pieces(const GhostPath& path, const PupilPlace& from, std::size_t colour, int side,
                        std::vector<LightPiece>& pieces) const {
  pieces.clear();
  const double far_x = front_clear_ + 1.5 * front_sag_ * std::abs(from.right);
  const double far_y = front_clear_ + 1.5 * front_sag_ * std::abs(from.up);
  const Box all{-far_x, far_x, -far_y, far_y};
  thread_local Lattice lattice;
  follow(path, from, colour, all, search_side, lattice);
  // Where any of it passes, or nearly so.
  constexpr double none = std::numeric_limits<double>::infinity();
  Box found{none, -none, none, -none};
  const double step_x = (all.right - all.left) / search_side;
  const double step_y = (all.high - all.low) / search_side;
  for (std::size_t k = 0; k < lattice.corners.size(); ++k) {
    const LightRay& c = lattice.corners[k];
    if (!c.met || c.rim > nearly || camera_.wedges().outward(c.stop) > nearly) continue;
    const std::size_t row = k / (search_side + 1);
    const double x = all.left + static_cast<double>(k % (search_side + 1)) * step_x;
    const double y = all.low + static_cast<double>(row) * step_y;
    found.left = std::min(found.left, x - step_x);
    found.right = std::max(found.right, x + step_x);
    found.low = std::min(found.low, y - step_y);
    found.high = std::max(found.high, y + step_y);
  }
  if (!(found.right > found.left)) return;
  follow(path, from, colour, found, side, lattice);
  cut_lattice(lattice.corners, side, lattice.cell_area, camera_.wedges(), pieces);
}

}  // namespace jolly_iris
