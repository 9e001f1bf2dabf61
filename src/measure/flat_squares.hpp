// Which squares of a plate are flat: whose grain is not stirred by what the picture shows.
#pragma once

#include <vector>

#include "grain_model.hpp"

namespace jolly_iris::measuring {

/// Those whose every figure lies around the model as chance would have it: the flat ones.
GrainSquares flat_squares(const std::vector<GrainSquare>& squares, const GrainEstimate& estimate);

/// Neighbouring squares share their texture and what a codec did to them: they are drawn together.
std::vector<GrainSquares> grain_patches(const GrainSquares& squares);

}  // namespace jolly_iris::measuring
