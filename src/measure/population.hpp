// What the discs of a plate have in common.
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

#include "fit_together.hpp"

namespace jolly_iris::measuring {

/// What most of them are like.
struct UsualDisc {
  std::size_t discs = 0;
  double soft = 0.0;  ///< px
  double contrast = 0.0;
  double aspect = 1.0;  ///< width over height, by those with a clear edge
};
UsualDisc usual_disc(const std::vector<DiscItem>& items);

/// Those that are as bright as lamps and as sharp; patches of the ground are not.
std::vector<const FittedDisc*> lamps_among(const std::vector<DiscItem>& items);

/// How many times more what is left over of edges varies along them than independent noise would,
/// as a variance; at least 1.
double usual_scatter(const std::vector<DiscItem>& items);

/// How large the lamps themselves are, from four or more that are not clipped.
/// @param kernel_px deviation of what blurs all edges
std::optional<LampSize> usual_lamp(const std::vector<DiscItem>& items, double kernel_px);

}  // namespace jolly_iris::measuring
