#include "edge_posterior.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "disc_pixels.hpp"
#include "measure/constants.hpp"
#include "normal_equations.hpp"

namespace jolly_iris::measuring {

namespace {

// Logarithm of how likely a lamp of that size is, against others: most are small, and where the
// plate's others tell how large they are, much like those.
double log_prior_of(double size, const std::optional<LampSize>& lamp) {
  if (!lamp) {
    const double z = size / one_disc::usual_lamp;
    return -0.5 * z * z;
  }
  const double at_least = std::max(size, one_disc::smallest_lamp);
  const double z = std::log(at_least / lamp->fraction) / lamp->spread;
  return -0.5 * z * z - std::log(at_least);
}

// Fits the edge's place, the ground and the light to a line.
class LineFit {
 public:
  LineFit(const EdgeLine& line, const LumaModel& look)
      : line_(line), look_(look), hidden_(line.cut[1]) {}

  // Levenberg and Marquardt's way: a step that leads astray is taken shorter.
  EdgeTry fit(const DrawnDisc& start) const {
    EdgeTry best;
    best.cost = std::numeric_limits<double>::infinity();
    DrawnDisc d = start;
    NormalEquations<3> there;  // at the best
    double damping = 1e-3;
    for (int step = 0; step <= one_disc::steps_on_line; ++step) {
      NormalEquations<3> normal;
      const double cost = sum_up(d, normal);
      const bool better = cost < best.cost;
      const bool settled = std::abs(cost - best.cost) < one_disc::settled;
      if (better) {
        best.disc = d;
        best.cost = cost;
        there = normal;
      }
      if (settled || !std::isfinite(best.cost)) break;
      damping = better ? std::max(0.1 * damping, 1e-6) : 10.0 * damping;
      if (damping > 1e3) break;
      NormalEquations<3> damped = there;
      damped.damp(1.0 + damping, 1e-9);
      const Terms<3> by = damped.solve();
      d = best.disc;
      d.height = std::clamp(d.height + 2.0 * std::clamp(by[0], -1.0, 1.0), 0.5 * line_.disc.height,
                            2.0 * line_.disc.height);
      d.ground += by[1] * look_.white();
      shine(d, d.contrast * std::exp(std::clamp(by[2], -0.7, 0.7)));
    }
    best.moved_px = 0.5 * (best.disc.height - line_.disc.height);
    // With the light free, less with the light held.
    there.damp(1.0, 1e-9);
    NormalEquations<3> held = there;
    held.add({0.0, 0.0, 1e6}, 0.0);
    best.light_px2 = std::max(0.0, there.inverse_row(0)[0] - held.inverse_row(0)[0]);
    return best;
  }

  void shine(DrawnDisc& d, double contrast) const {
    if (hidden_) contrast = std::max(contrast, one_disc::least_excess * line_.inside[1]);
    d.contrast = contrast;
    d.colour = colour_for(contrast, line_.inside, line_.cut, line_.cut_colour);
  }

  bool hidden() const { return hidden_; }

 private:
  // @return half of χ²
  double sum_up(const DrawnDisc& d, NormalEquations<3>& normal) const {
    double cost = 0.0;
    const Drawing drawing(d, round_, look_);
    for (const Sample& s : line_.samples) {
      const DrawnPixel p = drawing.at(s);
      const double off = s.weight * (s.value - p.value);
      cost += 0.5 * off * off;
      normal.add({s.weight * p.edge, s.weight * p.ground * look_.white(), s.weight * p.shine}, off);
    }
    if (hidden_) {
      const double off =
          (std::log(one_disc::usual_excess * line_.inside[1]) - std::log(d.contrast)) /
          one_disc::excess_spread;
      cost += 0.5 * off * off;
      normal.add({0.0, 0.0, 1.0 / one_disc::excess_spread}, off);
    }
    return cost;
  }

