// The ordinary lens that is nearest to a glass, and how near that is: discs of both, laid over each
// other.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/lens.hpp"
#include "jolly_iris/workflow/glass_look.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One place of the frame at one distance.
struct NearestPlace {
  double share = 0.0;    ///< of the way from the picture's middle to its corner
  Length z{};            ///< from the entrance pupil
  double overlap = 0.0;  ///< of the two discs' light, 0 … 1: what both have at the same places
  /// How much brighter the lens has it than the glass, natural fall-off in both.
  double light_stops = 0.0;
};

struct NearestLook {
  Lens lens{};
  double f_number = 0.0;
  Length focus{};  ///< from the entrance pupil
  Extent gate{};
  std::vector<NearestPlace> places{};
  double mean_overlap = 0.0;
  NearestPlace worst{};      ///< that with the least overlap
  double worst_light = 0.0;  ///< the largest difference, stops, with its sign
};

/// At the look's focus and stop, on its gate; without one, on the square that the circle of its
/// light holds.
/// @throws as nearest_lens and bokeh_disc
NearestLook nearest_to(const GlassLook& look);

}  // namespace jolly_iris
