// What two pictures of one view still differ by: noise, or something, and where.
#pragma once

#include "jolly_iris/measure/image_comparison.hpp"

namespace jolly_iris::measuring {

/// Looked at in blocks of 8 × 8 px of the sRGB-encoded pictures: a block differs where its mean or
/// its scatter does by more than what neighbouring pixels differ among themselves, and by more than
/// is seen. @param plate, cg of one size
LeftOver left_over(const Picture& plate, const Picture& cg, const std::vector<DiscPair>& discs);

/// Correlation of two pictures' detail of a few hundredths of their width; none where either has
/// hardly any.
std::optional<double> view_likeness(const Picture& plate, const Picture& cg);

}  // namespace jolly_iris::measuring
