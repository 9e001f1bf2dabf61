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

double shape_of(PixelSize size) { return static_cast<double>(size.width) / size.height; }

bool same_shape(double a, double b) { return std::abs(a / b - 1.0) < 0.004; }

std::string times(PixelSize size) { return fmt::format("{} x {}", size.width, size.height); }

double squeeze_of(const LoadedShot& loaded) {
  if (loaded.now.lens.squeeze != 1.0) return loaded.now.lens.squeeze;
  throw UsageError(loaded.shot.where("lens.squeeze") +
                   "the lens does not squeeze; write lens.squeeze = 2");
}

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
    if (keep_ == "height") {
      kept_ = KeptSide::height;
    } else if (keep_ == "width") {
      kept_ = KeptSide::width;
    } else if (!keep_.empty()) {
      throw UsageError("--keep " + keep_ + ": write height or width");
    }
    if (sizes_ && (!picture_.empty() || !out_.empty() || kept_)) {
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
    const double by = squeeze_of(loaded);
    const std::string picture = picture_of(loaded);
    MadePicture what;
    what.names =
        picture_names(out_, report::stem_of(picture) + (back_ ? ".squeeze.exr" : ".desqueeze.exr"));
    const Progress progress(io.bar, back_ ? "squeezing" : "desqueezing");
    const Frame frame = read_for_shot(picture, decoding_, loaded, io.files);
    tell_notes(frame.notes, io);
    const PixelSize size = frame.colour.size();
    doubt_pixels(loaded, picture, size, by, io);
    const PixelSize wanted = wanted_size(loaded, size, by);
    const Frame out = resampled(frame, wanted);
    const PixelSize delivered = loaded.answer.camera.pixels;
    if (!back_ && !same_shape(shape_of(wanted), shape_of(delivered))) {
      io.notes.note(fmt::format(
          "the result is {:.2f} : 1, the delivered picture {:.2f} : 1 (body.pixels): it shows more "
          "or less of the gate",
          shape_of(wanted), shape_of(delivered)));
    }
    what.words = fmt::format("{} {:g} x", back_ ? "squeezed" : "desqueezed", by);
    what.pixel_aspect = back_ ? by : 1.0;
    what.seconds = progress.seconds();
    write_and_say(what, out, loaded, form_, io);
  }

 private:
  std::string picture_of(const LoadedShot& loaded) const {
    if (!picture_.empty()) return picture_;
    if (back_) throw UsageError(loaded.shot.file + ": name the picture to squeeze");
    return plate_file(loaded, "to desqueeze", ", or name a picture");
  }

  // What the file says of its own pixels against what is about to be done to it.
  void doubt_pixels(const LoadedShot& loaded, const std::string& picture, PixelSize size,
                    double squeeze, const Terminal& io) const {
    const double aspect = read_plate_facts(picture).pixel_aspect.value_or(1.0);
    if (back_) {
      if (std::abs(aspect / squeeze - 1.0) < 0.01) {
        throw UsageError(fmt::format(
            "{}: is squeezed already: its header says that pixels are {:g} times as wide as high",
            picture, aspect));
      }
      return;
    }
    if (aspect != 1.0 && std::abs(aspect / squeeze - 1.0) > 0.01) {
      io.notes.warn(fmt::format(
          "{} says that its pixels are {:g} times as wide as high, but the lens squeezes {:g} "
          "times "
          "({})",
          picture, aspect, squeeze, loaded.shot.where("lens.squeeze") + "lens.squeeze"));
    }
    if (aspect == 1.0 && size == loaded.answer.camera.pixels) {
      io.notes.warn(fmt::format(
          "{} is as large as the delivered picture, {}: if it is desqueezed already, this does it "
          "twice",
          picture, times(size)));
    }
  }

  // To the delivered picture's own size where that is what it comes to: no rounding of 1706.67.
  PixelSize wanted_size(const LoadedShot& loaded, PixelSize size, double squeeze) const {
    const PixelSize delivered = loaded.answer.camera.pixels;
    if (back_) {
      return squeezed_size(size, squeeze, kept_.value_or(KeptSide::height));
    }
    const bool fits = loaded.now.body.pixel_aspect == 1.0 &&
                      same_shape(shape_of(size) * squeeze, shape_of(delivered));
    const bool kept = size.height == delivered.height || size.width == delivered.width;
    if (fits && kept && !kept_) return delivered;
    return desqueezed_size(size, squeeze, kept_.value_or(KeptSide::height));
  }

  std::optional<KeptSide> kept_{};
  std::string keep_{};
  bool sizes_ = false;
};

}  // namespace

const VerbEntry verbs::desqueeze{"desqueeze", "a squeezed plate -> as it is looked at",
                                 make_verb<SqueezeVerb, false>};
const VerbEntry verbs::squeeze{"squeeze", "a picture as the sensor behind a squeezing lens has it",
                               make_verb<SqueezeVerb, true>};

}  // namespace jolly_iris::cli
