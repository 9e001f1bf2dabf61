// What the edges drawn in a shot's plate tell, both questions asked: how the lens bends, and how
// the camera stood.
#pragma once

#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/lines.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What cannot be told says why.
struct LineMeasurement {
  std::optional<FoundDistortion> distortion{};
  std::string no_distortion{};
  std::optional<FoundPerspective> perspective{};
  std::string no_perspective{};
  bool straightened_by_found = false;  ///< the shot knows no distortion: what was found served
  bool distorts = false;               ///< by more than its margin
};

/// @throws UsageError for a plate without drawn edges; OpticsError where they tell nothing, or no
///         perspective though the focal length was asked for
LineMeasurement measure_lines(const LoadedShot& loaded, const LineSettings& settings);

}  // namespace jolly_iris
