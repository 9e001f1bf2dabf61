#include "streak_fit.hpp"

#include <algorithm>
#include <cmath>

namespace jolly_iris::measuring {

namespace {

// What no part of a strip tells better than: a lamp's outline, strips of half a degree.
constexpr double of_a_part = 0.04;

// What lies along one strip of one lamp, as a share of its light a px.
struct StripLight {
  std::vector<double> at{};
  std::vector<std::array<double, 3>> share{};
  std::vector<double> weight{};
};

// (1 + (r/r₀)²)^(−p/2) along a line, its sum over both sides 1.
class LineFall {
 public:
  LineFall(double reach, double power, double largest) : reach_(reach), power_(power) {
    // By steps that widen with the distance.
    double sum = 0.0;
    for (double u = 0.0; u < largest;) {
      const double step = std::max(0.02 * reach, 0.02 * u);
      sum += 2.0 * step * fall(u + 0.5 * step);
      u += step;
    }
    all_ = sum;
  }
  double at(double u) const { return fall(u) / all_; }
  // Of both sides, no farther than this.
  double within(double px) const {
    double sum = 0.0;
    for (int i = 0; i < 40; ++i) sum += 2.0 * px / 40.0 * fall(px * (i + 0.5) / 40.0);
    return sum / all_;
  }

