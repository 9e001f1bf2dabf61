// Bends a prescription until it images well: how the lenses in demo/glass were made, and anybody
// can make more. It begins at a rough form that somebody wrote down and moves radii and gaps.
//
//   design_glass START.glass.toml --focal 50 --stop 2 --field 22 [--vignette 0.6] [--soft 0.3]
//                [--back 30] [--rounds 40] [--squeeze 2]
//                [--tries 30] [--spread 0.15] [--seed 1] [--begin 0.55] [--aspect 1.2] >
//                NAME.glass.toml
//
// --field: half the picture's angle, degrees; --vignette: share of the beam's height that passes in
// the corner; --soft: how much spherical aberration it is to keep wide open, mm on the film;
// --back: least room before the film, mm. Damped least squares (Levenberg 1944) on where rays of
// three fields and three lines land, by Ceres.
#include <ceres/ceres.h>
#include <fmt/format.h>

#include <cmath>
#include <cstdlib>
#include <map>
#include <random>
#include <string>
#include <vector>

#include "jolly_iris/jolly_iris.hpp"

using namespace jolly_iris;

namespace {

struct Wanted {
  double focal = 50.0;
  double stop = 2.8;
  double field_deg = 20.0;
  double vignette = 0.6;
  double soft = 0.0;
  double back = 20.0;
  double squeeze = 1.0;
  double aspect = 1.2;  // of the film's picture, where it squeezes
  double begin = 0.55;
  double hold = 0.0;  // how much knobs are held where they stood
  double spread = 0.15;
  int tries = 30;
  int seed = 1;
  int rounds = 40;
};

// What is moved: curvatures (of surfaces that are curved) and gaps, each about as large as 1.
struct Knob {
  std::size_t surface = 0;
  bool gap = false;
};

std::vector<Knob> knobs_of(const Prescription& p) {
  std::vector<Knob> out;
  for (std::size_t i = 0; i < p.surfaces.size(); ++i) {
    const GlassSurface& s = p.surfaces[i];
    if (!s.stop && s.radius.is_finite()) out.push_back({i, false});
    if (i + 1 < p.surfaces.size()) out.push_back({i, true});
  }
  return out;
}

double least_gap(const GlassSurface& s, double focal) {
  return s.medium.is_air() ? 0.006 * focal : 0.03 * focal;
}

Prescription turned(const Prescription& start, const std::vector<Knob>& knobs, const double* x,
                    double focal) {
  Prescription p = start;
  for (std::size_t k = 0; k < knobs.size(); ++k) {
    GlassSurface& s = p.surfaces[knobs[k].surface];
    if (knobs[k].gap) {
      s.gap = Length::from_mm(least_gap(s, focal) + 0.1 * focal * x[k] * x[k]);
    } else {
      s.radius = std::abs(x[k]) > 1e-6 ? Length::from_mm(focal / x[k]) : Length::infinity();
    }
  }
  p.surfaces.back().gap = Length::from_mm(0.0);
  for (GlassSurface& s : p.surfaces) {
    s.clear = s.stop ? Length::from_mm(1e4) : Length::infinity();
  }
  // The focal length is as wanted by size; the film is where light meets best.
  const double is = paraxial_facts(TracedGlass(p)).focal.mm();
  if (!(is > 0.0)) throw OpticsError("spreads light");
  p = scaled(p, focal / is);
  for (GlassSurface& s : p.surfaces) {
    s.clear = s.stop ? Length::from_mm(1e4) : Length::infinity();
  }
  const double film =
      paraxial_facts(TracedGlass(p)).back_focus.mm() + 0.01 * focal * x[knobs.size()];
  if (!(film > 0.5)) throw OpticsError("has no room behind it");
  p.surfaces.back().gap = Length::from_mm(film);
  return p;
}

struct Beam {
  double across = 0.0;  // in the stop, as a share of its radius
  double up = 0.0;
};
const std::vector<Beam> beams{{0, 1},     {0, 0.7},   {0, 0.4},   {0, -0.4},  {0, -0.7},
                              {0, -1},    {0.7, 0},   {1, 0},     {0.5, 0.5}, {0.5, -0.5},
                              {0.4, 0.0}, {0.7, 0.7}, {0.7, -0.7}};

class Merit {
 public:
  Merit(const Prescription& start, const std::vector<Knob>& knobs, const Wanted& wanted,
        std::vector<double> home)
      : start_(start), knobs_(knobs), wanted_(wanted), home_(std::move(home)) {}

