// Least squares of a few unknowns, summed row by row and solved as normal equations.
#pragma once

#include <array>
#include <cstddef>

namespace jolly_iris::measuring {

/// Unknowns, or what each of them adds to one value.
template <std::size_t N>
using Terms = std::array<double, N>;

template <std::size_t N>
double dot(const Terms<N>& a, const Terms<N>& b) {
  double sum = 0.0;
  for (std::size_t i = 0; i < N; ++i) sum += a[i] * b[i];
  return sum;
}

/// Solves a symmetric system in place (LDLᵀ with pivots).
/// @param matrix n × n, row by row; @param value n numbers, becomes the solution
void solve_symmetric(const double* matrix, double* value, int n);

/// Sums of weight · row · rowᵀ and weight · value · row.
template <std::size_t N>
class NormalEquations {
 public:
  /// @param ridge how firmly each unknown is held at its `expected` value: 1 / variance
  explicit NormalEquations(double ridge = 0.0, const Terms<N>& expected = {}) {
    for (std::size_t i = 0; i < N; ++i) {
      matrix_[i * N + i] = ridge;
      value_[i] = ridge * expected[i];
    }
  }

  void add(const Terms<N>& row, double value, double weight = 1.0) {
    for (std::size_t i = 0; i < N; ++i) {
      const double weighted = weight * row[i];
      for (std::size_t j = 0; j < N; ++j) matrix_[i * N + j] += weighted * row[j];
      value_[i] += weighted * value;
    }
  }

  /// Damps the diagonal, by a factor and by a fraction of its sum.
  void damp(double factor, double fraction_of_trace = 0.0) {
    double trace = 0.0;
    for (std::size_t i = 0; i < N; ++i) trace += matrix_[i * N + i];
    for (std::size_t i = 0; i < N; ++i) {
      matrix_[i * N + i] = factor * matrix_[i * N + i] + fraction_of_trace * trace;
    }
  }

  Terms<N> solve() const { return solve(value_); }

  /// How much of the values' sum of squares the solution explains.
  double explained() const { return dot(value_, solve()); }

  /// A row of the inverse: what each sum of row · value adds to that unknown.
  Terms<N> inverse_row(std::size_t at) const {
    Terms<N> unit{};
    unit[at] = 1.0;
    return solve(unit);
  }

  /// Variance of Σ `factors` · unknowns where rows of weight 1 have variance 1.
  double variance(const Terms<N>& factors) const { return dot(factors, solve(factors)); }
  /// The same of one unknown.
  double variance(std::size_t at) const {
    Terms<N> factors{};
    factors[at] = 1.0;
    return variance(factors);
  }

 private:
  Terms<N> solve(Terms<N> value) const {
    solve_symmetric(matrix_.data(), value.data(), static_cast<int>(N));
    return value;
  }

  std::array<double, N * N> matrix_{};
  Terms<N> value_{};
};

}  // namespace jolly_iris::measuring
