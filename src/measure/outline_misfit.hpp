// How an outline that was seen fits irises: what is asked for hundreds of shapes a plate.
#pragma once

#include <array>
#include <vector>

#include "blade_shape.hpp"
#include "disc_fit.hpp"
#include "normal_equations.hpp"

namespace jolly_iris::measuring {

/// The middle of a profile's bin, radians.
double direction_of_bin(int bin);

/// A disc's own place, size and squeeze are no news of the iris: harmonics 0 to 2 of its edge.
using Low = Terms<5>;
const Low& low_terms(int bin);

class OutlineMisfit {
 public:
  /// @param radius of the outline, by bin; @param variance 0: nothing tells
  /// @param blur radians over which corners are rounded
  OutlineMisfit(const std::array<double, profile_bins>& radius,
                const std::array<double, profile_bins>& variance, double blur);

  /// χ² of a shape that corners are rounded of already, with the best low harmonics.
  double chi2_as_is(const BladeShape& rounded) const;
  double chi2(const BladeShape& shape) const { return chi2_as_is(rounded(shape)); }
  BladeShape rounded(const BladeShape& shape) const { return shape.smoothed(blur_); }

 private:
  struct Seen {
    int bin = 0;
    double direction = 0.0;
    double radius = 0.0;
    double weight = 0.0;
  };
  double blur_;
  std::vector<Seen> seen_{};
  // Of the sums of low harmonics.
  std::array<Low, 5> inverse_{};
};

}  // namespace jolly_iris::measuring
