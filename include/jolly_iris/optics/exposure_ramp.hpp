// A camera that re-exposes itself after a zoom or a pan: it sees late, and moves no faster than it
// can.
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct RampSettings {
  double stops_per_second = 2.0;  ///< no faster, > 0
  Duration delay{};               ///< what it follows is this old, ≥ 0
  /// How softly it arrives: within this time of arriving it slows down, ≥ 0.
  Duration ease = Duration::from_seconds(0.15);
  double fps = 24.0;  ///< > 0
};

/// What the camera does, frame by frame, of what metering asks for. It begins settled.
/// Within a frame the target stands still and is followed in closed form.
/// @param wanted stops, one a frame, all finite
/// @throws UsageError for settings out of range or a value that is not finite, naming its index
std::vector<double> exposure_ramp(const std::vector<double>& wanted, const RampSettings& settings);

}  // namespace jolly_iris
