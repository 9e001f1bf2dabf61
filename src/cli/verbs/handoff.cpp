#include "jolly_iris/files/handoff.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/files/frame_table.hpp"
#include "jolly_iris/files/usda.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

bool moves(const LoadedShot& loaded) {
  return changes_over_frames(loaded.shot) || (loaded.scene && !loaded.scene->channels.empty());
}

class HandoffVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "written.0");
    frames_.add(options, "these frames [all, where something moves]");
    options.repeatable("--stamp", stamp_,
                       "write the numbers into this EXR's header too (repeatable)", "FILE.exr");
    options.value("--to", folder_, "folder to write to [this one]", "FOLDER");
    options.example(fmt::format("handoff {} --to out", regatta));
  }

  void check() override {
    ShotVerb::check();
    chosen_ = frames_.request();
  }

  void run(const Terminal& io) override {
    if (!std::filesystem::is_directory(folder_)) {
      throw FileError(
          fmt::format("--to {}: is no folder that is there; make it first, or name "
                      "another",
                      folder_));
    }
    const LoadedShot loaded = open(io);
    frames_.doubt(loaded, io);
    std::vector<Answer> answers{loaded.answer};
    const bool moving = chosen_.asked || (moves(loaded) && !request_.frame);
    if (moving) {
      Progress progress(io.bar, "frames");
      answers = answers_at(loaded.shot, loaded.scene ? &*loaded.scene : nullptr,
                           chosen_frames(chosen_, loaded), progress.execution());
    }
    const std::string stem = report::stem_of(loaded.shot.file) +
                             (loaded.shot.variant.empty() ? "" : "." + loaded.shot.variant);
    const bool named = loaded.shot.scene && loaded.shot.scene->camera;
    const std::string name = named ? *loaded.shot.scene->camera : stem + " camera";
    std::vector<std::string> written;
    std::string text = report::tried_line(loaded.shot);
    const auto write = [&](const char* ending, const std::string& bytes, const std::string& words) {
      written.push_back((std::filesystem::path(folder_) / (stem + ending)).string());
      write_whole_file(written.back(), bytes);
      text += fmt::format("{:<32} {}\n", written.back(), words);
    };
    const std::string over = moving ? fmt::format(", frames {1:g} to {2:g}", answers.size(),
                                                  answers.front().frame.value_or(0.0),
                                                  answers.back().frame.value_or(0.0))
                                    : "";
    write(".camera.gltf", camera_gltf(answers, name, loaded.shot.take.fps),
          "the camera in its place" + over);
    write(".camera.usda", camera_usda(answers, name, loaded.shot.take.fps),
          "in USD text, with focus, stop and focal length" + over);
    write(".camera.json", answer_json(loaded.answer),
          "all numbers; its keys are those of report --json");
    if (moving) {
      write(".camera.csv", frames_csv(answers),
            "one line a frame: camera, focus, every subject's blur");
    }
    const bool zooms = std::any_of(answers.begin(), answers.end(), [&](const Answer& a) {
      return std::abs(a.camera.focal / answers.front().camera.focal - 1.0) > 1e-4;
    });
    if (zooms) {
      text +=
          "glTF cannot change a focal length over time: take breathing and zoom from the .usda or\n"
          "the .csv.\n";
    }
    for (const std::string& picture : stamp_) {
      stamp_picture(picture, camera_header(loaded));
      written.push_back(picture);
      text += fmt::format("{:<32} {}\n", picture, "its header has the camera's numbers now");
    }
    say(form_, io, report::written_json(written, {}, &loaded.shot), text);
  }

 private:
  FrameTexts frames_{};
  FrameRequest chosen_{};
  std::vector<std::string> stamp_{};
  std::string folder_{"."};
};

}  // namespace

const VerbEntry verbs::handoff{"handoff", "the camera for other programs: glTF, usda, JSON, CSV",
                               make_verb<HandoffVerb>};

}  // namespace jolly_iris::cli
