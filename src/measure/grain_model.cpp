#include "grain_model.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace jolly_iris::measuring {

namespace {

// Chance lifts one flat square in a hundred and fifty above this many deviations.
constexpr double quiet_sigmas = 2.5;
constexpr int levels_apart = 10;          // groups of squares by their light
constexpr std::size_t least_a_group = 6;  // flat squares, for a group to count
constexpr double softest_px = 2.5;

// The variance of squares of about one light, those with texture left out: from the quietest up,
// until chance no longer explains more.
struct Quiet {
  double variance = 0.0;
  std::size_t flat = 0;
};
Quiet quiet_of(std::vector<double> variances, double relative_sigma) {
  std::sort(variances.begin(), variances.end());
  const std::size_t first = std::max<std::size_t>(3, variances.size() / 20);
  if (variances.size() < least_a_group) return {};
  double v = variances[first / 2];
  Quiet out;
  for (int i = 0; i < 50; ++i) {
    const double limit = v * (1.0 + quiet_sigmas * relative_sigma);
    const auto end = std::upper_bound(variances.begin(), variances.end(), limit);
    const auto n = static_cast<std::size_t>(end - variances.begin());
    const double mean = std::accumulate(variances.begin(), end, 0.0) /
                        static_cast<double>(std::max<std::size_t>(1, n));
    out = {mean, n};
    if (!(mean > v * (1.0 + 1e-6))) break;
    v = mean;
  }
  return out;
}

// Least squares of variance against light, each square by the inverse of its own variance's
// variance; neither a nor b below zero.
VarianceModel fitted(const GrainSquares& squares, std::size_t c, const VarianceModel& weights,
                     const DifferenceLaw& law, GrainScale scale) {
  double sw = 0.0, sx = 0.0, sy = 0.0, sxx = 0.0, sxy = 0.0;
  for (const GrainSquare* s : squares) {
    const double x = std::max(0.0, s->level[c]);
    const double y = s->variance(c, law, scale);
    const double w = 1.0 / std::pow(weights.at(x), 2.0);
    sw += w;
    sx += w * x;
    sy += w * y;
    sxx += w * x * x;
    sxy += w * x * y;
  }
  const double det = sw * sxx - sx * sx;
  VarianceModel out{sw > 0.0 ? sy / sw : 0.0, 0.0};
  if (det > 1e-9 * sw * sxx) {
    out = {(sxx * sy - sx * sxy) / det, (sw * sxy - sx * sy) / det};
    if (out.b < 0.0) out = {sy / sw, 0.0};
    if (out.a < 0.0) out = {0.0, sxy / sxx};
  }
  return out;
}

// How soft it is, by what neighbours differ less than far ones.
double size_from(const GrainSquares& squares, const std::array<VarianceModel, 3>& model) {
  double near = 0.0;
  double middle = 0.0;
  for (const GrainSquare* s : squares) {
    for (std::size_t c = 0; c < 3; ++c) {
      const double w = 1.0 / model[c].at(s->level[c]);
      near += w * s->of[c].near;
      middle += w * s->of[c].middle;
    }
  }
  const double ratio = near / middle;
  double low = 0.0;
  double high = softest_px;
  for (int i = 0; i < 40; ++i) {
    const double mid = 0.5 * (low + high);
    const DifferenceLaw law = difference_law(mid);
    (law.near / law.middle > ratio ? low : high) = mid;
  }
  return 0.5 * (low + high);
}

}  // namespace

std::vector<GrainSquare> grain_squares(const Picture& plate, double clips_at) {
  std::vector<GrainSquare> out;
  for (int y = 0; y + grain_square <= plate.height(); y += grain_square) {
    for (int x = 0; x + grain_square <= plate.width(); x += grain_square) {
      GrainSquare s;
      s.box = {x, y, grain_square, grain_square};
      bool clipped = false;
      std::size_t dark = 0;
      for (int v = y; v < y + grain_square; ++v) {
        for (int u = x; u < x + grain_square; ++u) {
          const Rgba& p = plate.at(u, v);
          for (std::size_t c = 0; c < 3; ++c) {
            s.level[c] += static_cast<double>(p[c]);
            clipped = clipped || static_cast<double>(p[c]) >= clips_at;
            dark += p[c] == 0.0F;
          }
        }
      }
      // What ends at black has lost half of its grain.
      if (clipped || dark > 12U) continue;
      for (double& l : s.level) l /= grain_square * grain_square;
      const auto differences = second_differences(plate, s.box);
      s.of = differences.of;
      s.across = differences.across;
      out.push_back(s);
    }
  }
  return out;
}

VarianceModel first_model(const std::vector<GrainSquare>& squares, std::size_t c,
                          const DifferenceLaw& law) {
  GrainSquares sorted;
  for (const GrainSquare& s : squares) sorted.push_back(&s);
  std::sort(sorted.begin(), sorted.end(),
            [&](const GrainSquare* p, const GrainSquare* q) { return p->level[c] < q->level[c]; });
  double sw = 0.0, sx = 0.0, sy = 0.0, sxx = 0.0, sxy = 0.0;
  for (int g = 0; g < levels_apart; ++g) {
    const std::size_t from = sorted.size() * static_cast<std::size_t>(g) / levels_apart;
    const std::size_t to = sorted.size() * static_cast<std::size_t>(g + 1) / levels_apart;
    std::vector<double> variances;
    double level = 0.0;
    for (std::size_t i = from; i < to; ++i) {
      variances.push_back(sorted[i]->variance(c, law, GrainScale::middle));
      level += std::max(0.0, sorted[i]->level[c]);
    }
    const Quiet quiet = quiet_of(variances, law.middle_sigma);
    if (quiet.flat < least_a_group || !(quiet.variance > 0.0)) continue;
    level /= static_cast<double>(variances.size());
    const double w = static_cast<double>(quiet.flat) / (quiet.variance * quiet.variance);
    sw += w;
    sx += w * level;
    sy += w * quiet.variance;
    sxx += w * level * level;
    sxy += w * level * quiet.variance;
  }
  if (!(sw > 0.0)) return {};
  const double det = sw * sxx - sx * sx;
  VarianceModel out{sy / sw, 0.0};
  if (det > 1e-9 * sw * sxx) out = {(sxx * sy - sx * sxy) / det, (sw * sxy - sx * sy) / det};
  if (out.b < 0.0) out = {sy / sw, 0.0};
  if (out.a < 0.0) out = {0.0, sxy / sxx};
  return out;
}

GrainEstimate grain_estimate(const GrainSquares& squares, GrainEstimate from, GrainScale scale) {
  for (int i = 0; i < 3; ++i) {
    const DifferenceLaw law = difference_law(from.size_px);
    for (std::size_t c = 0; c < 3; ++c) {
      from.model[c] = fitted(squares, c, from.model[c], law, scale);
    }
    from.size_px = size_from(squares, from.model);
  }
  double common = 0.0;
  double all = 0.0;
  const double expected = difference_law(from.size_px).middle;
  for (const GrainSquare* s : squares) {
    for (std::size_t c = 0; c < 3; ++c) {
      const std::size_t d = (c + 1) % 3;
      common +=
          s->across[c] / std::sqrt(from.model[c].at(s->level[c]) * from.model[d].at(s->level[d]));
      all += expected;
    }
  }
  from.alike = all > 0.0 ? common / all : 0.0;
  return from;
}

}  // namespace jolly_iris::measuring
