// The reference tracer with an open shutter: nodes and the camera move while light comes in.
//
//   const Frame truth = trace_shutter([&](double frame) { return moment_at(shot, frame); }, 1013.0,
//                                     shutter_span(0.48, ShutterPlace::centred), 64, settings);
//
// The time that the shutter is open is cut into equal parts, and each part's rays see the scene as
// it is in the middle of that part. Rays are told apart by their numbers, so that those of all
// parts together are spread over pixel and opening as evenly as those of one picture.
#pragma once

#include <functional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/motion_vectors.hpp"
#include "jolly_iris/scene/scene.hpp"
#include "jolly_iris/trace/trace.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A scene and its camera at one time.
struct SceneMoment {
  Scene scene{};
  CameraMoment seen_by{};
};
/// The moment at a frame, which need not be whole.
using MomentAt = std::function<SceneMoment(double frame)>;

/// @param frame its number; `span` is told from there
/// @param moments parts of the shutter's time, ≥ 1; the rays of a pixel are shared among them, and
///        each has at least one
/// @return as trace; the depth of a pinhole is that of the frame's own moment
/// @throws as trace; UsageError for moments < 1
Frame trace_shutter(const MomentAt& moment_at, double frame, const ShutterSpan& span, int moments,
                    const TraceSettings& settings);

/// How what each pixel of the pinhole's picture shows moves: from where its node's point is when
/// the shutter opens to where that is when it closes. The sky turns with the camera.
/// @throws as trace
MotionVectors trace_motion(const MomentAt& moment_at, double frame, const ShutterSpan& span,
                           const TraceSettings& settings);

}  // namespace jolly_iris
