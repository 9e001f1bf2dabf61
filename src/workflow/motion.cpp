#include "jolly_iris/workflow/motion.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/sequence.hpp"

namespace jolly_iris {

namespace {

// The camera as a picture with a margin sees it.
VirtualCamera with_margin(VirtualCamera camera, PixelSize size, const Margin& m) {
  const double across = static_cast<double>(size.width) / (size.width - 2 * m.beside);
  const double down = static_cast<double>(size.height) / (size.height - 2 * m.above);
  camera.picture = {camera.picture.width * across, camera.picture.height * down};
  camera.pixels = size;
  return camera;
}

double frame_of(const LoadedShot& loaded, std::optional<double> at) {
  return at.value_or(loaded.answer.frame.value_or(0.0));
}

// Whether anything could move at all: else a smear of nothing is an answer, and worth a sentence.
bool moves(const LoadedShot& loaded) { return loaded.answer.frame.has_value(); }

CameraMoment camera_at(const LoadedShot& loaded, double frame) {
  const LoadedShot now = at_frame(loaded, frame);
  return {now.answer.camera, now.answer.place};
}

MotionVectors by_scene(const Frame& frame, const Margin& margin, double at, const ShutterSpan& span,
                       const LoadedShot& loaded, const Execution& execution) {
  const MomentAt moment = moments_of(loaded);
  const PixelSize size = frame.colour.size();
  const auto widened = [&](double when) {
    SceneMoment m = moment(when);
    m.seen_by.camera = with_margin(m.seen_by.camera, size, margin);
    return m;
  };
  TraceSettings settings;
  settings.size = size;
  settings.execution = execution;
  return trace_motion(widened, at, span, settings);
}

MotionVectors by_vectors(const std::string& picture, const Frame& frame, bool half, double at,
                         const Smear& smear, std::vector<std::string>& files) {
  const std::string file = smear.file.empty() ? picture : numbered(smear.file, at);
  files.push_back(file);
  const Frame read = read_values(file, smear.layer);
  MotionVectors out = read_vectors(read.colour, smear.meaning);
  if (!half) return out;
  // A draft: every other pixel's, since a mean of two vectors is the way of nothing.
  const PixelSize small = frame.colour.size();
  MotionVectors halved{small, {}, {}};
  for (int y = 0; y < small.height; ++y) {
    for (int x = 0; x < small.width; ++x) {
      const auto row = static_cast<std::size_t>(std::min(2 * y, out.size.height - 1));
      const auto column = static_cast<std::size_t>(std::min(2 * x, out.size.width - 1));
      const auto& v = out.px_a_frame[row * static_cast<std::size_t>(out.size.width) + column];
      halved.px_a_frame.push_back({0.5F * v[0], 0.5F * v[1]});
    }
  }
  return halved;
}

}  // namespace

ShutterSpan shutter_of(const LoadedShot& loaded) {
  const auto shutter = cg_shutter(loaded.now.take);
  if (!shutter) {
    throw OpticsError(loaded.shot.where("take.shutter") +
                          "how far things smear hangs on the shutter and the frame rate; write "
                          "e.g. shutter = \"180 deg\" and fps = 24",
                      "take.shutter");
  }
  const Smear smear = loaded.now.finish.smear.value_or(Smear{});
  return shutter_span(smear.times * shutter->open_fraction, smear.shutter);
}

MomentAt moments_of(const LoadedShot& loaded) {
  if (!loaded.scene) {
    throw UsageError(loaded.shot.file +
                     ": has no scene that could say how things move; write [scene] file = "
                     "\"set.gltf\", or finish.smear.from = \"vectors\"");
  }
  return [&loaded](double frame) {
    SceneMoment out{*loaded.scene, {loaded.answer.camera, loaded.answer.place}};
    if (!moves(loaded)) return out;
    pose_at_frame(out.scene, loaded.shot, frame);
    const Answer answer = answer_at(loaded.shot, &*loaded.scene, frame);
    out.seen_by = {answer.camera, answer.place};
    return out;
  };
}

MotionVectors motion_of_scene(const LoadedShot& loaded, const TraceSettings& settings) {
  return trace_motion(moments_of(loaded), frame_of(loaded, {}), shutter_of(loaded), settings);
}

Picture picture_of(const MotionVectors& motion) {
  Picture out(motion.size, {0, 0, 0, 1});
  for (std::size_t i = 0; i < motion.px_a_frame.size(); ++i) {
    out.pixels()[i] = {motion.px_a_frame[i][0], motion.px_a_frame[i][1], 0.0F, 1.0F};
  }
  return out;
}

ShutterTrace trace_open_shutter(const LoadedShot& loaded, std::optional<int> moments,
                                const TraceSettings& settings) {
  const MomentAt moment = moments_of(loaded);
  const ShutterSpan span = shutter_of(loaded);
  const double frame = frame_of(loaded, {});
  ShutterTrace out;
  if (!moves(loaded)) {
    out.notes.emplace_back(
        "nothing moves in this shot: its scene has no animation and its camera no track");
  }
  if (moments) {
    out.moments = *moments;
  } else {
    TraceSettings coarse = settings;  // who goes farthest, as a small picture has it
    const PixelSize whole = settings.size.value_or(loaded.answer.camera.pixels);
    constexpr int shrink = 4;
    coarse.size = PixelSize{std::max(1, whole.width / shrink), std::max(1, whole.height / shrink)};
    coarse.box.reset();
    coarse.execution.progress = {};
    double longest = 0.0;
    for (const auto& v : trace_motion(moment, frame, span, coarse).px_a_frame) {
      const auto length = static_cast<double>(std::hypot(v[0], v[1]));
      if (std::isfinite(length)) longest = std::max(longest, shrink * length);
    }
    constexpr double least = 8.0;
    constexpr double most = 128.0;
    out.moments =
        static_cast<int>(std::clamp(std::ceil(longest * (span.closes - span.opens)), least, most));
    // A power of two, as evenly spread rays like it.
    out.moments = static_cast<int>(std::bit_ceil(static_cast<unsigned>(out.moments)));
  }
  if (settings.samples < out.moments) {
    out.notes.push_back(fmt::format("each of {} moments needs a ray: {} a pixel instead of {}",
                                    out.moments, out.moments, settings.samples));
  }
  out.samples = std::max(1, settings.samples / out.moments) * out.moments;
  out.frame = trace_shutter(moment, frame, span, out.moments, settings);
  return out;
}

FoundMotion motion_in(const std::string& picture, const Frame& frame, bool half,
                      const Margin& margin, std::optional<double> at, const LoadedShot& loaded,
                      std::vector<std::string>& files, const Execution& execution) {
  const Smear smear = loaded.now.finish.smear.value_or(Smear{});
  FoundMotion out;
  out.span = shutter_of(loaded);
  const double when = frame_of(loaded, at);
  switch (smear.from) {
    case Smear::From::vectors:
      out.vectors = by_vectors(picture, frame, half, when, smear, files);
      break;
    case Smear::From::camera:
      out.vectors = vectors_of_camera(frame, camera_at(loaded, when),
                                      camera_at(loaded, when + out.span.opens),
                                      camera_at(loaded, when + out.span.closes), out.span, margin);
      break;
    case Smear::From::scene:
      out.vectors = by_scene(frame, margin, when, out.span, loaded, execution);
      break;
  }
  if (smear.from != Smear::From::vectors && !moves(loaded)) {
    out.notes.emplace_back(
        "smear: nothing moves in this shot: its scene has no animation and its camera no track");
  }
  return out;
}

}  // namespace jolly_iris