  static constexpr std::array<double, 3> lines{line_d_um, line_f_um, line_c_um};
  static constexpr std::array<double, 4> fields{0.0, 0.5, 0.8, 1.0};

  std::size_t size() const {
    const std::size_t ways = wanted_.squeeze > 1.0 ? 2 : 1;
    return knobs_.size() + 4 + 2 * ways * fields.size() * lines.size() * beams.size() +
           4 * start_.surfaces.size() + fields.size() * ways;
  }

  bool operator()(double const* const* x, double* out) const {
    std::fill(out, out + size(), 0.0);
    try {
      return evaluate(x[0], out);
    } catch (const Error&) {
      return false;
    }
  }

 private:
  bool evaluate(const double* x, double* out) const {
    Prescription p = turned(start_, knobs_, x, wanted_.focal);
    // Everything against a spot of a few micrometres.
    constexpr double spot = 0.004;
    constexpr double lost = 40.0;
    ParaxialFacts facts = paraxial_facts(TracedGlass(p));
    std::size_t at = 0;
    out[at++] = (facts.focal.mm() / wanted_.focal - 1.0) / 1e-3;
    out[at++] = std::max(0.0, wanted_.back - facts.back_focus.mm()) / (0.01 * wanted_.focal);
    if (wanted_.squeeze > 1.0) {
      const ParaxialFacts beside = paraxial_facts(TracedGlass(p), Meridian::across);
      out[at++] = (facts.focal / beside.focal - wanted_.squeeze) / 1e-3;
      out[at++] = (beside.back_focus - facts.back_focus).mm() / 0.02;
    } else {
      at += 2;
    }
    std::vector<double> heights(p.surfaces.size(), 0.0);
    const int ways = wanted_.squeeze > 1.0 ? 2 : 1;
    TracedGlass green(p);
    const double opening = opening_for(green, wanted_.stop).mm();
    for (int way = 0; way < ways; ++way) {
      const double widest =
          way == 1 ? std::atan(wanted_.squeeze * wanted_.aspect * std::tan(rad(wanted_.field_deg)))
                   : rad(wanted_.field_deg);
      for (const double field : fields) {
        const double tangent = field * std::tan(widest);
        const RaySource from =
            way == 0 ? RaySource::far({0.0, tangent, 1.0}) : RaySource::far({tangent, 0.0, 1.0});
        const auto chief = aimed(green, from, {0.0, 0.0});
        const GlassWay middle =
            chief ? green.to_film(*chief, false) : GlassWay{{}, RayEnd::missed, 0};
        if (middle.end != RayEnd::passed) {
          for (std::size_t k = 0; k < 1 + 2 * lines.size() * beams.size(); ++k) out[at++] = lost;
          continue;
        }
        // Lines stay straight enough.
        const double there = middle.ray.at[way == 0 ? 1 : 0];
        const double focal = way == 0 ? facts.focal.mm() : facts.focal.mm() / wanted_.squeeze;
        out[at++] = 0.02 * (there - focal * tangent) / spot;
        for (const double line : lines) {
          TracedGlass glass(p, {}, line);
          const double squeezed = 1.0 - (1.0 - wanted_.vignette) * field * field;
          for (const Beam& b : beams) {
            const auto ray =
                aimed(glass, from, {opening * b.across * squeezed, opening * b.up * squeezed});
            const GlassWay end = ray ? glass.to_film(*ray, false) : GlassWay{{}, RayEnd::missed, 0};
            if (end.end != RayEnd::passed) {
              // A ray that is lost is worth as much as one that lands far away.
              out[at++] = lost;
              out[at++] = lost;
              continue;
            }
            const double weight = (line == line_d_um ? 1.0 : 0.5) / (1.0 + field);
            double kept = 0.0;
            if (field == 0.0 && wanted_.soft > 0.0) {
              const double r = std::hypot(b.across, b.up);
              kept = -wanted_.soft * r * r * r / std::max(r, 1e-9);
            }
            out[at++] = weight * (end.ray.at[0] - middle.ray.at[0] - kept * b.across) / spot;
            out[at++] = weight * (end.ray.at[1] - middle.ray.at[1] - kept * b.up) / spot;
            if (line == line_d_um) note_heights(glass, *ray, heights);
          }
        }
      }
    }
    // Elements keep an edge, and a middle that is neither a plate's nor a block's.
    for (std::size_t k = 0; k < knobs_.size(); ++k) out[at++] = wanted_.hold * (x[k] - home_[k]);
    for (std::size_t i = 0; i + 1 < p.surfaces.size(); ++i) {
      const TracedSurface& a = green.surfaces()[i];
      const TracedSurface& b = green.surfaces()[i + 1];
      const double h = 1.05 * std::max(heights[i], heights[i + 1]);
      const double edge = p.surfaces[i].gap.mm() + bowl(b, h) - bowl(a, h);
      const bool glass = !p.surfaces[i].medium.is_air();
      const double least = (glass ? 0.02 : 0.004) * wanted_.focal;
      const double miss = std::max(0.0, least - edge);
      out[at++] = miss / (0.002 * wanted_.focal);
      const double most = (glass ? thickest_ : 0.4) * wanted_.focal;
      out[at++] = std::max(0.0, p.surfaces[i].gap.mm() - most) / (0.01 * wanted_.focal);
      // No deep bowls.
      const double steep = std::abs(a.curvature) * h;
      out[at++] = std::max(0.0, steep - 0.85) / 0.002;
      out[at++] = 0.0;
    }
    return true;
  }

