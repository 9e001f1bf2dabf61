// Differences of the second order within a square, and what grain does to them.
#pragma once

#include <array>

#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

/// Mean squares of l(x−k) − 2 l(x) + l(x+k), along rows and columns.
struct SecondDifferences {
  double near = 0.0;    ///< k = 1
  double middle = 0.0;  ///< k = 2
  double far = 0.0;     ///< k = 8
  double whole = 0.0;   ///< no difference: the variance of what a ramp leaves over
};

struct ChannelDifferences {
  std::array<SecondDifferences, 3> of{};
  std::array<double, 3> across{};  ///< mean products at k = 2: red·green, green·blue, blue·red
};
ChannelDifferences second_differences(const Picture& picture, const Box& square);

/// For grain of variance 1 softened by a Gaussian: the expected mean squares, by
/// 6 − 8 ρ(k) + 2 ρ(2k), ρ the correlation of pixels so far apart, and how far chance takes those
/// of one square from them (as a share).
struct DifferenceLaw {
  double near = 6.0;
  double middle = 6.0;
  double far = 6.0;
  double whole = 1.0;
  double middle_sigma = 0.1;
};
/// @param size_px σ, 0 … 2.5
DifferenceLaw difference_law(double size_px);

}  // namespace jolly_iris::measuring
