#include <fmt/format.h>

#include <filesystem>
#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "drawing/result_sheets.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/comparison.hpp"
#include "jolly_iris/workflow/comparison_frames.hpp"
#include "report/comparison_frames_report.hpp"
#include "report/comparison_report.hpp"
#include "report/measured.hpp"

namespace jolly_iris::cli {

namespace {

class CompareVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "discs.larger.value");
    options
        .several("PICTURE", wanted_.pictures, "CG of the plate's framing; several are tries of it",
                 "FILE")
        .required();
    options.flag("--no-plate", wanted_.among_themselves,
                 "compare with the first picture instead of the plate");
    options.flag("--no-finish", no_finish_, "leave grain, halo, smear and corners out: quicker");
    options.value("--box", box_, "only this part, px of the plate", "X,Y,W,H");
    options
        .value("--least", wanted_.min_px, "diameter of the smallest disc looked for, px [12]", "PX")
        .within(8.0, 4000.0);
    options.value("--side", side_, "write both pictures beside each other", "FILE");
    options.value("--split", split_,
                  "write one picture, the plate left of a line and CG right of it", "FILE");
    options.value("--split-at", split_at_, "where that line is, share of the width [0.5]", "SHARE")
        .within(0.0, 1.0);
    options.value("--difference", difference_, "write the difference around grey", "FILE");
    options.value("--times", times_, "with --difference: enlarged so much [4]", "N")
        .within(0.1, 1000.0);
    options.value("--where", where_,
                  "draw the places that differ most into both pictures: .png .svg", "FILE");
    options.value("--blink", blink_, "write both in turns, as a moving picture", "FILE.gif");
    options.value("--sheet", sheet_, "draw all tries with the values that made them",
                  "FILE.png|svg");
    transfer_.add(options);
    frames_.add(options, "cg.####.exr against a plate that is a sequence, frame by frame");
    options.value("--part", part_, "only this share of them: the second of eight is 2/8", "K/N")
        .under("Many frames");
    options
        .flag("--keep-going", run_.keep_going,
              "a frame that fails does not end the run: it is told at the end")
        .under("Many frames");
    options.flag("--csv", csv_, "a row for each frame").under("Many frames");
    add_threads(options, threads_);
    options.example("compare demo/regatta/hero.shot.toml out/hero.exr --blink out/hero.gif");
  }

  void check() override {
    ShotVerb::check();
    wanted_.box = box_of(box_);
    wanted_.finish = !no_finish_;
    wanted_.decoding = transfer_.decoding();
    check_frames();
  }

  void run(const Terminal& io) override {
    check_names();
    const LoadedShot loaded = open(io);
    if (run_.frames.asked) return over_frames(loaded, io);
    if (!wanted_.among_themselves) {
      (void)plate_file(loaded, "to compare with", ", or compare tries with each other: --no-plate");
    }
    Progress progress(io.bar, "comparing");
    ComparisonRequest wanted = wanted_;
    wanted.execution = progress.execution();
    const PlateComparison comparison = compare_pictures(loaded, wanted, io.files);
    std::vector<std::string> written;
    tell_notes(comparison.notes, io);
    for (const TriedPicture& t : comparison.tries) tell_notes(t.frame.notes, io);
    if (comparison.likes.size() == 1) write_pictures(comparison, written);
    if (!sheet_.empty()) {
      const LabelledSheet sheet = comparison_sheet(comparison);
      write_whole_file(sheet_, is_svg(sheet_) ? labelled_svg(sheet) : labelled_png(sheet));
      written.push_back(sheet_);
    }
    std::string text =
        report::tried_line(loaded.shot) + report::comparison_text(comparison, loaded);
    if (!written.empty()) text += '\n';
    for (const std::string& name : written) text += name + '\n';
    Json json = report::comparison_json(comparison);
    json["written"] = written;
    say(form_, io, json, text);
  }

 private:
  void check_frames() {
    run_.frames = frames_.request();
    if (!part_.empty()) run_.frames.part = for_option("--part", [&] { return frame_part(part_); });
    if (!run_.frames.asked) {
      if (!part_.empty() || run_.keep_going || csv_) {
        throw UsageError("--part, --keep-going and --csv belong to --frames");
      }
      return;
    }
    const bool drawn = !side_.empty() || !split_.empty() || !difference_.empty() ||
                       !where_.empty() || !blink_.empty() || !sheet_.empty();
    if (drawn || wanted_.among_themselves || wanted_.pictures.size() != 1) {
      throw UsageError(
          "--frames compares one sequence with the plate's, in numbers; pictures of both, several "
          "tries and --no-plate are for one frame: --frame N");
    }
    if (csv_ && !form_.for_people()) {
      throw UsageError("--csv, --json and --only are three forms; ask for one of them");
    }
  }

  void over_frames(const LoadedShot& loaded, const Terminal& io) const {
    frames_.doubt(loaded, io);
    Progress progress(io.bar, "comparing");
    ComparisonRequest wanted = wanted_;
    wanted.execution = progress.execution(threads_);
    const ComparedFrames compared = compare_frames(loaded, wanted, run_, io.files);
    Json json = report::compared_frames_json(compared);
    json["failed"] = tell_failed(compared.failed, io);
    if (csv_) {
      io.out << report::compared_frames_csv(compared);
    } else {
      say(form_, io, json,
          report::tried_line(loaded.shot) + report::compared_frames_text(compared));
    }
    require_no_failure(compared.failed, compared.frames.size() + compared.failed.size());
  }

  void check_names() const {
    for (const std::string& name : {side_, split_, difference_}) claim_picture(name);
    for (const std::string& name : {sheet_, where_}) claim_drawing(name);
    claim_file(blink_, "a moving picture", ".gif");
    const bool of_two = !where_.empty() || !side_.empty() || !split_.empty() ||
                        !difference_.empty() || !blink_.empty();
    if (of_two && wanted_.pictures.size() > (wanted_.among_themselves ? 2U : 1U)) {
      throw UsageError(
          "--side, --split, --difference, --where and --blink show one picture against the plate; "
          "of "
          "several "
          "tries draw a --sheet");
    }
    if (wanted_.among_themselves && wanted_.pictures.size() < 2) {
      throw UsageError("--no-plate: give two pictures or more, which are compared with the first");
    }
  }

  void write_pictures(const PlateComparison& comparison, std::vector<std::string>& written) const {
    const SameSizePair both = compared_pair(comparison);
    const auto write = [&](const std::string& name, const auto& picture) {
      if (name.empty()) return;
      write_picture(name, {picture(), {}});
      written.push_back(name);
    };
    write(side_, [&] { return beside(both.plate, both.cg); });
    write(split_, [&] { return jolly_iris::split(both.plate, both.cg, split_at_); });
    write(difference_, [&] { return difference(both.plate, both.cg, times_); });
    if (!where_.empty()) {
      const MarkedPicture marked = differing_places(comparison);
      write_whole_file(where_, is_svg(where_) ? marked_svg(marked) : marked_png(marked));
      written.push_back(where_);
    }
    if (!blink_.empty()) {
      write_moving_picture(blink_, {both.plate, both.cg});
      written.push_back(blink_);
    }
  }

  ComparisonRequest wanted_{};
  TransferText transfer_{};
  bool no_finish_ = false;
  std::string box_{};
  std::string side_{};
  std::string split_{};
  std::string difference_{};
  std::string blink_{};
  std::string where_{};
  std::string sheet_{};
  double split_at_ = 0.5;
  double times_ = 4.0;
  FrameTexts frames_{};
  FrameRunSettings run_{};
  std::string part_{};
  bool csv_ = false;
  int threads_ = 0;
};

}  // namespace

const VerbEntry verbs::compare{
    "compare", "plate and CG, or several tries: what differs, and what to change next",
    make_verb<CompareVerb>};

}  // namespace jolly_iris::cli
