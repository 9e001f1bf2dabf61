// What notes and plates say, as residuals of one fit: the camera of a plate is made once for all
// that was seen in it.
#pragma once

#include <ceres/ceres.h>

#include <string>
#include <vector>

#include "parameter_layout.hpp"

namespace jolly_iris::matching {

/// One deviation of an observation: its own, and what lamps of one group differ by.
double deviation_of(const Observation& seen);

class Residuals : public ceres::CostFunction {
 public:
  /// Both live longer than this.
  Residuals(const std::vector<NotedPlate>& plates, const ParameterLayout& layout);

  /// Unknowns, and one share of the lamps' own size for each group of clipped ones.
  std::size_t size() const { return layout_.size() + groups_.size(); }

  /// That share of a clipped lamp's own size, px.
  double own_of(const Observation& seen, const double* x) const;

  bool Evaluate(double const* const* parameters, double* residuals,
                double** jacobians) const override;

 private:
  bool at(const double* x, double* residuals) const;
  std::size_t group_of(const Observation& seen) const;

  const std::vector<NotedPlate>& plates_;
  const ParameterLayout& layout_;
  std::vector<std::string> groups_{};
};

}  // namespace jolly_iris::matching
