#include "jolly_iris/trace/trace.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/workflow/motion.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class TraceVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "written.0");
    add_out(options, out_, "SHOT's name .trace.exr or .pinhole.exr, here");
    options.flag("--pinhole", settings_.pinhole,
                 "everything sharp, with depth Z: the input of defocus");
    options.value("--just", just_, "the camera sees these nodes and what is below them, no others",
                  "NAME,NAME");
    options.value("--without", without_, "it does not see these: for pictures in layers",
                  "NAME,NAME");
    options.value("--samples", settings_.samples, "rays a pixel [64]", "N").within(1, 1 << 20);
    options.value("--seed", seed_, "other seeds give other noise [1]", "N");
    options
        .value("--density", settings_.density,
               "a draft: only this share of a cloud's points, e.g. 0.05 [1]", "SHARE")
        .within(1e-6, 1.0);
    options
        .flag("--shutter", shutter_,
              "with the take's shutter open: what moves is smeared, as the plate has it")
        .under("Motion");
    options
        .value("--moments", moments_,
               "with --shutter: into so many parts its time is cut [as the motion needs]", "N")
        .within(1, 4096)
        .under("Motion");
    options
        .flag("--motion", motion_,
              "with --pinhole: write where each pixel goes as a layer too: motion.R, motion.G,\n"
              "px a frame, right and down (finish.smear.means = \"to the next frame\")")
        .under("Motion");
    options.flag("--half", half_, "half the width and height");
    options.flag("--squeezed", squeezed_, "not desqueezed: as the sensor behind the lens has it");
    options.value("--box", box_, "only this part of the picture, in pixels", "X,Y,W,H");
    add_threads(options, threads_);
    options.example(fmt::format("trace {} --half --samples 32 -o out/hero.png", regatta));
  }

  void check() override {
    ShotVerb::check();
    settings_.box = box_of(box_);
    settings_.just = split(just_);
    settings_.without = split(without_);
    settings_.seed = static_cast<std::uint32_t>(seed_);
    if (moments_ > 0 && !shutter_) throw UsageError("--moments belongs to --shutter");
    if (motion_ && !settings_.pinhole) throw UsageError("--motion belongs to --pinhole");
    if (motion_ && shutter_) {
      throw UsageError("--motion is of a picture that is not smeared: leave --shutter out");
    }
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    if (!loaded.scene) {
      throw UsageError(loaded.shot.file +
                       ": has no scene to trace; write [scene] file = \"set.gltf\"");
    }
    if (loaded.now.blur_override.bends() && !settings_.pinhole) {
      io.notes.warn(
          "no lens does what [cheat] asks for (a sharp band, a largest disc); the trace shows the "
          "optics, defocus the cheat");
    }
    MadePicture what;
    what.names = picture_names(out_, report::stem_of(loaded.shot.file) +
                                         (settings_.pinhole ? ".pinhole.exr" : ".trace.exr"));
    for (const std::string& name : what.names) {
      if (motion_ && !name.ends_with(".exr")) {
        throw UsageError(name + ": only an EXR keeps motion; write it as .exr");
      }
    }
    TraceSettings settings = settings_;
    if (half_) {
      const PixelSize full = loaded.answer.camera.pixels;
      settings.size = PixelSize{std::max(1, full.width / 2), std::max(1, full.height / 2)};
    }
    if (squeezed_) {
      settings.size = for_option("--squeezed", [&] {
        return squeezed_size_of(loaded, settings.size.value_or(loaded.answer.camera.pixels));
      });
      what.pixel_aspect = loaded.now.lens.squeeze;
    }
    Progress progress(io.bar, "tracing");
    settings.execution = progress.execution(threads_);
    if (shutter_) {
      ShutterTrace made = trace_open_shutter(
          loaded, moments_ > 0 ? std::optional(moments_) : std::nullopt, settings);
      tell_notes(made.notes, io);
      what.words = fmt::format("{}, {} rays a pixel over {} moments",
                               settings.pinhole ? "pinhole with depth" : "traced", made.samples,
                               made.moments);
      what.seconds = progress.seconds();
      write_and_say(what, made.frame, loaded, form_, io);
      return;
    }
    const Frame frame = trace(*loaded.scene, loaded.answer.camera, loaded.answer.place, settings);
    if (motion_) {
      settings.execution.progress = {};
      what.layers = {{"motion", picture_of(motion_of_scene(loaded, settings))}};
    }
    what.words =
        fmt::format("{}{}, {} rays a pixel", settings.pinhole ? "pinhole with depth" : "traced",
                    motion_ ? " and motion" : "", settings.samples);
    what.seconds = progress.seconds();
    write_and_say(what, frame, loaded, form_, io);
  }

 private:
  TraceSettings settings_{};
  int moments_ = 0;
  bool shutter_ = false;
  bool motion_ = false;
  std::vector<std::string> out_{};
  std::string just_{};
  std::string without_{};
  std::string box_{};
  int seed_ = 1;
  int threads_ = 0;
  bool half_ = false;
  bool squeezed_ = false;
};

}  // namespace

const VerbEntry verbs::trace{"trace", "the shot's scene, ray-traced through its lens",
                             make_verb<TraceVerb>};

}  // namespace jolly_iris::cli
