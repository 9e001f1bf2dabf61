#include "jolly_iris/workflow/sequence.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <filesystem>
#include <string_view>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "jolly_iris/optics/range.hpp"
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

namespace {

// Takes a number from the front of a text; none: it does not begin with one.
template <class Number>
std::optional<Number> take_number(std::string_view& text) {
  Number value{};
  const auto end = std::from_chars(text.data(), text.data() + text.size(), value);
  if (end.ec != std::errc{}) return std::nullopt;
  text.remove_prefix(static_cast<std::size_t>(end.ptr - text.data()));
  return value;
}

bool take(std::string_view& text, char wanted) {
  if (text.empty() || text.front() != wanted) return false;
  text.remove_prefix(1);
  return true;
}

std::optional<FrameSpan> span_of(std::string_view text) {
  const auto first = take_number<double>(text);
  if (!first) return std::nullopt;
  if (text.empty()) return FrameSpan{{*first, *first}, 1.0};
  if (!take(text, '-')) return std::nullopt;
  const auto last = take_number<double>(text);
  if (!last) return std::nullopt;
  if (text.empty()) return FrameSpan{{*first, *last}};
  if (!take(text, 'x')) return std::nullopt;
  const auto step = take_number<double>(text);
  if (!step || !text.empty() || !(*step > 0.0)) return std::nullopt;
  return FrameSpan{{*first, *last}, *step};
}

std::vector<double> frames_of_span(const FrameSpan& span, double step) {
  std::vector<double> frames = frames_of(span.range, span.step > 0.0 ? span.step : step);
  // Every fourth is every fourth: only a request's own step keeps the last one.
  if (span.step > 0.0 && frames.size() > 1 &&
      frames.back() - frames[frames.size() - 2] < span.step - 1e-6) {
    frames.pop_back();
  }
  return frames;
}

void append(std::vector<double>& all, const std::vector<double>& more) {
  all.insert(all.end(), more.begin(), more.end());
  if (static_cast<double>(all.size()) <= range::most_frames + 1.0) return;
  throw UsageError(
      fmt::format("these are over {:g} frames; ask for fewer in one run", range::most_frames));
}

}  // namespace

std::vector<FrameSpan> frame_spans(const std::string& text) {
  if (text == "all") return {};
  std::vector<FrameSpan> out;
  std::string_view left = text;
  for (bool more = true; more;) {
    const auto comma = left.find(',');
    const std::string_view one = left.substr(0, comma);
    const auto span = span_of(one);
    if (!span) {
      throw UsageError(fmt::format(
          "'{}' names no frames; write 1001-1100, every fourth of them 1001-1100x4, single ones "
          "1001,1005, or all",
          one));
    }
    out.push_back(*span);
    more = comma != std::string_view::npos;
    if (more) left.remove_prefix(comma + 1);
  }
  return out;
}

FramePart frame_part(const std::string& text) {
  std::string_view left = text;
  const auto number = take_number<int>(left);
  const bool slash = number && take(left, '/');
  const auto count = slash ? take_number<int>(left) : std::nullopt;
  if (!count || !left.empty() || *number < 1 || *count < *number) {
    throw UsageError(fmt::format(
        "'{}' is no part; write which and of how many, e.g. 2/8: the second eighth", text));
  }
  return {*number, *count};
}

std::vector<double> chosen_frames(const FrameRequest& request, const LoadedShot& loaded) {
  std::vector<double> frames;
  for (const FrameSpan& span : request.spans) append(frames, frames_of_span(span, request.step));
  if (request.spans.empty()) {
    const std::optional<FrameRange> range = frames_of_shot(loaded);
    if (!range) {
      throw UsageError(loaded.shot.file +
                       ": nothing says which frames there are; write [frames] first = 1001 and "
                       "last = 1100, or name them");
    }
    frames = frames_of(*range, request.step);
  }
  std::sort(frames.begin(), frames.end());
  frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
  const auto cut = [&](int parts) {
    return static_cast<std::ptrdiff_t>(frames.size() * static_cast<std::size_t>(parts) /
                                       static_cast<std::size_t>(request.part.count));
  };
  return {frames.begin() + cut(request.part.number - 1), frames.begin() + cut(request.part.number)};
}

std::string frames_doubt(const FrameRequest& request, const LoadedShot& loaded) {
  const std::optional<FrameRange>& own = loaded.shot.frames;
  if (request.spans.empty() || !own) return {};
  FrameRange asked = request.spans.front().range;
  for (const FrameSpan& span : request.spans) {
    asked = {std::min(asked.first, span.range.first), std::max(asked.last, span.range.last)};
  }
  if (asked.first >= own->first && asked.last <= own->last) return {};
  return fmt::format("frames {:g} to {:g} reach outside the shot's own, {:g} to {:g}", asked.first,
                     asked.last, own->first, own->last);
}

const std::string& sequence_of_plate(const LoadedShot& loaded, const std::string& why) {
  const auto& plate = loaded.shot.plate;
  if (!plate || plate->file.empty()) (void)plate_file(loaded, why, ", or name pictures");
  if (is_sequence(plate->file)) return plate->file;
  throw UsageError(
      fmt::format("{}the plate is one picture; a sequence has #### where the frame's number stands",
                  loaded.shot.where("plate.file")));
}

void require_numbered(const std::vector<std::string>& names) {
  for (const std::string& name : names) {
    if (is_sequence(name)) continue;
    throw UsageError(name + ": one picture for all frames; write #### where the number stands");
  }
}

namespace {

bool changes(const LoadedShot& loaded) {
  return loaded.answer.frame || (loaded.shot.plate && is_sequence(loaded.shot.plate->file));
}

}  // namespace

LoadedShot posed_at_frame(const LoadedShot& loaded, double frame) {
  LoadedShot at = loaded;
  if (!changes(loaded)) return at;
  at.now = shot_at(loaded.shot, frame);
  at.answer = answer_at(loaded.shot, loaded.scene ? &*loaded.scene : nullptr, frame);
  if (at.scene) pose_at_frame(*at.scene, loaded.shot, frame);
  return at;
}

LoadedShot at_frame(const LoadedShot& loaded, double frame) {
  LoadedShot at{loaded.shot, loaded.now, std::nullopt, loaded.answer};
  if (loaded.now.finish.smear) at.scene = loaded.scene;  // which says how things move
  if (!changes(loaded)) return at;
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