 private:
  double fall(double u) const { return std::pow(1.0 + u * u / (reach_ * reach_), -0.5 * power_); }
  double reach_;
  double power_;
  double all_ = 1.0;
};

std::vector<StripLight> strips_along(const std::vector<RayStrips>& lamps, double direction_deg) {
  std::vector<StripLight> out;
  for (const RayStrips& lamp : lamps) {
    for (const double deg : {direction_deg, direction_deg + 180.0}) {
      const int d =
          ((static_cast<int>(std::lround(deg * ray_directions / 360.0)) % ray_directions) +
           ray_directions) %
          ray_directions;
      StripLight strip;
      for (std::size_t k = 0; k < lamp.parts(); ++k) {
        if (lamp.seen[lamp.at(d, k)] == 0) continue;
        const auto& e = lamp.excess[lamp.at(d, k)];
        std::array<double, 3> share{};
        double all = 0.0;
        for (std::size_t c = 0; c < 3; ++c) {
          share[c] = static_cast<double>(e[c]) / lamp.light[c];
          all += lamp.light[c] / 3.0;
        }
        strip.at.push_back(lamp.distance[k]);
        strip.share.push_back(share);
        const double mean = (share[0] + share[1] + share[2]) / 3.0;
        strip.weight.push_back(
            1.0 / (std::pow(lamp.sigma[k] / all, 2.0) + std::pow(of_a_part * mean, 2.0)));
      }
      if (strip.at.size() >= 4) out.push_back(std::move(strip));
    }
  }
  return out;
}

struct OneFit {
  double reach = 1.0;
  double power = 2.0;
  std::array<double, 3> fraction{};
  double misfit = 1e300;
};

constexpr std::size_t nothing = static_cast<std::size_t>(-1);

OneFit with_shape(const std::vector<StripLight>& strips, double reach, double power, double largest,
                  double core, std::size_t without) {
  const LineFall fall(reach, power, largest);
  OneFit out{reach, power, {}, 0.0};
  double tt = 0.0;
  std::array<double, 3> ty{};
  double yy = 0.0;
  for (std::size_t i = 0; i < strips.size(); ++i) {
    if (i == without) continue;
    const StripLight& s = strips[i];
    for (std::size_t k = 0; k < s.at.size(); ++k) {
      const double t = fall.at(s.at[k]);
      tt += s.weight[k] * t * t;
      for (std::size_t c = 0; c < 3; ++c) {
        ty[c] += s.weight[k] * t * s.share[k][c];
        yy += s.weight[k] * s.share[k][c] * s.share[k][c];
      }
    }
  }
  out.misfit = yy;
  // A lamp's own light is what is left of it, and what its streak has over itself.
  const double own = 1.0 - fall.within(core);
  for (std::size_t c = 0; c < 3; ++c) {
    out.fraction[c] = tt > 0.0 ? ty[c] / tt : 0.0;
    out.misfit -= out.fraction[c] * ty[c];
    out.fraction[c] /= 1.0 + std::max(0.0, out.fraction[c]) * own;
  }
  return out;
}

OneFit best_of(const std::vector<StripLight>& strips, double largest, double core,
               std::size_t without) {
  OneFit best;
  double log_reach = std::log(10.0);
  double power = 2.0;
  double wider = 1.2;
  double steeper = 0.4;
  // Halving steps around the best so far: two numbers, one valley.
  for (int round = 0; round < 40; ++round) {
    bool better = false;
    for (int i = -2; i <= 2; ++i) {
      for (int j = -2; j <= 2; ++j) {
        const double r = std::clamp(log_reach + i * wider, std::log(0.5), std::log(largest));
        const double p = std::clamp(power + j * steeper, 1.05, 6.0);
        const OneFit f = with_shape(strips, std::exp(r), p, largest, core, without);
        if (f.misfit < best.misfit * (1.0 - 1e-12)) {
          best = f;
          better = true;
        }
      }
    }
    log_reach = std::log(best.reach);
    power = best.power;
    if (!better || round % 4 == 3) {
      wider *= 0.5;
      steeper *= 0.5;
    }
    if (wider < 2e-3) break;
  }
  return best;
}

}  // namespace

std::optional<StreakFit> fitted_streak(const std::vector<RayStrips>& lamps, double direction_deg,
                                       double largest_px) {
  const std::vector<StripLight> strips = strips_along(lamps, direction_deg);
  if (strips.size() < 3) return std::nullopt;
  double core = 0.0;  // how far lamps reach
  for (const RayStrips& lamp : lamps) {
    core += lamp.half_width / static_cast<double>(lamps.size());
  }
  const OneFit best = best_of(strips, largest_px, core, nothing);
  std::vector<OneFit> without;
  for (std::size_t i = 0; i < strips.size(); ++i)
    without.push_back(best_of(strips, largest_px, core, i));
  // Two standard deviations from fits that each left one strip out (Efron 1982), wider for few.
  const auto n = static_cast<double>(strips.size());
  const auto margin = [&](const auto& value_of) {
    double mean = 0.0;
    for (const OneFit& f : without) mean += value_of(f) / n;
    double squares = 0.0;
    for (const OneFit& f : without) squares += std::pow(value_of(f) - mean, 2.0);
    return 2.0 * (1.0 + 1.5 / (n - 1.0)) * std::sqrt((n - 1.0) / n * squares);
  };
  // What the model leaves out (a lamp's own width, strips of half a degree): of the value.
  constexpr double of_the_model = 0.03;
  StreakFit out;
  for (std::size_t c = 0; c < 3; ++c) {
    const double m = margin([c](const OneFit& f) { return f.fraction[c]; });
    out.fraction[c] = {best.fraction[c], std::hypot(m, of_the_model * best.fraction[c])};
  }
  const double log_margin = margin([](const OneFit& f) { return std::log(f.reach); });
  out.reach_px = {best.reach, best.reach * std::hypot(log_margin, of_the_model)};
  out.power = {best.power,
               std::hypot(margin([](const OneFit& f) { return f.power; }), of_the_model)};
  return out;
}

double most_hidden_streak(const std::vector<RayStrips>& lamps, double reach_px, double power,
                          double largest_px) {
  const LineFall fall(reach_px, power, largest_px);
  double most = 0.0;
  for (int d = 0; d < ray_directions / 2; d += 2) {
    double tt = 0.0;
    double ty = 0.0;
    for (const StripLight& s : strips_along(lamps, d * 360.0 / ray_directions)) {
      for (std::size_t k = 0; k < s.at.size(); ++k) {
        const double t = fall.at(s.at[k]);
        tt += s.weight[k] * t * t;
        ty += s.weight[k] * t * (s.share[k][0] + s.share[k][1] + s.share[k][2]) / 3.0;
      }
    }
    if (!(tt > 0.0)) return 1.0;
    most = std::max(most, std::max(0.0, ty / tt) + 2.0 / std::sqrt(tt));
  }
  return std::min(1.0, most);
}

}  // namespace jolly_iris::measuring
