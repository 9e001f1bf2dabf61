#include "jolly_iris/frames.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/over.hpp"

namespace jolly_iris {

namespace {

// An error that happens at one of many frames says at which.
template <class Work>
auto at_frame(double frame, const Work& work) {
  const auto said = [&](const std::exception& e) {
    return fmt::format("at frame {:g}: {}", frame, e.what());
  };
  try {
    return work();
  } catch (const OpticsError& e) {
    throw OpticsError(said(e), e.key());
  } catch (const UsageError& e) {
    throw UsageError(said(e));
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
  for (const Keyed& k : shot.over) return k.keys.front().frame;
  if (shot.track) return shot.track->rows.front().frame;
  if (scene != nullptr && !scene->channels.empty() && shot.take.fps) return 0.0;
  return std::nullopt;
}

std::vector<double> frames_of(const FrameRange& range, double step) {
  constexpr double most = 1e6;
  if (!(step > 0.0) || !(range.first <= range.last) || (range.last - range.first) / step > most) {
    throw UsageError(
        fmt::format("frames {:g} to {:g} in steps of {:g} are none, or over a million; write e.g. "
                    "--frames 1001-1100 --step 5",
                    range.first, range.last, step));
  }
  std::vector<double> frames;
  for (int i = 0; range.first + i * step <= range.last + 1e-9; ++i) {
    frames.push_back(range.first + i * step);
  }
  if (range.last - frames.back() > 1e-6) frames.push_back(range.last);
  return frames;
}

Answer answer_at(const Shot& shot, Scene* scene, double frame) {
  return at_frame(frame, [&] {
    if (scene != nullptr) pose_at_frame(*scene, shot, frame);
    return answer(shot_at(shot, frame), scene);
  });
}

std::vector<Answer> answers_at(const Shot& shot, Scene* scene, const std::vector<double>& frames,
                               const std::function<void(double)>& progress) {
  std::vector<Answer> answers;
  answers.reserve(frames.size());
  if (scene != nullptr && frames.size() > 1) prepare_for_frames(*scene);
  // Origins are a map of every key of the file: not to be copied for every frame.
  Shot lean = shot;
  lean.files.clear();
  for (const double frame : frames) {
    answers.push_back(at_frame(frame, [&] {
      if (scene != nullptr) pose_at_frame(*scene, lean, frame);
      return answer_numbers(shot_at(lean, frame), scene);
    }));
    if (progress)
      progress(static_cast<double>(answers.size()) / static_cast<double>(frames.size()));
  }
  return answers;
}

}  // namespace jolly_iris
