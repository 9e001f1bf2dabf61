// What many measurements of one thing say together.
#pragma once

#include <algorithm>
#include <cmath>
#include <vector>

#include "grey_image.hpp"
#include "jolly_iris/measure/lines.hpp"

namespace jolly_iris::measuring {

/// The mean by each one's deviation, those far off the median left out; its margin (two deviations)
/// goes by how they scatter, if that is more.
/// @param all their margins are *one* deviation here; those without one do not count
/// @param of_scatter share of the scatter that each deviation is widened by
inline Measured robust_mean(std::vector<Measured> all, double of_scatter) {
  std::erase_if(all,
                [](const Measured& m) { return !(m.margin > 0.0) || !std::isfinite(m.value); });
  if (all.empty()) return {};
  std::vector<double> values;
  for (const Measured& m : all) values.push_back(m.value);
  const double middle = quantile(values, 0.5);
  for (double& v : values) v = std::abs(v - middle);
  const double scatter = 1.48 * quantile(values, 0.5) + 1e-4;
  double sum = 0.0;
  double weight = 0.0;
  double residual2 = 0.0;
  for (const Measured& m : all) {
    if (std::abs(m.value - middle) > 3.0 * (scatter + m.margin)) continue;
    const double sigma = std::hypot(m.margin, of_scatter * scatter);
    const double w = 1.0 / (sigma * sigma);
    sum += w * m.value;
    weight += w;
    residual2 += w * w * (m.value - middle) * (m.value - middle);
  }
  return {sum / weight, 2.0 * std::max(std::sqrt(1.0 / weight), std::sqrt(residual2) / weight)};
}

}  // namespace jolly_iris::measuring
