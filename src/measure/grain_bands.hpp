// Grain's power by its fineness, in squares that are flat in both of two pictures.
#pragma once

#include <vector>

#include "jolly_iris/measure/finish_comparison.hpp"

namespace jolly_iris::measuring {

/// @param squares of the plate, flat
std::vector<GrainBand> grain_bands(const Picture& plate, const Picture& cg,
                                   const std::vector<GrainPlace>& squares);

}  // namespace jolly_iris::measuring
