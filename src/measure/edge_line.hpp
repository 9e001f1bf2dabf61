// All pixels of a disc's edge laid on one line across it: what is the same all the way round is
// asked of a hundred numbers instead of a thousand.
#pragma once

#include <array>
#include <vector>

#include "disc_sample.hpp"
#include "drawn_disc.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "luma_model.hpp"

namespace jolly_iris::measuring {

struct EdgeLine {
  std::vector<Sample> samples{};  ///< from beyond the edge inwards, along x
  std::vector<std::array<double, 3>>
      channels{};                  ///< of each, as the file has them: 0 … 1 at the clip
  DrawnDisc disc{};                ///< a round one, as far across as the disc is on average
  std::array<double, 3> inside{};  ///< light above the ground by channel; at least, where it is cut
  std::array<bool, 3> cut{};
  std::array<double, 3> cut_colour{1.0, 1.0, 1.0};  ///< of channels that are cut, against green
};

/// @param samples weighed; those at the same distance inside the edge become one, those beside a
///        corner of the outline, where no edge is straight, are left out
/// @param shared deviation that all pixels at one distance have together
EdgeLine on_a_line(const Picture& plate, const LumaModel& look, const std::vector<Sample>& samples,
                   const BladeShape& shape, const DrawnDisc& disc, double shared);

}  // namespace jolly_iris::measuring
