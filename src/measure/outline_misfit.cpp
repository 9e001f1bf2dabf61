#include "outline_misfit.hpp"

#include <cmath>
#include <numbers>

namespace jolly_iris::measuring {

double direction_of_bin(int bin) { return 2.0 * std::numbers::pi * (bin + 0.5) / profile_bins; }

const Low& low_terms(int bin) {
  static const std::array<Low, profile_bins> all = [] {
    std::array<Low, profile_bins> terms{};
    for (int k = 0; k < profile_bins; ++k) {
      const double a = direction_of_bin(k);
      terms[static_cast<std::size_t>(k)] = {1.0, std::cos(a), std::sin(a), std::cos(2.0 * a),
                                            std::sin(2.0 * a)};
    }
    return terms;
  }();
  return all[static_cast<std::size_t>(bin)];
}

OutlineMisfit::OutlineMisfit(const std::array<double, profile_bins>& radius,
                             const std::array<double, profile_bins>& variance, double blur)
    : blur_(blur) {
  NormalEquations<5> normal(1e-9);
  for (int k = 0; k < profile_bins; ++k) {
    const auto i = static_cast<std::size_t>(k);
    if (variance[i] <= 0.0) continue;
    seen_.push_back({k, direction_of_bin(k), radius[i], 1.0 / variance[i]});
    normal.add(low_terms(k), 0.0, seen_.back().weight);
  }
  for (std::size_t i = 0; i < inverse_.size(); ++i) inverse_[i] = normal.inverse_row(i);
}

double OutlineMisfit::chi2_as_is(const BladeShape& rounded) const {
  Low sums{};
  double all = 0.0;
  for (const Seen& s : seen_) {
    const double residual = s.radius - rounded.radius(s.direction);
    const double weighted = s.weight * residual;
    const Low& terms = low_terms(s.bin);
    for (std::size_t i = 0; i < sums.size(); ++i) sums[i] += weighted * terms[i];
    all += weighted * residual;
  }
  for (std::size_t i = 0; i < sums.size(); ++i) all -= sums[i] * dot(inverse_[i], sums);
  return all;
}

}  // namespace jolly_iris::measuring
