#include "jolly_iris/workflow/autofocus_keys.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <optional>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/workflow/frame_run.hpp"
#include "pull_keys.hpp"

namespace jolly_iris {

namespace {

double dioptres_of(Length l) { return l.is_finite() ? 1.0 / l.m() : 0.0; }

// "960,540"
std::optional<std::array<double, 2>> pixel_of(const std::string& text) {
  const auto comma = text.find(',');
  if (comma == std::string::npos) return std::nullopt;
  std::array<double, 2> out{};
  try {
    std::size_t used = 0;
    out[0] = std::stod(text.substr(0, comma), &used);
    if (used != comma) return std::nullopt;
    out[1] = std::stod(text.substr(comma + 1), &used);
    if (used != text.size() - comma - 1) return std::nullopt;
  } catch (const std::exception&) {
    return std::nullopt;
  }
  return out;
}

bool is_area(const std::string& on) { return on == "nearest" || on == "median"; }

// The focus on what a depth picture has there.
double picked(const AutofocusRequest& request, double frame, std::vector<std::string>& files) {
  ShotRequest one = request.shot;
  one.frame = frame;
  const std::string depth = std::filesystem::absolute(numbered(request.depth, frame)).string();
  one.overrides.push_back({"depth.file", depth, "the depth picture"});
  const auto pixel = pixel_of(request.on);
  if (pixel) {
    one.overrides.push_back(
        {"focus.pixel", fmt::format("[{:g}, {:g}]", (*pixel)[0], (*pixel)[1]), "the pixel"});
  } else {
    one.overrides.push_back({"focus.area", request.on, "the area"});
  }
  return dioptres_of(open_shot(one, files).answer.camera.focus);
}

double after_subject(const LoadedShot& loaded, const std::string& name, double frame) {
  const LoadedShot now = at_frame(loaded, frame);
  for (const SubjectBlur& s : now.answer.subjects) {
    if (s.name == name) return dioptres_of(s.axial);
  }
  std::vector<std::string> names;
  for (const SubjectBlur& s : now.answer.subjects) names.push_back(s.name);
  throw UsageError(fmt::format(
      "there is no subject '{}' to follow at frame {:g}; name one of the report's, or nearest, "
      "median or a pixel of depth pictures",
      name, frame));
}

std::vector<FocusOverride> own_keys(const LoadedShot& loaded, const std::vector<double>& frames) {
  std::vector<FocusOverride> out;
  for (const Pull& p : loaded.shot.pulls) {
    if (p.frame < frames.front() || p.frame > frames.back()) continue;
    out.push_back(
        {p.frame - frames.front(), dioptres_of(at_frame(loaded, p.frame).answer.camera.focus)});
  }
  return out;
}

}  // namespace

AutofocusKeys autofocus_keys(const AutofocusRequest& request, std::vector<std::string>& files) {
  const bool by_depth = is_area(request.on) || pixel_of(request.on).has_value();
  if (by_depth && request.depth.empty()) {
    throw UsageError(
        fmt::format("{} is looked for in depth pictures; name them: depth.####.exr", request.on));
  }
  if (!by_depth && !request.depth.empty()) {
    throw UsageError(fmt::format(
        "{} is a subject, whose place the shot knows; depth pictures are asked for nearest, median "
        "or a pixel",
        request.on));
  }
  const LoadedShot loaded = open_shot(request.shot, files);
  AutofocusKeys out;
  out.frames = chosen_frames(request.frames, loaded);
  if (out.frames.empty()) throw UsageError("no frames to focus in");
  for (std::size_t i = 1; i < out.frames.size(); ++i) {
    if (std::abs(out.frames[i] - out.frames[i - 1] - 1.0) < 1e-9) continue;
    throw UsageError(fmt::format(
        "an autofocus goes through time frame by frame, and frame {:g} comes after {:g}; name all "
        "of them",
        out.frames[i], out.frames[i - 1]));
  }
  out.wanted_dpt.resize(out.frames.size());
  if (by_depth) {
    require_numbered({request.depth});
    check_sequence({request.depth}, out.frames);
    std::vector<std::vector<std::string>> read(out.frames.size());
    for_each_frame(
        out.frames, FrameOrder::side_by_side, false,
        [&](std::size_t i, const Execution&) {
          out.wanted_dpt[i] = picked(request, out.frames[i], read[i]);
          const PixelSize size = loaded.now.body.pixels;
          return static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height);
        },
        request.execution);
    for (std::size_t i = 0; i < read.size(); ++i) {
      files.insert(files.end(), read[i].begin(), read[i].end());
    }
  } else {
    for (std::size_t i = 0; i < out.frames.size(); ++i) {
      request.execution.check();
      out.wanted_dpt[i] = after_subject(loaded, request.on, out.frames[i]);
    }
  }
  AutofocusSettings settings = request.settings;
  if (loaded.now.take.fps) settings.fps = *loaded.now.take.fps;
  const std::vector<FocusOverride> own =
      request.keep_keys ? own_keys(loaded, out.frames) : std::vector<FocusOverride>{};
  out.own_keys = own.size();
  out.moves = autofocus(out.wanted_dpt, settings, own, request.join);
  const Ease ease = ease_of(settings);
  const double before = out.moves.empty() ? out.wanted_dpt.front() : out.moves.front().from_dpt;
  for (std::size_t i = 0; i < out.frames.size(); ++i) {
    out.focus_dpt.push_back(focus_during(out.moves, ease, before, static_cast<double>(i)));
  }
  std::vector<PullKey> keys;
  if (out.moves.empty() || out.moves.front().begins > 0.0) {
    add_key(keys, {out.frames.front(), before, {}});
  }
  for (AutofocusMove& m : out.moves) {
    m.begins += out.frames.front();
    m.ends += out.frames.front();
    add_key(keys, {m.begins, m.from_dpt, {}});
    // What somebody keyed goes smoothly from one to the next.
    add_key(keys, {m.ends, m.to_dpt, m.by_hand ? Ease{.kind = Ease::Kind::smooth} : ease});
  }
  out.keys = keys.size();
  out.toml = pull_tables(keys);
  return out;
}

}  // namespace jolly_iris
