// Rays that are spread evenly around, all of them together: what is too faint to be told ray by
// ray is told by the set.
#pragma once

#include <vector>

#include "jolly_iris/optics/measured.hpp"
#include "ray_strips.hpp"

namespace jolly_iris::measuring {

/// The evenly spread set that what lamps have fits best.
struct RayFold {
  int rays = 0;            ///< an even number: an opening's diffraction is alike both ways
  double first_deg = 0.0;  ///< 0 … 360 / rays
  /// In deviations of what sets of a number that no opening makes show in the same strips.
  double sureness = 0.0;
  double next = 0.0;        ///< the surest set of another number
  int present = 0;          ///< so many of them have their share
  double from = 0.0;        ///< half widths of a strip, from where outward their place is seen
  bool first_told = false;  ///< whether that is clear, against half a spacing away
};

RayFold best_fold(const std::vector<RayStrips>& lamps);

/// The first ray's direction, finer: by where all members together are surest, and how much that
/// moves where one lamp is left out.
Measured fold_place(const std::vector<RayStrips>& lamps, const RayFold& fold);

/// The surest line through all lamps, whatever else they have.
struct CommonLine {
  double direction_deg = 0.0;  ///< −90 … 90
  double sureness = 0.0;       ///< of its weaker half
  double against_rest = 0.0;   ///< how many times the surest ray beside it
};

CommonLine common_line(const std::vector<RayStrips>& lamps);

/// Whether a fold is sure enough to be told.
bool is_told(const RayFold& fold);

}  // namespace jolly_iris::measuring
