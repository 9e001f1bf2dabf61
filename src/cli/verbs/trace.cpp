#include "jolly_iris/workflow/trace_run.hpp"

#include <fmt/format.h>

#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class TraceVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "written.0");
    add_out(options, out_, "SHOT's name .trace.exr or .pinhole.exr, here");
    options.flag("--pinhole", wanted_.settings.pinhole,
                 "everything sharp, with depth Z: the input of defocus");
    options.value("--just", just_, "the camera sees these nodes and what is below them, no others",
                  "NAME,NAME");
    options.value("--without", without_, "it does not see these: for pictures in layers",
                  "NAME,NAME");
    options.value("--samples", wanted_.settings.samples, "rays a pixel [64]", "N")
        .within(1, 1 << 20);
    options.value("--seed", seed_, "other seeds give other noise [1]", "N");
    options
        .value("--density", wanted_.settings.density,
               "a draft: only this share of a cloud's points, e.g. 0.05 [1]", "SHARE")
        .within(1e-6, 1.0);
    options
        .flag("--shutter", wanted_.shutter,
              "with the take's shutter open: what moves is smeared, as the plate has it")
        .under("Motion");
    options
        .value("--moments", moments_,
               "with --shutter: into so many parts its time is cut [as the motion needs]", "N")
        .within(1, 4096)
        .under("Motion");
    options
        .flag("--motion", wanted_.motion,
              "with --pinhole: write where each pixel goes as a layer too: motion.R, motion.G,\n"
              "px a frame, right and down (finish.smear.means = \"to the next frame\")")
        .under("Motion");
    options.flag("--half", wanted_.half, "half the width and height");
    options.flag("--margin", wanted_.margin,
                 "with the margin that report asks for around it: an EXR's data window");
    options.flag("--squeezed", wanted_.squeezed,
                 "not desqueezed: as the sensor behind the lens has it");
    options.value("--box", box_, "only this part of the picture, in pixels", "X,Y,W,H");
    frames_.add(options, "a sequence: #### in names stands for the frame's number");
    add_threads(options, threads_);
    options.example(fmt::format("trace {} --half --samples 32 -o out/hero.png", regatta));
  }

  void check() override {
    ShotVerb::check();
    frames_.check();
    wanted_.settings.box = box_of(box_);
    wanted_.settings.just = split(just_);
    wanted_.settings.without = split(without_);
    wanted_.settings.seed = static_cast<std::uint32_t>(seed_);
    if (moments_ > 0) wanted_.moments = moments_;
    if (moments_ > 0 && !wanted_.shutter) throw UsageError("--moments belongs to --shutter");
    if (wanted_.motion && !wanted_.settings.pinhole)
      throw UsageError("--motion belongs to --pinhole");
    if (wanted_.motion && wanted_.shutter) {
      throw UsageError("--motion is of a picture that is not smeared: leave --shutter out");
    }
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    frames_.doubt(loaded, io);
    const bool pinhole = wanted_.settings.pinhole;
    MadePicture what;
    what.names =
        picture_names(out_, report::stem_of(loaded.shot.file) + (pinhole ? ".pinhole" : ".trace") +
                                (frames_.asked() ? ".####" : "") + ".exr");
    for (const std::string& name : what.names) {
      if (wanted_.motion && !name.ends_with(".exr")) {
        throw UsageError(name + ": only an EXR keeps motion; write it as .exr");
      }
      if (wanted_.margin && !name.ends_with(".exr")) {
        throw UsageError(name + ": only an EXR keeps a margin; write it as .exr");
      }
    }
    if (wanted_.squeezed) {
      (void)for_option("--squeezed",
                       [&] { return squeezed_size_of(loaded, loaded.answer.camera.pixels); });
    }
    Progress progress(io.bar, "tracing");
    if (frames_.asked()) {
      const FrameRun done = trace_frames(wanted_, what.names, frames_.settings, loaded, io.files,
                                         progress.execution(threads_));
      say_frames(done, frames_.settings.frames, what.names.front(), "traced", progress.seconds(),
                 loaded, form_, io);
      return;
    }
    TracedFrame done = trace_frame(wanted_, loaded, progress.execution(threads_));
    for (const std::string& w : done.made.warnings) io.notes.warn(w);
    tell_notes(done.made.notes, io);
    what.words = fmt::format("{}{}, {} rays a pixel", pinhole ? "pinhole with depth" : "traced",
                             wanted_.motion ? " and motion" : "", done.samples);
    if (const Margin& m = done.made.frame.margin; m.beside > 0 || m.above > 0) {
      what.words += fmt::format(", {} px beyond the frame beside and {} above", m.beside, m.above);
    }
    if (wanted_.shutter) what.words += fmt::format(" over {} moments", done.moments);
    what.seconds = progress.seconds();
    what.pixel_aspect = done.made.pixel_aspect;
    what.layers = std::move(done.made.layers);
    write_and_say(what, done.made.frame, loaded, form_, io);
  }

 private:
  TraceRequest wanted_{};
  FrameRunTexts frames_{};
  int moments_ = 0;
  std::vector<std::string> out_{};
  std::string just_{};
  std::string without_{};
  std::string box_{};
  int seed_ = 1;
  int threads_ = 0;
};

}  // namespace

const VerbEntry verbs::trace{"trace", "the shot's scene, ray-traced through its lens",
                             make_verb<TraceVerb>};

}  // namespace jolly_iris::cli
