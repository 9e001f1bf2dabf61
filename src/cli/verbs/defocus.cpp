#include <fmt/format.h>

#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/picture/recover_highlights.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/defocus_run.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class DefocusVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "written.0");
    options.several("PICTURE", wanted_.pictures,
                    "a sharp picture; an EXR with depth Z (as the shot's [depth] counts,\n"
                    "else axial metres). Several: layers, from front to back",
                    "FILE");
    add_out(options, out_, "PICTURE's name .defocus.exr, here");
    add_far(options, wanted_.depth, wanted_.distance, wanted_.blur);
    options
        .repeatable("--card", cards_,
                    "a flat picture with alpha, all of it at a subject or a distance:\n"
                    "boat.png=boat, reeds.png=1.2m (repeatable); the nearest lies in front",
                    "FILE=WHERE")
        .under(far_heading);
    options
        .flag("--mend-depth", wanted_.mend_depth,
              "the depth's edges are smoothed: give each pixel one of its sides")
        .under(far_heading);
    options
        .value("--most", wanted_.max_blur, "with --blur: it holds 0 ... 1, and 1 is this many px",
               "PX")
        .under(far_heading);
    options
        .value("--save-blur", wanted_.save_blur, "write each pixel's disc, signed px, as an EXR",
               "FILE")
        .under(far_heading);
    options
        .repeatable("--holdout", wanted_.holdouts,
                    "a layer of PICTURE that only hides (repeatable)", "FILE")
        .under("Edges");
    options.value("--edge", edge_, "beyond the frame: repeat, mirror or black [repeat]", "NAME")
        .under("Edges");
    options
        .value("--margin", margin_, "PICTURE has so many px beyond the frame, beside and above",
               "PX,PX")
        .under("Edges");
    options
        .flag("--squeezed", wanted_.squeezed,
              "PICTURE is not desqueezed, and neither is the result")
        .under("Edges");
    options.flag("--no-vignetting", no_vignetting_, "the barrel shapes discs but takes no light")
        .under("Light");
    options
        .value("--clipped-at", wanted_.clipped_at,
               "PICTURE ends at this value: lamps were brighter [1]", "VALUE")
        .under("Light");
    options.value("--true-peak", wanted_.true_peak, "how bright clipped lamps are", "VALUE")
        .under("Light");
    options
        .value("--disc", disc_, "the same, from a lamp's disc in the plate: value and diameter",
               "VALUE,PX")
        .under("Light");
    options
        .flag("--finish", wanted_.finish,
              "the shot's [finish] besides: lift before the blur, halo to grain behind it")
        .under("Light");
    transfer_.add(options);
    frames_.add(options, "a sequence: #### in names stands for the frame's number");
    options.flag("--half", wanted_.half, "a draft: half the width and height").under("Drafts");
    options.value("--box", box_, "a draft: only this part, px of PICTURE", "X,Y,W,H")
        .under("Drafts");
    add_threads(options, threads_);
    options.example(
        fmt::format("defocus {} demo/regatta/pinhole.exr -o out/hero.defocus.png", regatta));
  }

  void check() override {
    ShotVerb::check();
    frames_.check();
    wanted_.decoding = transfer_.decoding();
    wanted_.box = box_of(box_);
    wanted_.vignetting = !no_vignetting_;
    wanted_.frame = request_.frame;
    if (edge_ == "mirror") {
      wanted_.edge = FrameEdge::mirror;
    } else if (edge_ == "black") {
      wanted_.edge = FrameEdge::black;
    } else if (!edge_.empty() && edge_ != "repeat") {
      throw UsageError("--edge " + edge_ + ": write repeat, mirror or black");
    }
    for (const std::string& text : cards_) wanted_.cards.push_back(picture_card(text));
    wanted_.margin = margin_of("--margin", margin_);
    read_disc();
    check_together();
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    frames_.doubt(loaded, io);
    const std::string& first =
        wanted_.pictures.empty() ? wanted_.cards.front().file : wanted_.pictures.front();
    const std::string usual = report::stem_of(first) + ".defocus.exr";
    const std::vector<std::string> names = picture_names(out_, usual);
    claim_picture(wanted_.save_blur);
    if (!wanted_.distance.empty() && !frames_.asked()) {
      (void)for_option("--distance", [&] { return distance_named(loaded, wanted_.distance); });
    }
    Progress progress(io.bar, "defocusing");
    if (frames_.asked()) {
      const FrameRun done = defocus_frames(wanted_, names, frames_.settings, loaded, io.files,
                                           progress.execution(threads_));
      say_frames(done, frames_.settings.frames, names.front(), "defocused", progress.seconds(),
                 loaded, form_, io);
      return;
    }
    const DefocusedPicture done = [&] {
      try {
        return defocus_picture(wanted_, loaded, io.files, progress.execution(threads_));
      } catch (const NoDepthError& e) {
        throw NoDepthError(std::string(e.what()) + ", e.g. --distance 12m");
      }
    }();
    tell(done.notes, done.warnings, io);
    MadePicture what{names, "defocused", progress.seconds(), done.pixel_aspect, done.header};
    if (done.layers > 1) what.words = fmt::format("{} layers defocused", done.layers);
    if (done.fraction_of_work < 1.0) {
      what.words += fmt::format(", a draft (the whole takes about {:.1f} s)",
                                what.seconds / done.fraction_of_work);
    }
    write_and_say(what, done.frame, loaded, form_, io);
  }

 private:
  void read_disc() {
    if (disc_.empty()) return;
    const auto d = numbers_of("--disc", disc_, 2, 2,
                              "a disc's value and its diameter in px in the plate, e.g. 0.8,42");
    if (!(d[0] > 0.0 && d[1] > 0.0)) {
      throw UsageError("--disc " + disc_ + ": both are above zero");
    }
    if (wanted_.true_peak) {
      throw UsageError("--disc computes what --true-peak says; give one of them");
    }
    wanted_.true_peak = peak_of_disc(d[0], d[1]);
  }

  void check_together() const {
    const DefocusRequest& w = wanted_;
    if (w.pictures.empty() && w.cards.empty()) {
      throw UsageError("name the picture to defocus, or a card: --card FILE=WHERE");
    }
    const bool elsewhere = !w.blur.empty() || !w.depth.empty() || !w.distance.empty();
    if (!w.cards.empty() && elsewhere) {
      throw UsageError(
          "--card says itself how far it is; --distance, --depth and --blur are for one picture "
          "alone");
    }
    if (w.clipped_at && !w.true_peak) {
      throw UsageError(
          "--clipped-at needs to know how bright a lamp is: --true-peak VALUE, or --disc VALUE,PX");
    }
    if (!w.distance.empty() && (!w.blur.empty() || !w.depth.empty())) {
      throw UsageError("--distance takes the place of a depth picture; give the one or the other");
    }
    if (!w.blur.empty() && !w.depth.empty()) {
      throw UsageError("--blur takes the place of depth; give it or --depth");
    }
    if (w.max_blur && w.blur.empty()) throw UsageError("--most belongs to --blur FILE");
    if (w.pictures.size() > 1 && (!w.blur.empty() || !w.depth.empty() || !w.distance.empty())) {
      throw UsageError("each of several layers has its own depth: give EXRs with Z");
    }
  }

  // The library says what; how it is typed is said here.
  static void tell(const std::vector<std::string>& notes, const std::vector<std::string>& warnings,
                   const Terminal& io) {
    for (const std::string& w : warnings)
      io.notes.warn(w, " (--true-peak VALUE, or --disc VALUE,PX)");
    tell_notes(notes, io);
  }

  DefocusRequest wanted_{};
  FrameRunTexts frames_{};
  TransferText transfer_{};
  std::vector<std::string> out_{};
  std::vector<std::string> cards_{};
  std::string edge_{};
  std::string margin_{};
  std::string disc_{};
  std::string box_{};
  bool no_vignetting_ = false;
  int threads_ = 0;
};

}  // namespace

const VerbEntry verbs::defocus{"defocus", "picture + depth -> picture as the lens saw it",
                               make_verb<DefocusVerb>};

}  // namespace jolly_iris::cli
