// A sequence metered, and exposed as metered: frame by frame, on all cores.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/exposure_ramp.hpp"
#include "jolly_iris/workflow/exposure_look.hpp"
#include "jolly_iris/workflow/sequence.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct ExposedFrame {
  double frame = 0.0;
  ExposureLook look{};
  double stops = 0.0;  ///< that are applied
  std::vector<std::string> files{};
};

/// Looks at each frame of a sequence ("cg.####.exr").
/// @param ramp the exposure follows no faster; none: it jumps
/// @throws FileError for a frame that is not there, before any work; OpticsError for a ramp without
///         a frame rate; Cancelled
std::vector<ExposedFrame> look_at_frames(const std::string& pictures, const FrameRequest& frames,
                                         const LookRequest& request,
                                         const std::optional<RampSettings>& ramp,
                                         const LoadedShot& loaded, std::vector<std::string>& files,
                                         const Execution& execution = {});

/// Writes them as bright as was found, under each of the names ("done.####.exr").
/// @return what was written
std::vector<std::string> write_exposed(const std::vector<ExposedFrame>& frames,
                                       const std::vector<std::string>& names,
                                       const LookRequest& request, const LoadedShot& loaded,
                                       const Execution& execution = {});

}  // namespace jolly_iris
