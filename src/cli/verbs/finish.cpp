#include "jolly_iris/workflow/finish_run.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class FinishVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "written.0");
    options
        .value("PICTURE", wanted_.picture,
               "a linear picture through the lens, as defocus or a renderer made it", "FILE")
        .required();
    add_out(options, out_, "PICTURE's name .finish.exr, here");
    options.value("--layers", layers_,
                  "write the picture and what each part added to it as layers of an EXR", "FILE");
    options.value("--stops", wanted_.stops, "brighter by so many stops, before the cast", "N")
        .within(-30.0, 30.0);
    options.value("--margin", margin_, "PICTURE has so many px beyond the frame, beside and above",
                  "PX,PX");
    transfer_.add(options);
    frames_.add(options, "a sequence: #### in names stands for the frame's number");
    options.flag("--half", wanted_.half, "a draft: half the width and height").under("Drafts");
    add_threads(options, threads_);
    options.example(
        fmt::format("finish {} out/hero.defocus.exr --set lens.look=hazy.look.toml "
                    "-o out/hero.finish.png",
                    regatta));
  }

  void check() override {
    ShotVerb::check();
    frames_.check();
    wanted_.decoding = transfer_.decoding();
    wanted_.margin = margin_of("--margin", margin_);
    wanted_.layers = !layers_.empty();
    wanted_.frame = request_.frame;
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    frames_.doubt(loaded, io);
    const std::vector<std::string> names =
        out_.empty() && !layers_.empty()
            ? std::vector<std::string>{}
            : picture_names(out_, report::stem_of(wanted_.picture) + ".finish.exr");
    if (!layers_.empty()) claim_file(layers_, "layers", ".exr");
    Progress progress(io.bar, "finishing");
    if (frames_.asked()) {
      const FrameRun done = finish_frames(wanted_, names, layers_, frames_.settings, loaded,
                                          io.files, progress.execution(threads_));
      say_frames(done, frames_.settings.frames, names.empty() ? layers_ : names.front(), "finished",
                 progress.seconds(), loaded, form_, io);
      return;
    }
    const FinishedFrame done =
        finish_picture(wanted_, loaded, io.files, progress.execution(threads_));
    tell_notes(done.notes, io);
    std::vector<std::string> written = names;
    if (!layers_.empty()) {
      std::vector<NamedPicture> layers;
      for (const FinishLayer& layer : done.layers) layers.push_back({layer.name, layer.added});
      write_for_shot(layers_, done.frame, loaded, 1.0, done.header, layers);
      written.push_back(layers_);
    }
    for (const std::string& name : names) {
      write_for_shot(name, done.frame, loaded, 1.0, done.header);
    }
    const PixelSize size = done.frame.colour.size();
    std::string text = report::tried_line(loaded.shot);
    for (const std::string& name : written) {
      text += fmt::format("{:<28} {} x {}, {}, {:.1f} s\n", name, size.width, size.height,
                          fmt::join(done.parts, " + "), progress.seconds());
    }
    Json json = report::written_json(
        written, {{"seconds", progress.seconds()}, {"width", size.width}, {"height", size.height}},
        &loaded.shot);
    json["parts"] = done.parts;
    say(form_, io, json, text);
  }

 private:
  FinishRequest wanted_{};
  FrameRunTexts frames_{};
  TransferText transfer_{};
  std::vector<std::string> out_{};
  std::string layers_{};
  std::string margin_{};
  int threads_ = 0;
};

}  // namespace

const VerbEntry verbs::finish{"finish",
                              "what light does behind the lens: highlights, halo, spikes, grain",
                              make_verb<FinishVerb>};

}  // namespace jolly_iris::cli
