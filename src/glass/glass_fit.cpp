#include "jolly_iris/glass/glass_fit.hpp"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <vector>

#include "exit_pupil.hpp"
#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "optics/seeded.hpp"

namespace jolly_iris {

namespace {

constexpr int bound_points = 25;
// How much wider than found bounds are, as a share: other colours, and what lies between.
constexpr double bound_wider = 0.06;
// Rays that are fitted to, and those that tell the error.
constexpr int fitted_rays = 4000;
constexpr int fresh_rays = 4000;
// So far beyond rims and the opening rays are fitted, too: at the edge itself a polynomial needs
// both sides.
constexpr double beyond = 1.08;

// One ray that was traced.
struct Known {
  double x = 0.0, y = 0.0, px = 0.0, py = 0.0;  // as the sampler has them
  std::array<double, 2> origin{};               // m
  std::array<double, 2> direction{};
  std::array<double, 2> stop{};               // opening radii
  std::vector<std::array<double, 2>> rims{};  // clear radii, a surface
  bool passes = false;
};

class Tracer {
 public:
  Tracer(const GlassCamera& camera, const GlassSampler& sampler, std::size_t colour)
      : camera_(camera), sampler_(sampler), glass_(camera.glass(colour)) {}

  // At random places; those that do not come out at all are left out.
  std::vector<Known> rays(int wanted, std::uint64_t seed) const {
    Seeded random(seed);
    std::vector<Known> out;
    for (int tries = 0; static_cast<int>(out.size()) < wanted && tries < 20 * wanted; ++tries) {
      const double height = sampler_.reach * std::sqrt(random.next());
      const double turn = 2.0 * std::numbers::pi * random.next();
      const GlassSampler::Bound at = sampler_.bound(height);
      const double r = std::sqrt(random.next());
      const double angle = 2.0 * std::numbers::pi * random.next();
      const double along = at.middle + at.along * r * std::cos(angle);
      const double across = at.across * r * std::sin(angle);
      const double c = std::cos(turn);
      const double s = std::sin(turn);
      if (auto ray =
              traced({height * c, height * s}, {along * c - across * s, along * s + across * c})) {
        out.push_back(std::move(*ray));
      }
    }
    return out;
  }

 private:
  std::optional<Known> traced(const std::array<double, 2>& film,
                              const std::array<double, 2>& pupil) const {
    const double plane = -1e3 * sampler_.plane;
    std::array<double, 3> d{1e3 * (pupil[0] - film[0]), 1e3 * (pupil[1] - film[1]), plane};
    const double length = std::hypot(d[0], d[1], d[2]);
    for (double& k : d) k /= length;
    const GlassRay from{{1e3 * film[0], 1e3 * film[1], 0.0}, d};
    const GlassWay way = glass_.to_scene(from, false);
    if (way.end != RayEnd::passed) return std::nullopt;
    Known out;
    out.x = film[0] / sampler_.reach;
    out.y = film[1] / sampler_.reach;
    out.px = pupil[0] / sampler_.pupil;
    out.py = pupil[1] / sampler_.pupil;
    const auto& along = way.ray.along;
    const double to_pupil = (-camera_.pupil_to_film().mm() - way.ray.at[2]) / along[2];
    for (std::size_t k = 0; k < 2; ++k) {
      out.origin[k] = 1e-3 * (way.ray.at[k] + to_pupil * along[k]);
      out.direction[k] = -along[k] / along[2];
    }
    // The same ray from the scene: where it goes past each surface.
    GlassRay back = way.ray;
    for (double& k : back.along) k = -k;
    const double radius = glass_.opening().mm();
    double farthest = 0.0;
    out.passes = true;
    for (std::size_t i = 0; i < glass_.surfaces().size(); ++i) {
      const TracedSurface& s = glass_.surfaces()[i];
      const GlassWay there = glass_.to_surface(back, i);
      if (there.end != RayEnd::passed) return std::nullopt;
      const double clear = s.stop ? radius : std::sqrt(s.clear_sq);
      const std::array<double, 2> at{there.ray.at[0] / clear, there.ray.at[1] / clear};
      const double out_there = std::hypot(at[0], at[1]);
      if (s.stop) {
        out.stop = at;
        farthest = std::max(farthest, out_there * radius / glass_.farthest_open().mm());
        out.passes = out.passes && glass_.is_open(there.ray.at[0], there.ray.at[1]);
        out.rims.push_back({0.0, 0.0});
        continue;
      }
      out.rims.push_back(at);
      farthest = std::max(farthest, out_there);
      out.passes = out.passes && out_there <= 1.0;
    }
    if (farthest > beyond) out.rims.clear();  // told apart: too far out to be fitted
    return out;
  }

