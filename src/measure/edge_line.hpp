// All pixels of a disc's edge laid on one line across it: what is the same all the way round is
// asked of a hundred numbers instead of a thousand.
#pragma once

#include <vector>

#include "disc_pixels.hpp"

namespace jolly_iris::measuring {

struct EdgeLine {
  std::vector<Sample> samples{};  ///< from beyond the edge inwards, along x
  std::vector<std::array<double, 3>>
      channels{};    ///< of each, as the file has them: 0 … 1 at the clip
  DrawnDisc disc{};  ///< a round one, as far across as the disc is on average
};

/// @param samples weighed; those at the same distance inside the edge become one
EdgeLine on_a_line(const Picture& plate, const LumaModel& look, const std::vector<Sample>& samples,
                   const BladeShape& shape, const DrawnDisc& disc);

}  // namespace jolly_iris::measuring
