// What measuring makes of the discs of a lens whose glass is known. Between a thin lens's disc and
// one that surfaces make lie the field's curvature, spherical aberration and every rim; and a
// finder that fits cut openings reads such a disc in its own way. So discs are drawn as the glass
// makes them, where the plate shows them, and measured as the plate was: what comes out against the
// thin lens's is what each observation is to be predicted with.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/workflow/plate_observations.hpp"

namespace jolly_iris {

/// Fills Observation::as_traced and traced_px of the plate's discs and of their shape; of those
/// that are not told a thin lens's counts, loosely.
/// @param at what the camera is thought to be: focused and opened as there
/// @return lamps whose drawn disc the finder does not tell; none: there is no glass to trace, as
///         something is mounted on it, or `at` is a camera that it cannot be: nothing was changed
std::optional<std::vector<std::string>> trace_discs(const LoadedShot& loaded,
                                                    const CameraEstimate& at,
                                                    const DiscSearch& search,
                                                    PlateObservations& seen);

}  // namespace jolly_iris