  const GlassCamera& camera_;
  const GlassSampler& sampler_;
  const TracedGlass& glass_;
};

GlassSampler::Monomials monomials_of(const Known& k, int order) {
  GlassSampler::Monomials m;
  m.fill(k.x * k.x + k.y * k.y, k.x * k.px + k.y * k.py, k.px * k.px + k.py * k.py,
         (order - 1) / 2);
  return m;
}

// All polynomials of one colour at once: they share the rays, so one decomposition does.
class Fit {
 public:
  Fit(const std::vector<Known>& rays, int order) : rays_(rays) {
    const auto n = static_cast<Eigen::Index>(GlassSampler::terms(order));
    lines_.resize(2 * static_cast<Eigen::Index>(rays.size()), 2 * n);
    for (std::size_t i = 0; i < rays.size(); ++i) {
      const Known& k = rays[i];
      const GlassSampler::Monomials m = monomials_of(k, order);
      const auto row = 2 * static_cast<Eigen::Index>(i);
      for (Eigen::Index t = 0; t < n; ++t) {
        const double v = m.value[static_cast<std::size_t>(t)];
        lines_(row, t) = v * k.x;
        lines_(row, n + t) = v * k.px;
        lines_(row + 1, t) = v * k.y;
        lines_(row + 1, n + t) = v * k.py;
      }
    }
    solver_.compute(lines_);
  }

  // What x is multiplied with, a monomial after the other, then what p is.
  template <class Of>
  std::vector<double> of(const Of& wanted) const {
    Eigen::VectorXd right(2 * static_cast<Eigen::Index>(rays_.size()));
    for (std::size_t i = 0; i < rays_.size(); ++i) {
      const std::array<double, 2> v = wanted(rays_[i]);
      right[2 * static_cast<Eigen::Index>(i)] = v[0];
      right[2 * static_cast<Eigen::Index>(i) + 1] = v[1];
    }
    const Eigen::VectorXd found = solver_.solve(right);
    return {found.data(), found.data() + found.size()};
  }

