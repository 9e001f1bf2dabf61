#include "common_ratio.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "measure/constants.hpp"

namespace jolly_iris::measuring {

namespace {

double bell(double t) { return std::exp(-0.5 * t * t) / std::sqrt(2.0 * std::numbers::pi); }
double below(double t) { return 0.5 * std::erfc(-t / std::sqrt(2.0)); }

// How likely a pair's ratio is, where the blur's is r.
double likelihood(const DiscPair& pair, double r) {
  const double ratio = std::exp(pair.larger);
  const double sigma = std::max(pair.sigma, ratios::least_sigma) * ratio;
  const bool clipped = pair.plate.clipped || pair.cg.clipped;
  const double most = clipped ? ratios::most_own : ratios::most_own_seen;
  // From r, where nothing of the lamp shows, towards 1.
  const double end = r + most * (1.0 - r);
  const double low = std::min(r, end);
  const double high = std::max(r, end);
  if (high - low < 0.1 * sigma) return bell((ratio - r) / sigma) / sigma;
  return (below((ratio - low) / sigma) - below((ratio - high) / sigma)) / (high - low);
}

}  // namespace

Measured common_ratio(const std::vector<DiscPair>& pairs) {
  std::vector<DiscPair> told;
  for (const DiscPair& p : pairs) {
    if (p.sigma > 0.0) told.push_back(p);
  }
  if (told.size() < 2) return {};
  std::vector<double> cost;
  double best = -1e300;
  const double outlier = ratios::outliers / (2.0 * ratios::farthest);
  for (int i = -ratios::steps; i <= ratios::steps; ++i) {
    const double r = std::exp(ratios::farthest * i / ratios::steps);
    double sum = 0.0;
    for (const DiscPair& p : told) {
      sum += std::log((1.0 - ratios::outliers) * likelihood(p, r) + outlier);
    }
    cost.push_back(sum);
    best = std::max(best, sum);
  }
  double weight = 0.0;
  double mean = 0.0;
  double square = 0.0;
  for (std::size_t i = 0; i < cost.size(); ++i) {
    const double w = std::exp(cost[i] - best);
    const double at = ratios::farthest * (static_cast<double>(i) - ratios::steps) / ratios::steps;
    weight += w;
    mean += w * at;
    square += w * at * at;
  }
  mean /= weight;
  const double variance = std::max(0.0, square / weight - mean * mean);
  return {mean, 2.0 * std::max(std::sqrt(variance), ratios::farthest / ratios::steps)};
}

}  // namespace jolly_iris::measuring
