// How a move went, as one of the eases that keys have.
#pragma once

#include <cstddef>
#include <vector>

#include "jolly_iris/match/moves.hpp"

namespace jolly_iris::matching {

/// Where an ease goes through the points as well as the curve could (χ²), the move has it, and its
/// ends are the ease's; else it stays as it is.
/// @param first, last which of the curve's frames are looked at: the move and some of the rests
void fit_ease(const std::vector<CurvePoint>& points, const ValueCurve& curve, std::size_t first,
              std::size_t last, Move& move);

}  // namespace jolly_iris::matching