 private:
  const std::vector<Known>& rays_;
  Eigen::MatrixXd lines_;
  Eigen::HouseholderQR<Eigen::MatrixXd> solver_;
};

// Surfaces that are the only one to stop some ray, or stop the most of those left.
std::vector<std::size_t> rims_that_count(const std::vector<Known>& rays, std::size_t surfaces) {
  std::vector<const Known*> open;
  for (const Known& k : rays) {
    if (!k.rims.empty()) open.push_back(&k);
  }
  std::vector<std::size_t> out;
  while (true) {
    std::size_t best = surfaces;
    long most = 0;
    for (std::size_t s = 0; s < surfaces; ++s) {
      const long stopped = std::count_if(open.begin(), open.end(), [&](const Known* k) {
        return std::hypot(k->rims[s][0], k->rims[s][1]) > 1.0;
      });
      if (stopped > most) {
        most = stopped;
        best = s;
      }
    }
    if (best == surfaces) return out;
    out.push_back(best);
    std::erase_if(
        open, [&](const Known* k) { return std::hypot(k->rims[best][0], k->rims[best][1]) > 1.0; });
  }
}

// One polynomial after the other → as the sampler has them, outputs side by side.
GlassSampler::Way packed(const std::vector<std::vector<double>>& all) {
  GlassSampler::Way way;
  way.outputs = all.size();
  const std::size_t count = all.front().size() / 2;
  const std::size_t stride = way.stride();
  way.weights.assign(2 * count * stride, 0.0);
  for (std::size_t o = 0; o < all.size(); ++o) {
    for (std::size_t t = 0; t < count; ++t) {
      way.weights[2 * t * stride + o] = all[o][t];
      way.weights[(2 * t + 1) * stride + o] = all[o][count + t];
    }
  }
  return way;
}

}  // namespace

GlassFit fit_glass(const GlassCamera& camera, Length focus, int order) {
  if (order < 3 || order > 9 || order % 2 == 0) {
    throw UsageError(fmt::format("polynomials of order {}; it takes 3, 5, 7 or 9", order));
  }
  const TracedGlass& green = camera.green();
  for (const TracedSurface& s : green.surfaces()) {
    if (s.curved == Curved::round) continue;
    throw OpticsError(
        "the compact form is for round glasses: one with cylinders does not turn with its rays");
  }
  GlassFit out;
  GlassSampler& g = out.sampler;
  g.order = order;
  g.reach = camera.reach_on_film().m();
  g.plane = -1e-3 * green.surfaces().back().z;
  g.middle_light = camera.middle_light();
  double widest = 0.0;
  for (int i = 0; i < bound_points; ++i) {
    const double h = 1e3 * g.reach * i / (bound_points - 1);
    const ExitEllipse at = exit_ellipse(green, {0.0, h, 0.0}, bound_wider);
    g.bounds.push_back({1e-3 * at.middle[1], 1e-3 * at.half[1], 1e-3 * at.half[0]});
    widest = std::max(widest, std::abs(g.bounds.back().middle) + g.bounds.back().along);
  }
  g.pupil = widest;
  const double radius = green.opening().mm();
  for (const auto& p : green.outline()) g.outline.push_back({p[0] / radius, p[1] / radius});
  if (!g.outline.empty()) {
    g.inside_sq = green.nearest_edge().mm() * green.nearest_edge().mm() / (radius * radius);
    g.outside_sq = green.farthest_open().mm() * green.farthest_open().mm() / (radius * radius);
  }
  double square = 0.0;
  long counted = 0;
  long wrong = 0;
  long good = 0;
  const double inverse_focus = focus.is_finite() ? 1.0 / focus.m() : 0.0;
  const double v = camera.scene_focal().m();
  for (std::size_t c = 0; c < 3; ++c) {
    const Tracer tracer(camera, g, c);
    std::vector<Known> all = tracer.rays(fitted_rays, 31 + c);
    const std::vector<std::size_t> rims = rims_that_count(all, green.surfaces().size());
    std::erase_if(all, [](const Known& k) { return k.rims.empty(); });
    if (all.size() < 8 * GlassSampler::terms(order)) {
      throw OpticsError("too few rays go through the glass for a compact form");
    }
    const Fit fit(all, order);
    std::vector<std::vector<double>> found{fit.of([](const Known& k) { return k.origin; }),
                                           fit.of([](const Known& k) { return k.direction; }),
                                           fit.of([](const Known& k) { return k.stop; })};
    for (const std::size_t s : rims) {
      if (found.size() == GlassSampler::most_outputs) break;  // the others stop the fewest rays
      found.push_back(fit.of([s](const Known& k) { return k.rims[s]; }));
    }
    const GlassSampler::Way& way = g.ways[c] = packed(found);
    for (const Known& k : tracer.rays(fresh_rays, 977 + c)) {
      const GlassSampler::Values at =
          GlassSampler::values(way, monomials_of(k, order), k.x, k.y, k.px, k.py);
      bool passes = g.open(at.x[2], at.y[2]);
      for (std::size_t i = 3; i < way.outputs; ++i) {
        passes = passes && at.x[i] * at.x[i] + at.y[i] * at.y[i] <= 1.0;
      }
      ++counted;
      if (passes != k.passes) ++wrong;
      if (!k.passes) continue;
      ++good;
      const std::array<double, 2> miss{
          (at.x[1] - k.direction[0]) + (at.x[0] - k.origin[0]) * inverse_focus,
          (at.y[1] - k.direction[1]) + (at.y[0] - k.origin[1]) * inverse_focus};
      const double off = v * v * (miss[0] * miss[0] + miss[1] * miss[1]);
      square += off;
      out.error.worst_um = std::max(out.error.worst_um, 1e6 * std::sqrt(off));
    }
  }
  out.error.rms_um = 1e6 * std::sqrt(square / static_cast<double>(std::max(1L, good)));
  out.error.wrongly_sorted =
      static_cast<double>(wrong) / static_cast<double>(std::max(1L, counted));
  return out;
}

}  // namespace jolly_iris
