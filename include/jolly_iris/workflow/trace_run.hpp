// A shot's scene traced: one picture, or one a frame.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/trace/trace.hpp"
#include "jolly_iris/workflow/frame_run.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct TraceRequest {
  TraceSettings settings{};      ///< whose `size` and `execution` are set by the run
  bool half = false;             ///< half the width and height
  bool squeezed = false;         ///< not desqueezed: as the sensor behind the lens has it
  bool shutter = false;          ///< with the take's shutter open
  std::optional<int> moments{};  ///< parts of its time; none: as the motion needs
  bool motion = false;           ///< where each pixel goes, as a layer besides
  bool margin = false;           ///< with the margin that the answer asks for (Frame::margin)
};

struct TracedFrame {
  MadeFrame made{};
  int samples = 0;  ///< rays a pixel
  int moments = 1;  ///< of the shutter's time
};

/// @throws UsageError for a shot without a scene, or one whose lens does not squeeze where that is
///         asked for; as trace and trace_open_shutter
TracedFrame trace_frame(const TraceRequest& request, const LoadedShot& loaded,
                        const Execution& execution = {});

/// A sequence: "####" in names stands for the frame's number.
/// @throws as make_frames and trace_frame
FrameRun trace_frames(const TraceRequest& request, const std::vector<std::string>& names,
                      const FrameRunSettings& settings, const LoadedShot& loaded,
                      std::vector<std::string>& files, const Execution& execution = {});

}  // namespace jolly_iris