  const EdgeLine& line_;
  const LumaModel& look_;
  bool hidden_;
  BladeShape round_{};
};

}  // namespace

std::array<double, 3> colour_for(double contrast, const std::array<double, 3>& inside,
                                 const std::array<bool, 3>& cut,
                                 const std::array<double, 3>& cut_colour) {
  std::array<double, 3> colour = cut_colour;
  for (const std::size_t c : {std::size_t{0}, std::size_t{2}}) {
    const double at_least = inside[c] / contrast;
    if (!cut[c]) {
      colour[c] = at_least;
    } else if (!cut[1]) {
      colour[c] = std::max(cut_colour[c], 1.3 * at_least);
    }
  }
  return colour;
}

std::vector<EdgeTry> edge_tries(const EdgeLine& line, const LumaModel& look,
                                const EdgeTable& kernel, const std::optional<LampSize>& lamp,
                                std::size_t sizes) {
  std::vector<EdgeTry> out;
  const LineFit fit(line, look);
  DrawnDisc d = line.disc;
  d.edges = &kernel;
  for (std::size_t i = 0; i < one_disc::lamp_fractions.size(); i += sizes) {
    const double size = one_disc::lamp_fractions[i];
    d.soft = std::hypot(kernel.sigma_px(), size * line.disc.height);
    EdgeTry best;
    best.cost = std::numeric_limits<double>::infinity();
    if (out.empty() && fit.hidden()) {
      for (const double times : one_disc::excesses) {
        DrawnDisc start = d;
        fit.shine(start, times * line.inside[1]);
        if (const EdgeTry one = fit.fit(start); one.cost < best.cost) best = one;
      }
    } else {
      // Each begins where the one before it ended.
      best = fit.fit(d);
    }
    if (!std::isfinite(best.cost)) continue;
    best.size = size;
    best.log_prior = log_prior_of(size, lamp);
    const double soft = d.soft;
    d = best.disc;
    d.soft = soft;
    out.push_back(best);
  }
  return out;
}

double misfit_of(const std::vector<EdgeTry>& tries, std::size_t samples) {
  double cheapest = std::numeric_limits<double>::infinity();
  for (const EdgeTry& t : tries) cheapest = std::min(cheapest, t.cost);
  const double free = static_cast<double>(samples) - 4.0;
  if (!std::isfinite(cheapest) || !(free > 0.0)) return one_disc::least_misfit;
  return std::max(one_disc::least_misfit, 2.0 * cheapest / free);
}

// Between sizes that were tried, costs and places are on straight lines.
EdgePosterior edge_posterior(const std::vector<EdgeTry>& tries, double misfit) {
  EdgePosterior out;
  out.log_evidence = -std::numeric_limits<double>::infinity();
  if (tries.empty()) return out;
  const auto log_weight = [&](const EdgeTry& t) { return t.log_prior - t.cost / misfit; };
  for (std::size_t i = 0; i < tries.size(); ++i) {
    if (log_weight(tries[i]) > log_weight(tries[out.likeliest])) out.likeliest = i;
  }
  const double best = log_weight(tries[out.likeliest]);
  double sum = 0.0;
  double first = 0.0;
  double second = 0.0;
  const auto add = [&](double weight, double log_w, double moved, double light_px2) {
    const double w = weight * std::exp(log_w - best);
    sum += w;
    first += w * moved;
    second += w * (moved * moved + misfit * light_px2);
  };
  constexpr int between = 8;
  for (std::size_t i = 0; i + 1 < tries.size(); ++i) {
    const EdgeTry& a = tries[i];
    const EdgeTry& b = tries[i + 1];
    for (int k = 0; k < between; ++k) {
      const double f = (k + 0.5) / between;
      const auto mix = [&](double u, double v) { return u + f * (v - u); };
      add((b.size - a.size) / between, mix(log_weight(a), log_weight(b)),
          mix(a.moved_px, b.moved_px), mix(a.light_px2, b.light_px2));
    }
  }
  const EdgeTry& likeliest = tries[out.likeliest];
  if (tries.size() == 1) add(1.0, best, likeliest.moved_px, likeliest.light_px2);
  // So steep that nothing is left between: then it is this one, and nearly no other size.
  constexpr double narrow = 1e-4;  // a part of what lies between two sizes
  if (!(sum > 0.0)) add(narrow, best, likeliest.moved_px, likeliest.light_px2);
  out.moved_px = first / sum;
  out.sigma_px = std::sqrt(std::max(0.0, second / sum - out.moved_px * out.moved_px));
  out.log_evidence = best + std::log(sum);
  return out;
}

}  // namespace jolly_iris::measuring
