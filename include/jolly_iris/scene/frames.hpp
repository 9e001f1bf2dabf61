// A shot frame by frame: the focus table.
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Puts a scene where it is at a frame: its animation begins at the shot's first frame.
/// @throws OpticsError (take.fps) for an animated scene and no frame rate
void pose_at_frame(Scene& scene, const Shot& shot, double frame);

/// The shot at one frame, answered; the scene stays as it is.
/// @throws as answer does, naming the frame
Answer answer_at(const Shot& shot, const Scene* scene, double frame);

/// The frame at which a shot is reported when none is asked for: its first; none if nothing moves.
std::optional<double> usual_frame(const Shot& shot, const Scene* scene);

/// Frames from first to last, every `step`; the last one is always among them.
/// @throws UsageError for a step that is not above zero, a last before the first, or more than a
///         million frames
std::vector<double> frames_of(const FrameRange& range, double step);

/// Answers at all frames, by answer_numbers. @throws as answer_at; Cancelled
std::vector<Answer> answers_at(const Shot& shot, const Scene* scene,
                               const std::vector<double>& frames, const Execution& execution = {});

}  // namespace jolly_iris
