#include "splat.hpp"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>

#include "picture/parallel.hpp"
#include "sobol.hpp"

namespace jolly_iris::tracing {

namespace {

using std::numbers::pi;

// A rectangle of pixels [x0, x1) × [y0, y1) with light in it.
struct Patch {
  int x0 = 0, y0 = 0, x1 = 0, y1 = 0;
  double depth = 0.0;
  std::vector<Vec3f> light{};
  bool empty() const { return x0 >= x1 || y0 >= y1; }
  Vec3f& at(int x, int y) {
    return light[static_cast<std::size_t>(y - y0) * static_cast<std::size_t>(x1 - x0) +
                 static_cast<std::size_t>(x - x0)];
  }
};

// Two directions square to w and to each other.
void frame_of(const Vec3& w, Vec3& u, Vec3& v) {
  u = (std::abs(w.x) < 0.7 ? Vec3::unit_x() : Vec3::unit_y()).cross(w).normalized();
  v = w.cross(u);
}

struct EmitterPoint {
  Vec3 at;
  double area;  // of the emitter, as seen: m² of projected area
};

EmitterPoint point_on(const Emitter& e, double s, double t, const Vec3& pupil) {
  if (e.kind == Emitter::Kind::ball) {
    Vec3 u;
    Vec3 v;
    frame_of((pupil - e.a).normalized(), u, v);
    const double r = e.radius * std::sqrt(s);
    return {e.a + r * (std::cos(2.0 * pi * t) * u + std::sin(2.0 * pi * t) * v),
            pi * e.radius * e.radius};
  }
  if (e.kind == Emitter::Kind::wire) {
    const Vec3 along = e.b - e.a;
    const Vec3 to = (pupil - e.middle()).normalized();
    const Vec3 across = along.cross(to);
    const double seen = across.length();  // the length as it is seen
    if (!(seen > 1e-12 * along.length())) return {e.a, 0.0};
    return {e.a + along * s + across * (e.radius * (2.0 * t - 1.0) / seen), 2.0 * e.radius * seen};
  }
  const double root = std::sqrt(s);
  const Vec3 at = (1.0 - root) * e.a + root * (1.0 - t) * e.b + root * t * e.c;
  const Vec3 twice = (e.b - e.a).cross(e.c - e.a);
  const Vec3 to = (pupil - at).normalized();
  return {at, 0.5 * std::abs(twice.dot(to))};
}

Patch patch_for(const SplatJob& job, const Emitter& e, double size_px) {
  Patch patch;
  const Point2 middle = job.view.project(e.middle());
  const double r = 0.5 * size_px + 2.0;
  const auto low = [](double v) { return static_cast<int>(std::floor(std::clamp(v, -1e8, 1e8))); };
  patch.x0 = std::max(job.box.x, low(middle.x - r));
  patch.y0 = std::max(job.box.y, low(middle.y - r));
  patch.x1 = std::min(job.box.x + job.box.width, low(middle.x + r) + 1);
  patch.y1 = std::min(job.box.y + job.box.height, low(middle.y + r) + 1);
  return patch;
}

// A tent one pixel wide to each side: it keeps the lamp's centre below a pixel exactly.
void deposit(Patch& patch, const Point2& where, const Vec3f& light) {
  const double x = where.x - 0.5;
  const double y = where.y - 0.5;
  const double fx = std::floor(x);
  const double fy = std::floor(y);
  for (int dy = 0; dy < 2; ++dy) {
    for (int dx = 0; dx < 2; ++dx) {
      const double px = fx + dx;
      const double py = fy + dy;
      if (px < patch.x0 || px >= patch.x1 || py < patch.y0 || py >= patch.y1) continue;
      const double weight = (1.0 - std::abs(x - px)) * (1.0 - std::abs(y - py));
      patch.at(static_cast<int>(px), static_cast<int>(py)) += light * static_cast<float>(weight);
    }
  }
}

// Light of one point through one point of the opening, each colour where it lands.
void land(const LensView& view, Patch& patch, const Vec3& from, Point2 q, const Vec3f& light) {
  if (!view.coloured()) {
    const auto landing = view.land(from, q);
    if (landing.weight.is_zero()) return;
    deposit(patch, landing.at, light.times(landing.weight));
    return;
  }
  for (std::size_t c = 0; c < 3; ++c) {
    const auto landing = view.land(from, q, c);
    const auto i = c;
    Vec3f only = Vec3f{};
    only[i] = light[i] * landing.weight[i];
    if (only[i] > 0.0F) deposit(patch, landing.at, only);
  }
}

// Picture light of an area dA that faces the pupil, per pixel: dA v² / (z² cos θ), in pixels. The
// picture is an image of the focus plane, so its pixels see smaller solid angles off the axis.
double picture_area(const LensView& view, const EmitterPoint& p, const Vec3& pupil) {
  const Vec3 ray = p.at - pupil;
  const double z = -ray.z;
  const double cosine = z / ray.length();
  return p.area * view.px_a_steradian() / (z * z * cosine);
}

// px² of a lamp's disc that get rays as a pixel does.
double covered_px(double size_px) { return std::clamp(size_px * size_px, 16.0, 65536.0); }

double size_of(const SplatJob& job, const Emitter& e) {
  return job.view.blur_px(e.middle()) + 2.0 * e.reach() / -e.middle().z * job.view.focal_px();
}

// Where discs lie on each other many times over, their noise evens out: each gets fewer rays then,
// so that a million lamps cost no more than this many lamps' worth of every pixel; a draft fewer.
constexpr double deepest = 16.0;
double fraction_of_rays(const SplatJob& job) {
  double covered = 0.0;
  for (const Emitter& e : job.stage.emitters()) {
    if (-e.middle().z > e.reach()) covered += covered_px(size_of(job, e));
  }
  const double depth = std::max(1.0, deepest * job.density);
  return std::min(1.0, depth * job.whole.width * job.whole.height / std::max(covered, 1.0));
}

Patch splat_one(const SplatJob& job, std::size_t index, double fraction) {
  const Emitter& e = job.stage.emitters()[index];
  const double z = -e.middle().z;
  if (z <= e.reach()) return {};  // behind the camera, or around it
  const double size_px = size_of(job, e);
  Patch patch = patch_for(job, e, size_px);
  if (patch.empty()) return {};
  patch.depth = z;
  patch.light.assign(
      static_cast<std::size_t>(patch.x1 - patch.x0) * static_cast<std::size_t>(patch.y1 - patch.y0),
      Vec3f{});
  // As many points for a pixel of the disc as a pixel gets rays; a power of two, as Sobol likes.
  const double wanted = std::max(fraction * job.samples * covered_px(size_px), 16.0);
  const auto n = std::bit_ceil(static_cast<std::uint32_t>(std::min(wanted, 4.0e6)));
  Vec3f light = e.radiance;
  if (job.view.colours_discs()) {
    const Point2 at = job.view.project(e.middle());
    light = light.times(job.view.disc_colour(at.x, at.y, z));
  }
  const std::uint32_t seed = mix(job.seed, 0x10000000U + static_cast<std::uint32_t>(index));
  for (std::uint32_t i = 0; i < n; ++i) {
    const auto [a, b, c, d] = sobol4(job.block * n + i, seed);
    const Point2 q = job.view.opening_point(a, b);
    const Vec3 pupil = job.view.pupil_point(q);
    const EmitterPoint p = point_on(e, c, d, pupil);
    if (!job.stage.clear_view(pupil, p.at)) continue;
    const auto area = static_cast<float>(picture_area(job.view, p, pupil) / n);
    land(job.view, patch, p.at, q, light * area);
  }
  return patch;
}

}  // namespace

Splats splat_emitters(const SplatJob& job) {
  const auto pixels =
      static_cast<std::size_t>(job.box.width) * static_cast<std::size_t>(job.box.height);
  Splats all{std::vector<Vec3f>(pixels, Vec3f{}), std::vector<float>(pixels, 0.0F),
             std::vector<float>(pixels, 0.0F), std::vector<std::uint32_t>(pixels, 0)};
  // In batches: computed on all cores, added up in order, so that the sum never depends on who was
  // quicker.
  constexpr std::size_t batch = 64;
  const std::size_t count = job.stage.emitters().size();
  const double fraction = fraction_of_rays(job);
  for (std::size_t first = 0; first < count; first += batch) {
    const std::size_t n = std::min(batch, count - first);
    std::vector<Patch> patches(n);
    parallel_for(std::size_t{0}, n,
                 [&](std::size_t i) { patches[i] = splat_one(job, first + i, fraction); });
    job.execution.tell(static_cast<double>(first + n) / static_cast<double>(count));
    for (std::size_t k = 0; k < n; ++k) {
      Patch& patch = patches[k];
      for (int y = patch.y0; y < patch.y1; ++y) {
        for (int x = patch.x0; x < patch.x1; ++x) {
          const Vec3f light = patch.at(x, y);
          const auto at =
              static_cast<std::size_t>(y - job.box.y) * static_cast<std::size_t>(job.box.width) +
              static_cast<std::size_t>(x - job.box.x);
          all.light[at] += light;
          if (light.mean() > all.brightest[at]) {
            all.brightest[at] = light.mean();
            all.depth[at] = static_cast<float>(patch.depth);
            all.node[at] = static_cast<std::uint32_t>(job.stage.emitters()[first + k].node);
          }
        }
      }
    }
  }
  return all;
}

}  // namespace jolly_iris::tracing
