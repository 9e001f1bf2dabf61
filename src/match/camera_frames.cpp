#include "jolly_iris/match/camera_frames.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "focus_walk.hpp"
#include "frame_values.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "lamp_changes.hpp"

namespace jolly_iris {

double evenly_counted(Parameter of, double value) {
  switch (of) {
    case Parameter::focus:
      return std::isinf(value) ? 0.0 : 1.0 / value;
    case Parameter::stop:
      return 2.0 * std::log2(value);
    case Parameter::exposure:
    case Parameter::white:
    case Parameter::distance:
      return value;
    case Parameter::focal:
    case Parameter::gate:
    case Parameter::squeeze:
    case Parameter::scale:
      break;
  }
  return std::log(value);
}

double as_written(Parameter of, double even) {
  switch (of) {
    case Parameter::focus:
      return even > 1e-9 ? 1.0 / even : std::numeric_limits<double>::infinity();
    case Parameter::stop:
      return std::exp2(0.5 * even);
    case Parameter::exposure:
    case Parameter::white:
    case Parameter::distance:
      return even;
    case Parameter::focal:
    case Parameter::gate:
    case Parameter::squeeze:
    case Parameter::scale:
      break;
  }
  return std::exp(even);
}

CameraFrames follow_camera(const std::vector<NotedFrame>& frames,
                           const CameraFramesSettings& settings) {
  for (std::size_t i = 1; i < frames.size(); ++i) {
    if (frames[i].frame > frames[i - 1].frame) continue;
    throw UsageError(fmt::format("frame {:g} comes after frame {:g}; frames have to rise",
                                 frames[i].frame, frames[i - 1].frame));
  }
  matching::FrameFitter fitter(frames, settings);
  CameraFrames out = fitter.run();
  for (FollowedValue& change : matching::lamp_changes(frames, out))
    out.values.push_back(std::move(change));
  return out;
}

}  // namespace jolly_iris
