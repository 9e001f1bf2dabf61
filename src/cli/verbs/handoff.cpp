#include "jolly_iris/workflow/handoff_run.hpp"

#include <fmt/format.h>

#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class HandoffVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "written.0");
    frames_.add(options, "these frames [all, where something moves]");
    options.repeatable("--stamp", wanted_.stamp,
                       "write the numbers into this EXR's header too (repeatable)", "FILE.exr");
    options.value("--to", wanted_.folder, "folder to write to [this one]", "FOLDER");
    options.example(fmt::format("handoff {} --to out", regatta));
  }

  void check() override {
    ShotVerb::check();
    chosen_ = frames_.request();
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    frames_.doubt(loaded, io);
    wanted_.frames = chosen_;
    wanted_.one_frame = request_.frame.has_value();
    Progress progress(io.bar, "frames");
    wanted_.execution = progress.execution();
    const Handoff made = hand_off(wanted_, loaded);
    std::vector<std::string> written;
    std::string text = report::tried_line(loaded.shot);
    for (const HandedFile& file : made.files) {
      written.push_back(file.name);
      text += fmt::format("{:<32} {}\n", file.name, file.what);
    }
    if (made.zooms) {
      text +=
          "glTF cannot change a focal length over time: take breathing and zoom from the .usda or\n"
          "the .csv.\n";
    }
    say(form_, io, report::written_json(written, {}, &loaded.shot), text);
  }

 private:
  FrameTexts frames_{};
  FrameRequest chosen_{};
  HandoffRequest wanted_{};
};

}  // namespace

const VerbEntry verbs::handoff{"handoff", "the camera for other programs: glTF, usda, JSON, CSV",
                               make_verb<HandoffVerb>};

}  // namespace jolly_iris::cli
