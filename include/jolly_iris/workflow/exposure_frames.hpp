// A sequence metered, and exposed as metered: frame by frame, on all cores.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/exposure_ramp.hpp"
#include "jolly_iris/workflow/exposure_look.hpp"
#include "jolly_iris/workflow/frame_run.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct ExposedFrame {
  double frame = 0.0;
  ExposureLook look{};
  double stops = 0.0;  ///< that are applied
  std::vector<std::string> files{};
};

/// How much brighter a frame's metering asks for: what one task of several found.
struct MeteredFrame {
  double frame = 0.0;
  double stops = 0.0;
};

/// What a task found, from the JSON that "expose --frames --json" says.
/// @param files gains it
/// @throws FileError for another file, with what is missing
std::vector<MeteredFrame> read_metered(const std::string& file, std::vector<std::string>& files);

/// The exposure follows what was metered no faster than this.
struct FrameRamp {
  RampSettings settings{};
  /// Of frames that this run does not look at itself, since it has a part of them only.
  std::vector<MeteredFrame> elsewhere{};
};

struct ExposedFrames {
  std::vector<ExposedFrame> frames{};
  std::vector<FrameFailure> failed{};
};

/// Looks at each frame of a sequence ("cg.####.exr").
/// @param ramp none: the exposure jumps
/// @throws FileError for a frame that is not there, before any work, unless it keeps going;
///         OpticsError for a ramp without a frame rate; UsageError for a ramp over frames that are
///         not evenly spaced, or some of which nobody metered; Cancelled
ExposedFrames look_at_frames(const std::string& pictures, const FrameRunSettings& settings,
                             const LookRequest& request, const std::optional<FrameRamp>& ramp,
                             const LoadedShot& loaded, std::vector<std::string>& files,
                             const Execution& execution = {});

/// Writes them as bright as was found, under each of the names ("done.####.exr").
/// @throws as make_frames
FrameRun write_exposed(const ExposedFrames& looks, const std::string& pictures,
                       const std::vector<std::string>& names, const FrameRunSettings& settings,
                       const LookRequest& request, const LoadedShot& loaded,
                       std::vector<std::string>& files, const Execution& execution = {});

}  // namespace jolly_iris
