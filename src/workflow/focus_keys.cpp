#include "jolly_iris/workflow/focus_keys.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/ease.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/scene/frames.hpp"
#include "jolly_iris/workflow/sequence.hpp"

namespace jolly_iris {

namespace {

// What stands under a heading of the shot as it is now, by the last part of each key.
std::vector<LiveChange> standing(const LoadedShot& loaded, const std::string& heading) {
  std::vector<LiveChange> out;
  const auto& all = loaded.shot.origins;
  for (auto at = all.lower_bound(heading); at != all.end() && at->first.starts_with(heading);
       ++at) {
    out.push_back({at->first.substr(heading.size()), at->second.text});
  }
  return out;
}

std::string key_at(double frame, const std::string& last) {
  return fmt::format("pull.{}.{}", frame, last);
}

std::size_t number_of_key(const LoadedShot& loaded, double frame) {
  const auto& pulls = loaded.shot.pulls;
  const auto found =
      std::find_if(pulls.begin(), pulls.end(), [&](const Pull& p) { return p.frame == frame; });
  if (found == pulls.end()) {
    throw UsageError(fmt::format("the focus has no key at frame {:g}", frame));
  }
  return static_cast<std::size_t>(found - pulls.begin());
}

std::vector<LiveChange> key_of(const LoadedShot& loaded, double frame) {
  std::vector<LiveChange> key =
      standing(loaded, fmt::format("pull[{}].", number_of_key(loaded, frame)));
  std::erase_if(key, [](const LiveChange& c) { return c.key == "frame"; });
  return key;
}

bool is_ease(const std::string& last) {
  return last == "ease" || last == "by" || last == "swings" || last == "stray";
}

// In the hand as in the file it is gone then, whichever of them had it.
void take_out(const LoadedShot& loaded, double frame, std::vector<LiveChange>& changes) {
  for (const LiveChange& c : key_of(loaded, frame)) {
    changes.push_back({key_at(frame, c.key), std::nullopt});
  }
  const std::string row = fmt::format("pull[{}].frame", number_of_key(loaded, frame));
  if (loaded.shot.origins.at(row).source == Origin::Source::tried) return;  // only the hand had it
  changes.push_back({key_at(frame, "frame"), "none"});
}

}  // namespace

FocusCurve focus_curve(const LoadedShot& loaded, std::size_t samples) {
  const auto range = frames_of_shot(loaded);
  if (!range) throw UsageError("the shot has no frames; write [frames] first and last");
  if (samples < 2) throw UsageError("a curve has two frames or more");
  FocusCurve curve{*range, {}, {}, {}};
  const double span = range->last - range->first;
  const auto steps =
      static_cast<std::size_t>(std::clamp(std::floor(span), 1.0, static_cast<double>(samples - 1)));
  for (std::size_t i = 0; i <= steps; ++i) {
    const double frame = range->first + span * static_cast<double>(i) / static_cast<double>(steps);
    if (!curve.frames.empty() && frame == curve.frames.back()) break;  // a single frame
    curve.frames.push_back(frame);
  }
  std::vector<double> all = curve.frames;
  for (const Pull& p : loaded.shot.pulls) all.push_back(p.frame);
  const auto answers = answers_at(loaded.shot, loaded.scene ? &*loaded.scene : nullptr, all);
  for (std::size_t i = 0; i < curve.frames.size(); ++i) {
    curve.axial.push_back(answers[i].camera.focus);
  }
  for (std::size_t i = 0; i < loaded.shot.pulls.size(); ++i) {
    const Pull& p = loaded.shot.pulls[i];
    FocusKey key{p.frame,
                 {},
                 answers[curve.frames.size() + i].camera.focus,
                 std::string(to_string(p.ease.kind))};
    for (const LiveChange& c : key_of(loaded, p.frame)) {
      if (!is_ease(c.key) && c.key != "part" && c.key != "offset" && key.on.empty()) {
        key.on = *c.text;
      }
    }
    curve.keys.push_back(std::move(key));
  }
  return curve;
}

std::vector<LiveChange> as_focus_key(const LoadedShot& loaded, double frame,
                                     const std::vector<LiveChange>& changes) {
  const auto range = frames_of_shot(loaded);
  if (!range) {
    throw UsageError("a key of the focus needs frames; write [frames] first and last");
  }
  std::vector<LiveChange> out;
  if (loaded.shot.pulls.empty()) {
    if (!standing(loaded, "over.focus.").empty()) {
      throw UsageError(
          "the focus goes over frames by [over.focus.…]; change its keys there, as "
          "over.focus.at.1024");
    }
    std::vector<LiveChange> was = standing(loaded, "focus.");
    for (const LiveChange& c : was) out.push_back({"focus." + c.key, std::nullopt});
    if (was.empty()) {
      was = standing(loaded, "take.mark");
      if (!was.empty()) was.front().key = "mark";
    }
    for (const LiveChange& c : was) {
      if (range->first < frame) out.push_back({key_at(range->first, c.key), c.text});
    }
  }
  constexpr std::string_view prefix = "focus.";
  for (const LiveChange& c : changes) {
    if (c.key.starts_with(prefix) && c.text) {
      out.push_back({key_at(frame, c.key.substr(prefix.size())), c.text});
    } else {
      out.push_back(c);
    }
  }
  return out;
}

std::vector<LiveChange> moved_focus_key(const LoadedShot& loaded, double from, double to,
                                        std::optional<Length> at) {
  std::vector<LiveChange> out;
  const std::vector<LiveChange> key = key_of(loaded, from);
  if (to != from) {
    const auto& pulls = loaded.shot.pulls;
    if (std::any_of(pulls.begin(), pulls.end(), [&](const Pull& p) { return p.frame == to; })) {
      throw UsageError(fmt::format("the focus has a key at frame {:g} already", to));
    }
    take_out(loaded, from, out);
  }
  for (const LiveChange& c : key) {
    if (at && !is_ease(c.key)) continue;
    if (to != from) out.push_back({key_at(to, c.key), c.text});
  }
  if (at) {
    out.push_back({key_at(to, "at"),
                   at->is_infinite() ? std::string("infinity") : fmt::format("{:.4g} m", at->m())});
  }
  return out;
}

std::vector<LiveChange> without_focus_key(const LoadedShot& loaded, double frame) {
  (void)number_of_key(loaded, frame);
  if (loaded.shot.pulls.size() == 1) {
    throw UsageError("that is the last key of the focus, and it must be on something");
  }
  std::vector<LiveChange> out;
  take_out(loaded, frame, out);
  return out;
}

}  // namespace jolly_iris
