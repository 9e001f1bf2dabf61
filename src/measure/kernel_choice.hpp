// The kernel of a plate, told by the edges of its discs.
#pragma once

#include <vector>

#include "fit_together.hpp"

namespace jolly_iris::measuring {

/// How well each known kernel explains the discs that tell most, the best first; none where no disc
/// tells.
std::vector<LikelyKernel> likely_kernels(const std::vector<DiscItem>& items, const LumaModel& look);

}  // namespace jolly_iris::measuring
