// By how much CG's discs are larger, of lamps that show some of their own size.
#pragma once

#include <vector>

#include "jolly_iris/measure/image_comparison.hpp"

namespace jolly_iris::measuring {

/// Logarithm of the ratio r of the blur in CG to that in the plate, and two deviations; margin 0
/// for fewer than two pairs. A clipped lamp's disc is larger than its blur by an unknown part of
/// the lamp's own size, the same in both pictures: of a plate's disc p = x + q CG shows r x + q, so
/// that it is nearer to the plate's than r says. That part is not known, and nothing is believed of
/// it but that it lies between none and most of the disc; the posterior of r has it integrated out.
Measured common_ratio(const std::vector<DiscPair>& pairs);

}  // namespace jolly_iris::measuring
