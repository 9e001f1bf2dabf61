#include "residuals.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "match/constants.hpp"

namespace jolly_iris::matching {

namespace {

// Cauchy's loss as a residual.
double robust(double r) {
  const double c2 = fitting::robust_from * fitting::robust_from;
  return std::copysign(std::sqrt(c2 * std::log1p(r * r / c2)), r);
}

}  // namespace

double deviation_of(const Observation& seen) {
  return std::hypot(seen.sigma, std::hypot(seen.placed_px, seen.traced_px),
                    own_fraction_scatter * seen.own_px);
}

Residuals::Residuals(const std::vector<NotedPlate>& plates, const ParameterLayout& layout)
    : plates_(plates), layout_(layout) {
  std::size_t rows = 0;
  for (const NotedPlate& p : plates) {
    rows += p.seen.size();
    for (const Observation& o : p.seen) {
      if (o.own_px > 0.0 && group_of(o) == groups_.size()) groups_.push_back(o.group);
    }
  }
  mutable_parameter_block_sizes()->push_back(static_cast<int>(size()));
  set_num_residuals(static_cast<int>(rows + size()));
}

double Residuals::own_of(const Observation& seen, const double* x) const {
  if (seen.own_px <= 0.0) return 0.0;
  const double fraction = x[layout_.size() + group_of(seen)];
  return seen.own_px * (typical_own_fraction + own_fraction_deviation * fraction);
}

bool Residuals::Evaluate(double const* const* parameters, double* residuals,
                         double** jacobians) const {
  const std::size_t n = size();
  std::vector<double> x(parameters[0], parameters[0] + n);
  if (!at(x.data(), residuals)) return false;
  if (jacobians == nullptr || jacobians[0] == nullptr) return true;
  const auto rows = static_cast<std::size_t>(num_residuals());
  std::vector<double> low(rows);
  std::vector<double> high(rows);
  // Differences by hand: Ceres's own step relative to each value, and these count deviations from
  // what was noted, so that they begin at 0. A ten-thousandth of a deviation bends nothing here.
  constexpr double step = 1e-4;
  for (std::size_t k = 0; k < n; ++k) {
    const double here = x[k];
    x[k] = here + step;
    const bool above = at(x.data(), high.data());
    x[k] = here - step;
    const bool below = at(x.data(), low.data());
    x[k] = here;
    if (!above && !below) return false;
    // Beside the last camera that there is, one side has to do.
    const double apart = above && below ? 2.0 * step : step;
    for (std::size_t i = 0; i < rows; ++i) {
      const double up = above ? high[i] : residuals[i];
      const double down = below ? low[i] : residuals[i];
      jacobians[0][i * n + k] = (up - down) / apart;
    }
  }
  return true;
}

bool Residuals::at(const double* x, double* residuals) const {
  try {
    for (std::size_t p = 0; p < plates_.size(); ++p) {
      const CameraEstimate estimate = layout_.moved(plates_[p].estimate, p, x);
      const VirtualCamera camera = camera_of(estimate);
      for (const Observation& o : plates_[p].seen) {
        *residuals++ =
            robust((predicted(o, estimate, camera) + own_of(o, x) - o.value) / deviation_of(o));
      }
    }
  } catch (const OpticsError&) {
    return false;  // no such camera: Ceres takes a smaller step
  }
  for (std::size_t k = 0; k < layout_.size(); ++k) *residuals++ = x[k] / layout_.prior_sigma(k);
  for (std::size_t k = layout_.size(); k < size(); ++k) *residuals++ = x[k];
  return true;
}

std::size_t Residuals::group_of(const Observation& seen) const {
  return static_cast<std::size_t>(std::find(groups_.begin(), groups_.end(), seen.group) -
                                  groups_.begin());
}

}  // namespace jolly_iris::matching
