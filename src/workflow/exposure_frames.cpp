#include "jolly_iris/workflow/exposure_frames.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "disk/disk.hpp"
#include "disk/json.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/workflow/write_picture.hpp"

namespace jolly_iris {

namespace {

double step_of(const std::vector<double>& frames) {
  if (frames.size() < 2) return 1.0;
  const double step = frames[1] - frames[0];
  for (std::size_t i = 2; i < frames.size(); ++i) {
    if (std::abs(frames[i] - frames[i - 1] - step) < 1e-6) continue;
    throw UsageError(fmt::format(
        "a ramp goes over time, and from frame {:g} to {:g} it is another time than from {:g} to "
        "{:g}; name frames one after another",
        frames[i - 1], frames[i], frames[0], frames[1]));
  }
  return step;
}

// Stops that each of the frames asks for; one that failed goes on as the one before it.
std::vector<double> wanted_stops(const std::vector<double>& frames, const ExposedFrames& seen,
                                 const FrameRamp& ramp, const LookRequest& request) {
  std::map<double, double> known;
  for (const MeteredFrame& m : ramp.elsewhere) known[m.frame] = m.stops + request.stops;
  for (const ExposedFrame& f : seen.frames) {
    known[f.frame] = f.look.metered_counts ? f.stops : f.look.metered.stops() + request.stops;
  }
  std::vector<double> failed;
  for (const FrameFailure& f : seen.failed) failed.push_back(f.frame);
  std::vector<double> out;
  double last = known.empty() ? 0.0 : known.begin()->second;
  for (const double frame : frames) {
    const auto found = known.find(frame);
    if (found != known.end()) {
      last = found->second;
    } else if (std::find(failed.begin(), failed.end(), frame) == failed.end()) {
      throw UsageError(fmt::format(
          "a ramp goes over all frames, and nobody metered frame {:g}; meter each part first, and "
          "give what they found together",
          frame));
    }
    out.push_back(last);
  }
  return out;
}

void follow_ramp(ExposedFrames& seen, const FrameRamp& ramp, FrameRequest request,
                 const LookRequest& look, const LoadedShot& loaded) {
  if (!loaded.now.take.fps) {
    throw OpticsError(loaded.shot.where("take.fps") + "a ramp needs the frame rate: fps = 24",
                      "take.fps");
  }
  request.part = {};
  const std::vector<double> frames = chosen_frames(request, loaded);
  RampSettings settings = ramp.settings;
  settings.fps = *loaded.now.take.fps / step_of(frames);
  const auto done = exposure_ramp(wanted_stops(frames, seen, ramp, look), settings);
  for (ExposedFrame& f : seen.frames) {
    const auto at = std::lower_bound(frames.begin(), frames.end(), f.frame) - frames.begin();
    f.stops = done[static_cast<std::size_t>(at)];
  }
}

}  // namespace

std::vector<MeteredFrame> read_metered(const std::string& file, std::vector<std::string>& files) {
  files.push_back(file);
  const Json json = json_from(read_whole_file(file), file);
  const Json* frames = json.find("frames");
  std::vector<MeteredFrame> out;
  for (const Json& f : frames == nullptr ? Json::array().entries() : frames->entries()) {
    const Json* frame = f.find("frame");
    const Json* stops = f.find("stops");
    if (frame == nullptr || stops == nullptr || !frame->number() || !stops->number()) break;
    out.push_back({*frame->number(), *stops->number()});
  }
  if (frames != nullptr && out.size() == frames->size()) return out;
  throw FileError(file +
                  ": has no list \"frames\" whose entries have \"frame\" and \"stops\"; it "
                  "is what expose --frames --json says");
}

ExposedFrames look_at_frames(const std::string& pictures, const FrameRunSettings& settings,
                             const LookRequest& request, const std::optional<FrameRamp>& ramp,
                             const LoadedShot& loaded, std::vector<std::string>& files,
                             const Execution& execution) {
  const std::vector<double> chosen = chosen_frames(settings.frames, loaded);
  if (!settings.keep_going) check_sequence({pictures}, chosen);
  std::vector<ExposedFrame> all;
  for (const double frame : chosen) all.push_back({frame, {}, 0.0, {}});
  ExposedFrames out;
  out.failed = for_each_frame(
      chosen, FrameOrder::side_by_side, settings.keep_going,
      [&](std::size_t i, const Execution&) {
        ExposedFrame& f = all[i];
        const std::string file = numbered(pictures, f.frame);
        const Frame frame = read_for_shot(file, request.decoding, loaded, f.files);
        f.look = look_at(frame, file, request, at_frame(loaded, f.frame), f.files);
        f.stops = f.look.stops;
        return frame.colour.pixels().size();
      },
      execution);
  for (ExposedFrame& f : all) {
    files.insert(files.end(), f.files.begin(), f.files.end());
    const bool failed = std::any_of(out.failed.begin(), out.failed.end(),
                                    [&](const FrameFailure& x) { return x.frame == f.frame; });
    if (!failed) out.frames.push_back(std::move(f));
  }
  if (ramp) follow_ramp(out, *ramp, settings.frames, request, loaded);
  return out;
}

FrameRun write_exposed(const ExposedFrames& looks, const std::string& pictures,
                       const std::vector<std::string>& names, const FrameRunSettings& settings,
                       const LookRequest& request, const LoadedShot& loaded,
                       std::vector<std::string>& files, const Execution& execution) {
  std::map<double, const ExposedFrame*> by_frame;
  for (const ExposedFrame& f : looks.frames) by_frame[f.frame] = &f;
  FrameWork work;
  work.names = names;
  work.inputs = {pictures};
  work.order = FrameOrder::side_by_side;
  const auto settings_of = [&](double frame) {
    const auto found = by_frame.find(frame);
    if (found == by_frame.end()) return std::string("not looked at");
    ExposureLook look = found->second->look;
    look.stops = found->second->stops;
    return fmt::format("expose {} {:.17g} {:.17g} {:.17g} {:.17g} {} {}",
                       settings_text(request.decoding), look.stops, look.gains[0], look.gains[1],
                       look.gains[2], static_cast<int>(look.relative_illumination),
                       fmt::join(look.applied, "; "));
  };
  work.settings_at = settings_of;
  work.make = [&](const LoadedShot& now, double at, std::vector<std::string>& read,
                  const Execution&) {
    ExposureLook look = by_frame.at(at)->look;
    look.stops = by_frame.at(at)->stops;
    MadeFrame made;
    made.frame = read_for_shot(look.file, request.decoding, now, read);
    apply(look, now, made.frame.colour);
    made.header = header_of(look);
    return made;
  };
  // What could not be looked at was told of already.
  FrameRunSettings those = settings;
  those.frames.part = {};
  those.frames.spans.clear();
  for (const ExposedFrame& f : looks.frames) {
    those.frames.spans.push_back({{f.frame, f.frame}, 1.0});
  }
  return make_frames(work, those, loaded, files, execution);
}

}  // namespace jolly_iris
