// What a verb and the one that undoes it have in common: one picture in, one out.
#pragma once

#include <string>
#include <vector>

#include "cli/terminal/progress.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/workflow/reshape_run.hpp"

namespace jolly_iris::cli {

class PicturePairVerb : public ShotVerb {
 public:
  /// @param back the verb that makes of CG what a camera records
  explicit PicturePairVerb(bool back) : back_(back) {}

  void check() override {
    ShotVerb::check();
    frames_.check();
    wanted_.decoding = transfer_.decoding();
  }

 protected:
  /// SHOT, PICTURE and -o. @param otherwise what -o is called without
  void add_picture(OptionSet& options, const char* help, const char* otherwise) {
    add_shot(options, "written.0");
    options.value("PICTURE", wanted_.picture, help, "FILE");
    add_out(options, out_, otherwise);
    frames_.add(options, "a sequence: #### in names stands for the frame's number");
  }

  /// All frames of PICTURE, written under those names. @param words "straightened"
  void change_all(const LoadedShot& loaded, const std::vector<std::string>& names,
                  const char* words, Progress& progress, const Terminal& io) const {
    const FrameRun done =
        reshape_frames(wanted_, names, frames_.settings, loaded, io.files, progress.execution());
    say_frames(done, frames_.settings.frames, names.front(), words, progress.seconds(), loaded,
               form_, io);
  }

  bool back_;
  TransferText transfer_{};
  FrameRunTexts frames_{};
  ReshapeRequest wanted_{};
  std::vector<std::string> out_{};
};

}  // namespace jolly_iris::cli
