// What a verb and the one that undoes it have in common: one picture in, one out.
#pragma once

#include <string>
#include <vector>

#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris::cli {

class PicturePairVerb : public ShotVerb {
 public:
  /// @param back the verb that makes of CG what a camera records
  explicit PicturePairVerb(bool back) : back_(back) {}

  void check() override {
    ShotVerb::check();
    decoding_ = transfer_.decoding();
  }

 protected:
  /// SHOT, PICTURE and -o. @param otherwise what -o is called without
  void add_picture(OptionSet& options, const char* help, const char* otherwise) {
    add_shot(options, "written.0");
    options.value("PICTURE", picture_, help, "FILE");
    add_out(options, out_, otherwise);
  }

  bool back_;
  TransferText transfer_{};
  Decoding decoding_{};
  std::vector<std::string> out_{};
  std::string picture_{};
};

}  // namespace jolly_iris::cli
