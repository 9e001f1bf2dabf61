#include "jolly_iris/workflow/sequence.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "jolly_iris/scene/frames.hpp"

namespace jolly_iris {

std::optional<FrameRange> moving_range(const LoadedShot& loaded) {
  const Shot& shot = loaded.shot;
  std::vector<double> ends;
  for (const Keyframed& k : shot.keyframes) {
    ends.push_back(k.keys.front().frame);
    ends.push_back(k.keys.back().frame);
  }
  for (const Pull& p : shot.pulls) ends.push_back(p.frame);
  if (shot.track) {
    ends.push_back(shot.track->rows.front().frame);
    ends.push_back(shot.track->rows.back().frame);
  }
  if (loaded.scene && shot.take.fps && !loaded.scene->channels.empty()) {
    ends.push_back(0.0);
    ends.push_back(std::floor(duration_of(*loaded.scene) * *shot.take.fps));
  }
  if (ends.empty()) return std::nullopt;
  const auto [first, last] = std::minmax_element(ends.begin(), ends.end());
  return FrameRange{*first, *last};
}

std::optional<FrameRange> frames_of_shot(const LoadedShot& loaded) {
  return loaded.shot.frames ? loaded.shot.frames : moving_range(loaded);
}

std::vector<double> chosen_frames(const FrameRequest& request, const LoadedShot& loaded) {
  std::optional<FrameRange> range = request.range;
  if (!range) range = frames_of_shot(loaded);
  if (!range) {
    throw UsageError(loaded.shot.file +
                     ": nothing says which frames there are; write [frames] first = 1001 and last "
                     "= 1100, or name "
                     "them");
  }
  return frames_of(*range, request.step);
}

std::string frames_doubt(const FrameRequest& request, const LoadedShot& loaded) {
  const std::optional<FrameRange>& own = loaded.shot.frames;
  if (!request.range || !own) return {};
  if (request.range->first >= own->first && request.range->last <= own->last) return {};
  return fmt::format("frames {:g} to {:g} reach outside the shot's own, {:g} to {:g}",
                     request.range->first, request.range->last, own->first, own->last);
}

std::string numbered(const std::string& name, double frame) {
  const auto last = name.rfind('#');
  if (last == std::string::npos) return name;
  const auto before = name.find_last_not_of('#', last);
  const auto first = before == std::string::npos ? 0 : before + 1;
  if (frame != std::floor(frame)) {
    throw UsageError(fmt::format("frame {:g} is not whole, so no file has its number", frame));
  }
  return fmt::format("{}{:0{}}{}", name.substr(0, first), static_cast<long>(frame),
                     last - first + 1, name.substr(last + 1));
}

LoadedShot at_frame(const LoadedShot& loaded, double frame) {
  LoadedShot at{loaded.shot, loaded.now, std::nullopt, loaded.answer};
  if (loaded.now.finish.smear) at.scene = loaded.scene;  // which says how things move
  if (!loaded.answer.frame) return at;
  at.now = shot_at(loaded.shot, frame);
  at.answer = answer_at(loaded.shot, loaded.scene ? &*loaded.scene : nullptr, frame);
  return at;
}

std::vector<std::string> numbered(const std::vector<std::string>& names, double frame) {
  std::vector<std::string> out;
  for (const std::string& name : names) out.push_back(numbered(name, frame));
  return out;
}

void check_sequence(const std::vector<std::string>& names, const std::vector<double>& frames) {
  std::vector<std::string>
      files;  // all of them first: a frame that is none is the caller's mistake
  for (const double frame : frames) {
    for (std::string& file : numbered(names, frame)) files.push_back(std::move(file));
  }
  for (const std::string& file : files) {
    if (std::filesystem::exists(file)) continue;
    throw FileError(file + ": cannot read it: No such file or directory");
  }
}

}  // namespace jolly_iris
