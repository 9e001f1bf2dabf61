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

/// The softness that even the sharpest have is the plate's own, px.
double own_softness(const std::vector<DiscItem>& items);

/// How large the lamps themselves are, from five or more that are not clipped.
std::optional<LampSize> usual_lamp(const std::vector<DiscItem>& items, double own_softness_px);

}  // namespace jolly_iris::measuring
