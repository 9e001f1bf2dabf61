// desqueeze and squeeze.
#include <fmt/format.h>

#include <cmath>
#include <ostream>

#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/picture_pair_verb.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/picture_size.hpp"
#include "jolly_iris/picture/resample.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "report/measured.hpp"
#include "report/sizes_report.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

// `back` makes of a picture what the sensor behind a squeezing lens has.
class SqueezeVerb : public PicturePairVerb {
 public:
  using PicturePairVerb::PicturePairVerb;

  void add_options(OptionSet& options) override {
    add_picture(
        options, back_ ? "the picture to squeeze" : "the picture to desqueeze [the shot's plate]",
        back_ ? "PICTURE's name .squeeze.exr, here" : "PICTURE's name .desqueeze.exr, here");
    options.value("--keep", keep_, "which of its pixel counts stays: height or width [height]",
                  "SIDE");
    if (!back_) {
      options.flag("--sizes", sizes_,
                   "no picture: which picture sizes this gate and squeeze can fill");
    }
    transfer_.add(options);
    options.example(
        back_ ? "squeeze demo/regatta/oval.shot.toml out/oval.png -o out/oval.squeezed.exr"
              : "desqueeze demo/regatta/oval.shot.toml --sizes");
  }

  void check() override {
    PicturePairVerb::check();
    wanted_.reshape = back_ ? Reshape::squeeze : Reshape::desqueeze;
    if (keep_ == "height") {
      wanted_.kept = KeptSide::height;
    } else if (keep_ == "width") {
      wanted_.kept = KeptSide::width;
    } else if (!keep_.empty()) {
      throw UsageError("--keep " + keep_ + ": write height or width");
    }
    if (sizes_ && (!wanted_.picture.empty() || !out_.empty() || wanted_.kept)) {
      throw UsageError(
          "--sizes tells sizes and touches no picture; leave PICTURE, -o and --keep out");
    }
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    if (sizes_) {
      const report::SqueezeSizes sizes = report::squeeze_sizes(loaded);
      say(form_, io, sizes.json, report::tried_line(loaded.shot) + sizes.text);
      return;
    }
    frames_.doubt(loaded, io);
    wanted_.picture = picture_of(loaded);
    MadePicture what;
    what.names = picture_names(
        out_, report::stem_of(wanted_.picture) + (back_ ? ".squeeze.exr" : ".desqueeze.exr"));
    Progress progress(io.bar, back_ ? "squeezing" : "desqueezing");
    if (frames_.asked()) {
      return change_all(loaded, what.names, back_ ? "squeezed" : "desqueezed", progress, io);
    }
    const MadeFrame made = reshaped_picture(wanted_, loaded, io.files);
    tell_notes(made.notes, io);
    for (const std::string& w : made.warnings) io.notes.warn(w);
    what.words =
        fmt::format("{} {:g} x", back_ ? "squeezed" : "desqueezed", loaded.now.lens.squeeze);
    what.pixel_aspect = made.pixel_aspect;
    what.seconds = progress.seconds();
    write_and_say(what, made.frame, loaded, form_, io);
  }

 private:
  std::string picture_of(const LoadedShot& loaded) const {
    if (!wanted_.picture.empty()) return wanted_.picture;
    if (back_) throw UsageError(loaded.shot.file + ": name the picture to squeeze");
    if (frames_.asked()) return sequence_of_plate(loaded, "to desqueeze");
    return plate_file(loaded, "to desqueeze", ", or name a picture");
  }

  std::string keep_{};
  bool sizes_ = false;
};

}  // namespace

const VerbEntry verbs::desqueeze{"desqueeze", "a squeezed plate -> as it is looked at",
                                 make_verb<SqueezeVerb, false>};
const VerbEntry verbs::squeeze{"squeeze", "a picture as the sensor behind a squeezing lens has it",
                               make_verb<SqueezeVerb, true>};

}  // namespace jolly_iris::cli
