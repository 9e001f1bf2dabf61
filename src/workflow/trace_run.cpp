#include "jolly_iris/workflow/trace_run.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/workflow/motion.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"
#include "jolly_iris/workflow/write_picture.hpp"

namespace jolly_iris {

namespace {

std::string settings_text(const TraceRequest& r) {
  const TraceSettings& s = r.settings;
  std::string text = fmt::format("trace {} {} {} {} {} {:.17g} {} {} {} {} {} [{}] [{}]", s.samples,
                                 s.first_ray, s.seed, s.plain_random, s.pinhole, s.density, r.half,
                                 r.squeezed, r.shutter, r.moments.value_or(0), r.motion,
                                 fmt::join(s.just, ","), fmt::join(s.without, ","));
  if (r.margin) text += " margin";
  if (s.box) text += fmt::format(" {} {} {} {}", s.box->x, s.box->y, s.box->width, s.box->height);
  return text;
}

// A wider camera from the same place: its picture's middle and pixels are the frame's.
TracedFrame trace_with_margin(const TraceRequest& request, const LoadedShot& loaded,
                              TraceSettings settings) {
  if (request.squeezed || request.shutter || request.motion || settings.box) {
    throw UsageError(
        "a margin is traced of the whole, desqueezed picture at one moment: leave out --squeezed, "
        "--shutter, --motion and --box");
  }
  VirtualCamera wide = loaded.answer.camera;
  Margin m = loaded.answer.margin;
  // At half the size two of its pixels are one.
  const int times = request.half ? 2 : 1;
  m = {times * ((m.beside + times - 1) / times), times * ((m.above + times - 1) / times)};
  const PixelSize whole{wide.pixels.width + 2 * m.beside, wide.pixels.height + 2 * m.above};
  wide.picture.width = wide.picture.width * (static_cast<double>(whole.width) / wide.pixels.width);
  wide.picture.height =
      wide.picture.height * (static_cast<double>(whole.height) / wide.pixels.height);
  wide.pixels = whole;
  LoadedShot wider = loaded;
  wider.answer.camera = wide;
  settings.size = PixelSize{whole.width / times, whole.height / times};
  if (!settings.pinhole) settings.glass = glass_camera_of(wider);
  TracedFrame out{{}, settings.samples, 1};
  out.made.frame = trace(*loaded.scene, wide, loaded.answer.place, settings);
  out.made.frame.margin = {m.beside / times, m.above / times};
  return out;
}

}  // namespace

TracedFrame trace_frame(const TraceRequest& request, const LoadedShot& loaded,
                        const Execution& execution) {
  if (!loaded.scene) {
    throw UsageError(loaded.shot.file +
                     ": has no scene to trace; write [scene] file = \"set.gltf\"");
  }
  TraceSettings settings = request.settings;
  settings.execution = execution;
  if (request.half) {
    const PixelSize full = settings.size.value_or(loaded.answer.camera.pixels);
    settings.size = PixelSize{std::max(1, full.width / 2), std::max(1, full.height / 2)};
  }
  if (request.margin) return trace_with_margin(request, loaded, settings);
  TracedFrame out{{}, settings.samples, 1};
  const auto placed = [&settings, &loaded](Frame frame) {
    if (settings.box) {
      frame.part = PartOf{settings.size.value_or(loaded.answer.camera.pixels), settings.box->x,
                          settings.box->y};
    }
    return frame;
  };
  if (request.squeezed) {
    settings.size = squeezed_size_of(loaded, settings.size.value_or(loaded.answer.camera.pixels));
    out.made.pixel_aspect = loaded.now.lens.squeeze;
  }
  if (loaded.now.blur_override.bends() && !settings.pinhole) {
    out.made.warnings.emplace_back(
        "no lens does what [cheat] asks for (a sharp band, a largest disc); the trace shows the "
        "optics, defocus the cheat");
  }
  if (!settings.pinhole) settings.glass = glass_camera_of(loaded);
  if (request.shutter) {
    ShutterTrace made = trace_open_shutter(loaded, request.moments, settings);
    out.made.frame = placed(std::move(made.frame));
    out.made.notes = std::move(made.notes);
    out.samples = made.samples;
    out.moments = made.moments;
    return out;
  }
  out.made.frame =
      placed(trace(*loaded.scene, loaded.answer.camera, loaded.answer.place, settings));
  if (request.motion) {
    settings.execution.progress = {};
    out.made.layers = {{"motion", picture_of(motion_of_scene(loaded, settings))}};
  }
  return out;
}

FrameRun trace_frames(const TraceRequest& request, const std::vector<std::string>& names,
                      const FrameRunSettings& settings, const LoadedShot& loaded,
                      std::vector<std::string>& files, const Execution& execution) {
  FrameWork work;
  work.names = names;
  work.settings = settings_text(request);
  work.posed = true;
  work.make = [&](const LoadedShot& now, double, std::vector<std::string>&, const Execution& how) {
    return trace_frame(request, now, how).made;
  };
  return make_frames(work, settings, loaded, files, execution);
}

}  // namespace jolly_iris