  static void note_heights(const TracedGlass& glass, const GlassRay& ray,
                           std::vector<double>& heights) {
    // Where it is on each surface: by glasses cut off there would be simpler, not quicker.
    GlassRay r = ray;
    for (std::size_t i = 0; i < glass.surfaces().size(); ++i) {
      const GlassWay way = glass.to_surface(ray, i);
      if (way.end != RayEnd::passed) return;
      r = way.ray;
      heights[i] = std::max(heights[i], std::hypot(r.at[0], r.at[1]));
    }
  }

  // How deep it is at a height, at most as deep as a half sphere nearly is.
  static double bowl(const TracedSurface& s, double h) {
    const double most = std::abs(s.curvature) > 0.0 ? 0.95 / std::abs(s.curvature) : h;
    const double side = std::min(h, most) / std::numbers::sqrt2;
    return sag_of(s, side, side);
  }

  static double rad(double deg) { return deg * std::numbers::pi / 180.0; }

  Prescription start_;
  std::vector<Knob> knobs_;
  Wanted wanted_;
  std::vector<double> home_;  // where knobs stood
  double thickest_ = 0.17;    // glass, as a share of the focal length
};

// The field and the opening grow: a rough form lets few rays through.
double bend(const Prescription& start, const std::vector<Knob>& knobs, const Wanted& wanted,
            std::vector<double>& x, int rounds, bool whole = false) {
  double cost = 1e300;
  for (const double share : {0.25, 0.4, 0.55, 0.7, 0.8, 0.9, 1.0}) {
    if (share < wanted.begin) continue;
    if (whole && share < 1.0) continue;
    Wanted now = wanted;
    now.field_deg = wanted.field_deg * share;
    now.stop = wanted.stop / (0.4 + 0.6 * share);
    now.soft = wanted.soft * share;
    now.hold = share < 1.0 ? 60.0 : 2.0;
    auto* merit = new Merit(start, knobs, now, x);
    const int size = static_cast<int>(merit->size());
    auto* function = new ceres::DynamicNumericDiffCostFunction<Merit, ceres::CENTRAL>(merit);
    function->AddParameterBlock(static_cast<int>(x.size()));
    function->SetNumResiduals(size);
    ceres::Problem problem;
    problem.AddResidualBlock(function, nullptr, x.data());
    ceres::Solver::Options options;
    options.max_num_iterations = rounds;
    options.logging_type = ceres::SILENT;
    options.linear_solver_type = ceres::DENSE_QR;
    ceres::Solver::Summary summary;
    ceres::Solve(options, &problem, &summary);
    if (!summary.IsSolutionUsable()) return 1e300;
    cost = summary.final_cost;
  }
  return cost;
}

// Diameters by the beams that are to pass: all of it in the middle, a share of it in the corner.
void set_clear(Prescription& p, const Wanted& wanted) {
  for (GlassSurface& s : p.surfaces) s.clear = s.stop ? Length::from_mm(1e4) : Length::infinity();
  TracedGlass glass(p);
  const double opening = opening_for(glass, wanted.stop).mm();
  std::vector<double> most(p.surfaces.size(), 0.0);
  const double tangent = std::tan(wanted.field_deg * std::numbers::pi / 180.0);
  for (const double field : {0.0, 0.5, 1.0}) {
    for (const double u : {-1.0, -0.5, 0.0, 0.5, 1.0}) {
      for (int way = 0; way < (wanted.squeeze > 1.0 ? 2 : 1); ++way) {
        const double squeezed = 1.0 - (1.0 - wanted.vignette) * field * field;
        const double t = field * tangent * (way == 1 ? wanted.squeeze * wanted.aspect : 1.0);
        const RaySource from =
            way == 0 ? RaySource::far({0.0, t, 1.0}) : RaySource::far({t, 0.0, 1.0});
        const double h = opening * u * squeezed;
        const auto ray = aimed(glass, from, way == 0 ? std::array{0.0, h} : std::array{h, 0.0});
        if (!ray) continue;
        for (std::size_t i = 0; i < p.surfaces.size(); ++i) {
          const GlassWay there = glass.to_surface(*ray, i);
          if (there.end != RayEnd::passed) break;
          most[i] = std::max(most[i], std::hypot(there.ray.at[0], there.ray.at[1]));
        }
      }
    }
  }
  for (std::size_t i = 0; i < p.surfaces.size(); ++i) {
    const double d = 2.0 * (p.surfaces[i].stop ? opening : 1.01 * most[i]);
    p.surfaces[i].clear = Length::from_mm(std::round(1e3 * d) / 1e3);
  }
}

}  // namespace

