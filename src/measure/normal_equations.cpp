#include "normal_equations.hpp"

#include <Eigen/Cholesky>

namespace jolly_iris::measuring {

namespace {

// Room without asking for memory: what is fitted here has at most 13 terms.
constexpr int most_terms = 16;
using Matrix =
    Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor, most_terms, most_terms>;
using Vector = Eigen::Matrix<double, Eigen::Dynamic, 1, Eigen::ColMajor, most_terms, 1>;

}  // namespace

void solve_symmetric(const double* matrix, double* value, int n) {
  const Eigen::LDLT<Matrix> ldlt(Eigen::Map<const Matrix>(matrix, n, n));
  Eigen::Map<Vector> x(value, n);
  x = ldlt.solve(Vector(x));
}

}  // namespace jolly_iris::measuring
