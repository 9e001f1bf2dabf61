// How large a fitted disc is, with all that leaves it open.
#pragma once

#include <vector>

#include "fit_together.hpp"
#include "jolly_iris/measure/discs.hpp"
#include "plate_iris.hpp"

namespace jolly_iris::measuring {

/// What a plate leaves open of all its discs' sizes.
struct SizeDoubt {
  double scatter = 1.0;    ///< as usual_scatter() has it
  double kernel_px = 0.0;  ///< deviation of the plate's kernel
  bool codec = false;      ///< whether it is a JPEG's
};

/// What is told of one disc.
PlateDisc plate_disc(const DiscItem& item, const PooledDisc& pooled, const SizeDoubt& plate);

/// How much higher than wide all of them are.
Measured common_shape(const std::vector<DiscItem>& items, const SizeDoubt& plate);

/// The light at their rims against their middles, stops.
Measured common_falloff(const std::vector<DiscItem>& items);

}  // namespace jolly_iris::measuring
