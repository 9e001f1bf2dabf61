#include <fmt/format.h>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/flare_run.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "report/flare_report.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class FlareVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "light");
    options
        .value("PICTURE", wanted_.picture,
               "a linear picture through the lens, as defocus or trace made it", "FILE")
        .required();
    add_out(options, out_, "PICTURE's name .flare.exr, here");
    options.value("--layers", layers_,
                  "write the picture, its ghosts and the strongest pairs alone as layers of an EXR",
                  "FILE");
    options.flag("--alone", wanted_.alone, "the ghosts without the picture");
    options.flag("--bent", wanted_.settings.bent,
                 "PICTURE has the lens's distortion, as a plate or trace has; else it is straight");
    options
        .value("--lamps", wanted_.search.most,
               "follow so many lamps, those with the most light [8]", "N")
        .within(1, 64);
    options
        .value("--from", wanted_.search.from, "what is brighter than this is a lamp [1]", "LIGHT")
        .within(1e-6, 1e9);
    transfer_.add(options);
    frames_.add(options, "a sequence: #### in names stands for the frame's number");
    add_threads(options, threads_);
    options.example(
        "flare demo/glass/evening.shot.toml out/evening.defocus.exr "
        "-o out/evening.flare.png");
  }

  void check() override {
    ShotVerb::check();
    frames_.check();
    wanted_.decoding = transfer_.decoding();
    if (!layers_.empty()) wanted_.settings.layers = pictured_pairs;
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    frames_.doubt(loaded, io);
    const std::vector<std::string> names =
        out_.empty() && !layers_.empty()
            ? std::vector<std::string>{}
            : picture_names(out_, report::stem_of(wanted_.picture) + ".flare.exr");
    if (!layers_.empty()) claim_file(layers_, "layers", ".exr");
    Progress progress(io.bar, "ghosts");
    if (frames_.asked()) {
      const FrameRun done = flare_frames(wanted_, names, layers_, frames_.settings, loaded,
                                         io.files, progress.execution(threads_));
      say_frames(done, frames_.settings.frames, names.empty() ? layers_ : names.front(), "flared",
                 progress.seconds(), loaded, form_, io);
      return;
    }
    const FlaredFrame done = flare_picture(wanted_, loaded, io.files, progress.execution(threads_));
    tell_notes(done.notes, io);
    std::vector<std::string> written = names;
    if (!layers_.empty()) {
      write_for_shot(layers_, done.frame, loaded, 1.0, done.header, flare_layers(done));
      written.push_back(layers_);
    }
    for (const std::string& name : names) {
      write_for_shot(name, done.frame, loaded, 1.0, done.header);
    }
    std::string text = report::tried_line(loaded.shot) + report::flare_text(done) + '\n';
    const PixelSize size = done.frame.colour.size();
    for (const std::string& name : written) {
      text += fmt::format("{:<28} {} x {}, {:.1f} s\n", name, size.width, size.height,
                          progress.seconds());
    }
    Json json = report::written_json(written, {{"seconds", progress.seconds()}}, &loaded.shot);
    report::add_flare_json(done, json);
    say(form_, io, json, text);
  }

 private:
  // So many of the strongest pairs are layers of their own.
  static constexpr int pictured_pairs = 8;

  FlareRequest wanted_{};
  FrameRunTexts frames_{};
  TransferText transfer_{};
  std::vector<std::string> out_{};
  std::string layers_{};
  int threads_ = 0;
};

}  // namespace

const VerbEntry verbs::flare{
    "flare", "ghosts of the picture's lamps, as the lens's glass makes them", make_verb<FlareVerb>};

}  // namespace jolly_iris::cli
