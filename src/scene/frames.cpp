#include "jolly_iris/scene/frames.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "jolly_iris/optics/range.hpp"

namespace jolly_iris {

namespace {

// An error that happens at one of many frames says at which.
template <class Work>
auto at_frame(double frame, const Work& work) {
  const auto message = [&](const std::exception& e) {
    return fmt::format("at frame {:g}: {}", frame, e.what());
  };
  try {
    return work();
  } catch (const OpticsError& e) {
    throw OpticsError(message(e), e.key());
  } catch (const UsageError& e) {
    throw UsageError(message(e));
  }
}

}  // namespace

void pose_at_frame(Scene& scene, const Shot& shot, double frame) {
  if (scene.channels.empty()) return;
  if (!shot.take.fps) {
    throw OpticsError(shot.where("take.fps") +
                          "the scene is animated, in seconds; give the frame rate, e.g. fps = 24",
                      "take.fps");
  }
  const double first = shot.frames ? shot.frames->first : 0.0;
  pose(scene, (frame - first) / *shot.take.fps);
}

std::optional<double> usual_frame(const Shot& shot, const Scene* scene) {
  if (shot.frames) return shot.frames->first;
  if (!shot.pulls.empty()) return shot.pulls.front().frame;
  for (const Keyframed& k : shot.keyframes) return k.keys.front().frame;
  if (shot.track && !shot.track->rows.empty()) return shot.track->rows.front().frame;
  if (scene != nullptr && !scene->channels.empty() && shot.take.fps) return 0.0;
  return std::nullopt;
}

std::vector<double> frames_of(const FrameRange& range, double step) {
  const bool good = range::frame.holds(range.first) && range::frame.holds(range.last) &&
                    range.first <= range.last && range::frame_step.holds(step) &&
                    (range.last - range.first) / step <= range::most_frames;
  if (!good) {
    throw UsageError(
        fmt::format("frames {:g} to {:g} in steps of {:g} are none, or over {}; write e.g. "
                    "1001 to 1100 in steps of 5",
                    range.first, range.last, step, range::most_frames));
  }
  std::vector<double> frames;
  for (int i = 0; range.first + i * step <= range.last + 1e-9; ++i) {
    frames.push_back(range.first + i * step);
  }
  if (range.last - frames.back() > 1e-6) frames.push_back(range.last);
  return frames;
}

Answer answer_at(const Shot& shot, const Scene* scene, double frame) {
  return at_frame(frame, [&] {
    if (scene == nullptr) return answer(shot_at(shot, frame), nullptr);
    Scene posed = *scene;
    pose_at_frame(posed, shot, frame);
    return answer(shot_at(shot, frame), &posed);
  });
}

std::vector<Answer> answers_at(const Shot& shot, const Scene* scene,
                               const std::vector<double>& frames, const Execution& execution) {
  std::vector<Answer> answers;
  answers.reserve(frames.size());
  std::optional<Scene> posed;
  if (scene != nullptr) posed = *scene;
  if (posed && frames.size() > 1) prepare_for_frames(*posed);
  // Origins are a map of every key of the file: not to be copied for every frame.
  Shot lean = shot;
  lean.files.clear();
  for (const double frame : frames) {
    answers.push_back(at_frame(frame, [&] {
      if (posed) pose_at_frame(*posed, lean, frame);
      return answer_numbers(shot_at(lean, frame), posed ? &*posed : nullptr);
    }));
    execution.tell(static_cast<double>(answers.size()) / static_cast<double>(frames.size()));
  }
  return answers;
}

}  // namespace jolly_iris
