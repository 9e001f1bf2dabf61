// The blurred lights of a shot's plate: what they tell of the iris, the stop and the rims.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/discs.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/plate_observations.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct DiscMeasurement {
  Frame plate{};
  FoundDiscs found{};
  VignettingRim rim{};  ///< that cuts the discs, if `found.vignetting.known`
};

/// @throws UsageError for a shot without a plate, or a box that is not within it; OpticsError where
///         there is none
DiscMeasurement measure_discs(const LoadedShot& loaded, const DiscSearch& search,
                              std::vector<std::string>& files);

}  // namespace jolly_iris
