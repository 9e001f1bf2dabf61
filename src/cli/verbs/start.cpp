#include <fmt/format.h>

#include <filesystem>
#include <map>

#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/workflow/start_shot.hpp"
#include "report/start_report.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class StartVerb : public Verb {
 public:
  void add_options(OptionSet& options) override {
    options
        .several("WHAT", what_,
                 "a scene (.gltf .glb .usda), a plate as it came from the camera, a picture with\n"
                 "depth (.exr); one of each at most",
                 "FILE")
        .required();
    options.value("--camera", camera_, "which of the scene's cameras [its only one, or the first]",
                  "NAME");
    options.value("-o,--out", out_, "shot file to write [the first one's name .shot.toml, here]",
                  "FILE");
    options.flag("--replace", replace_, "replace a shot file that is there already");
    add_form(options, form_, "focal_mm");
    options.example("start demo/regatta/regatta.gltf -o out/scene.shot.toml");
    options.example("start demo/regatta/plate.jpg -o out/first.shot.toml");
  }

  void run(const Terminal& io) override {
    StartRequest request = start_request(what_, io.files);
    request.camera = camera_;
    if (!camera_.empty() && request.scene.empty()) {
      throw UsageError("--camera is one of a scene's; name the scene too, e.g. set.gltf");
    }
    request.file = out_.empty() ? report::stem_of(what_.front()) + ".shot.toml" : out_;
    for (const std::string& file : what_) note_input(file);
    if (std::filesystem::exists(request.file) && !replace_) {
      throw UsageError(
          fmt::format("{}: is there already; give another name with -o, or --replace to replace it",
                      request.file));
    }
    const StartedShot shot = start_shot(request, io.files);
    write_whole_file(request.file, shot.text);
    for (const std::string& note : shot.notes) io.notes.warn(note);
    say(form_, io, report::started_json(shot, request.file),
        report::started_text(shot, request.file));
  }

 private:
  std::vector<std::string> what_{};
  std::string camera_{};
  std::string out_{};
  bool replace_ = false;
  Form form_{};
};

}  // namespace

const VerbEntry verbs::start{
    "start", "a scene, a plate or both -> a shot file that reports at once", make_verb<StartVerb>};

}  // namespace jolly_iris::cli
