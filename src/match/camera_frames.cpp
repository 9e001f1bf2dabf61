#include "jolly_iris/match/camera_frames.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "focus_walk.hpp"
#include "frame_values.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "lamp_changes.hpp"
#include "relative_focus.hpp"

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
    case Parameter::focus_change:
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
    case Parameter::focus_change:
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
  const auto any = [&](auto of) { return std::any_of(frames.begin(), frames.end(), of); };
  const bool placed = any([](const NotedFrame& f) {
    return std::any_of(f.seen.begin(), f.seen.end(), matching::tells_focus);
  });
  const bool unplaced = any([](const NotedFrame& f) { return !f.unplaced.empty(); });
  const bool relative = !placed && unplaced;
  CameraFrames out = relative ? matching::relative_focus(frames, settings)
                              : matching::FrameFitter(frames, settings).run();
  out.relative = relative;
  std::vector<double> focal_mm;
  for (std::size_t i = 0; i < frames.size(); ++i) {
    const FollowedValue* focal = out.value(Parameter::focal);
    focal_mm.push_back(focal != nullptr ? as_written(Parameter::focal, focal->at[i].curve)
                                        : frames[i].estimate.lens.focal.mm());
  }
  for (FollowedValue& change : matching::lamp_changes(frames, focal_mm)) {
    out.values.push_back(std::move(change));
  }
  return out;
}

}  // namespace jolly_iris