int main(int argc, char** argv) {
  Wanted wanted;
  const std::map<std::string, double*> numbers{
      {"--focal", &wanted.focal},     {"--stop", &wanted.stop},
      {"--field", &wanted.field_deg}, {"--vignette", &wanted.vignette},
      {"--soft", &wanted.soft},       {"--back", &wanted.back},
      {"--squeeze", &wanted.squeeze}, {"--spread", &wanted.spread},
      {"--begin", &wanted.begin},     {"--aspect", &wanted.aspect}};
  for (int i = 2; i + 1 < argc; i += 2) {
    const auto found = numbers.find(argv[i]);
    if (found != numbers.end()) *found->second = std::atof(argv[i + 1]);
    if (std::string(argv[i]) == "--rounds") wanted.rounds = std::atoi(argv[i + 1]);
    if (std::string(argv[i]) == "--tries") wanted.tries = std::atoi(argv[i + 1]);
    if (std::string(argv[i]) == "--seed") wanted.seed = std::atoi(argv[i + 1]);
  }
  try {
    if (argc < 2) throw UsageError("design_glass START.glass.toml --focal 50 --stop 2 --field 22");
    const Prescription start = read_glass(argv[1]);
    const std::vector<Knob> knobs = knobs_of(start);
    std::vector<double> x;
    for (const Knob& k : knobs) {
      const GlassSurface& s = start.surfaces[k.surface];
      x.push_back(k.gap ? std::sqrt(std::max(0.0, s.gap.mm() - least_gap(s, wanted.focal)) /
                                    (0.1 * wanted.focal))
                        : wanted.focal / s.radius.mm());
    }
    x.push_back(0.0);  // how far the film is from where rays near the axis meet
    // Forms near the one that was written down; the best is bent on.
    std::mt19937 random(static_cast<unsigned>(wanted.seed));
    std::normal_distribution<double> off;
    std::vector<double> best;
    double least = 1e300;
    for (int i = 0; i < wanted.tries; ++i) {
      std::vector<double> one = x;
      for (double& v : one) v += i == 0 ? 0.0 : wanted.spread * (0.3 + std::abs(v)) * off(random);
      const double cost = bend(start, knobs, wanted, one, wanted.rounds);
      fmt::print(stderr, "{:>3}: {:.4g}\n", i, cost);
      if (!(cost < least)) continue;
      least = cost;
      best = one;
    }
    if (best.empty()) throw OpticsError("no form near this one images at all");
    x = best;
    fmt::print(stderr, "best {:.4g}\n", bend(start, knobs, wanted, x, 6 * wanted.rounds, true));
    Prescription p = turned(start, knobs, x.data(), wanted.focal);
    for (GlassSurface& s : p.surfaces) {
      if (s.radius.is_finite()) s.radius = Length::from_mm(std::round(1e3 * s.radius.mm()) / 1e3);
      s.gap = Length::from_mm(std::round(1e3 * s.gap.mm()) / 1e3);
    }
    set_clear(p, wanted);
    fmt::print("{}", glass_text(p));
    return 0;
  } catch (const Error& e) {
    fmt::print(stderr, "design_glass: {}\n", e.what());
    return 1;
  }
}
