// Ceres as this room uses it: quiet, dense, to the end.
#pragma once

#include <ceres/ceres.h>

#include <optional>

namespace jolly_iris::measuring {

/// Minimises a small problem. @return the cost, Ceres's half sum of squares; none if it found no
/// way
std::optional<double> minimise(ceres::Problem& problem);

/// The same for very many residuals of one block, less patient: pixels are noisy.
std::optional<double> minimise_pixels(ceres::Problem& problem, int steps);

/// Covariance of one block for unit variances, row by row in `size` × `size`; false where the
/// problem does not determine all of it.
bool covariance_of(ceres::Problem& problem, const double* block, double* matrix);

}  // namespace jolly_iris::measuring
