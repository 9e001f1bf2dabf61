#include <fmt/format.h>

#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "drawing/result_sheets.hpp"
#include "jolly_iris/workflow/disc_measurement.hpp"
#include "jolly_iris/workflow/disc_sequence.hpp"
#include "jolly_iris/workflow/finish_measurement.hpp"
#include "jolly_iris/workflow/line_measurement.hpp"
#include "report/disc_sequence_report.hpp"
#include "report/discs_report.hpp"
#include "report/finish_report.hpp"
#include "report/lines_report.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class MeasureVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "tilt_deg.value");
    options.flag("--discs", discs_, "measure the plate's discs, also where edges are drawn");
    options.flag(
        "--finish", finish_,
        "measure the plate's halo, spikes, streak, smear, corners, grain, as lines for [finish]");
    add_disc_search(options, search_.min_px, boxes_);
    options.value("--overlay", overlay_, "draw the plate with what was found in it",
                  "FILE.png|svg");
    options.flag("--focal", lines_.focal, "find the focal length too, from two sets of edges");
    options.value("--drawn", lines_.drawn_px, "how exactly they were drawn, in px [0.5]", "PX")
        .within(1e-3, 100.0);
    frames_.add(options, "discs of a plate that is a sequence, followed from frame to frame");
    options.value("--part", part_, "only this share of them: the second of eight is 2/8", "K/N")
        .under("Many frames");
    options
        .flag("--keep-going", keep_going_,
              "a frame that fails does not end the run: it is told at the end")
        .under("Many frames");
    options.flag("--csv", csv_, "a row for each disc of a track").under("Many frames");
    add_threads(options, threads_);
    options.example("measure demo/regatta/hero.shot.toml --discs --overlay out/discs.png");
  }

  void check() override {
    ShotVerb::check();
    run_.frames = frames_.request();
    run_.keep_going = keep_going_;
    const bool asked = run_.frames.asked;
    if (!part_.empty()) run_.frames.part = for_option("--part", [&] { return frame_part(part_); });
    if (!asked && (!part_.empty() || keep_going_ || csv_)) {
      throw UsageError("--part, --keep-going and --csv belong to --frames");
    }
    if (asked && (finish_ || lines_.focal || !overlay_.empty())) {
      throw UsageError("--frames follows discs; leave out --finish, --focal and --overlay");
    }
    if (csv_ && !form_.for_people()) {
      throw UsageError("--csv, --json and --only are three forms; ask for one of them");
    }
    if (asked) discs_ = true;
    search_.boxes = boxes_of(boxes_);
    if (finish_ && (discs_ || lines_.focal)) {
      throw UsageError("--finish is a question of its own; leave out --discs and --focal");
    }
    if (!search_.boxes.empty() && !discs_) {
      throw UsageError("--box says where discs are looked for; it belongs to --discs");
    }
  }

  void run(const Terminal& io) override {
    claim_drawing(overlay_);
    const LoadedShot loaded = open(io);
    if (run_.frames.asked) return follow(loaded, io);
    if (finish_) {
      return measure_its_finish(loaded, io);
    }
    const auto& plate = loaded.now.plate;
    const bool has_picture = plate && !plate->file.empty();
    const bool has_lines = plate && !plate->marks.lines.empty();
    if (discs_ || (has_picture && !has_lines && !lines_.focal)) return measure_them(loaded, io);
    const LineMeasurement both = measure_lines(loaded, lines_);
    Json json = report::lines_json(both, loaded);
    std::string text = report::tried_line(loaded.shot) + report::lines_text(both, loaded);
    if (!overlay_.empty()) {
      std::vector<std::string> notes;
      const MarkedPicture marked = line_overlay(both, loaded, notes, io.files);
      tell_notes(notes, io);
      write_whole_file(overlay_, is_svg(overlay_) ? marked_svg(marked) : marked_png(marked));
      text += fmt::format("\n{:<28} 1280 x 800, the plate with the edges as they were drawn\n",
                          overlay_);
      json["written"] = Json::array({overlay_});
    }
    say(form_, io, json, text);
  }

 private:
  void follow(const LoadedShot& loaded, const Terminal& io) const {
    frames_.doubt(loaded, io);
    Progress progress(io.bar, "measuring");
    const DiscSequence found = for_boxes(search_.boxes, [&] {
      return measure_disc_frames(loaded, search_, run_, io.files, progress.execution(threads_));
    });
    tell_notes(found.notes, io);
    Json json = report::disc_sequence_json(found);
    json["failed"] = tell_failed(found.failed, io);
    if (csv_) {
      io.out << report::disc_sequence_csv(found);
    } else {
      say(form_, io, json, report::tried_line(loaded.shot) + report::disc_sequence_text(found));
    }
    require_no_failure(found.failed, found.frames.size() + found.failed.size());
  }

  void measure_its_finish(const LoadedShot& loaded, const Terminal& io) const {
    Progress progress(io.bar, "measuring");
    const FinishMeasurement measured = measure_finish(loaded, io.files, progress.execution());
    report::Solved said = report::say(measured);
    tell_notes(said.notes, io);
    std::string text = report::tried_line(loaded.shot) + said.text;
    if (!overlay_.empty()) {
      const MarkedPicture marked = finish_overlay(measured, loaded);
      write_whole_file(overlay_, is_svg(overlay_) ? marked_svg(marked) : marked_png(marked));
      text +=
          fmt::format("\n{:<28} 1280 x 800, the plate with what told of its finish\n", overlay_);
      said.json["written"] = Json::array({overlay_});
    }
    say(form_, io, said.json, text);
  }

  void measure_them(const LoadedShot& loaded, const Terminal& io) const {
    Progress progress(io.bar, "measuring");
    DiscSearch search = search_;
    search.execution = progress.execution();
    (void)plate_file(loaded, "to find discs in");
    const DiscMeasurement discs =
        for_boxes(search.boxes, [&] { return measure_discs(loaded, search, io.files); });
    tell_notes(discs.plate.notes, io);
    Json json = report::discs_json(discs, loaded);
    std::string text = report::tried_line(loaded.shot);
    if (discs.found.discs.empty()) {
      text += report::wrapped(
          fmt::format(
              "No discs in {}: nothing in it is an even patch of light of {:.0f} px or more "
              "with one edge all around. If there is one, draw it on the shot's page "
              "([[plate.lamp]] at = [x, y], diameter = px), or ask for smaller ones "
              "with --least.",
              report::file_name(loaded.now.plate->file), search_.min_px),
          "", "  ");
    } else {
      text += report::discs_text(discs, loaded);
    }
    if (!overlay_.empty()) {
      const MarkedPicture marked = disc_overlay(discs, loaded);
      write_whole_file(overlay_, is_svg(overlay_) ? marked_svg(marked) : marked_png(marked));
      text += fmt::format("\n{:<28} 1280 x 800, the plate with what was found\n", overlay_);
      json["written"] = Json::array({overlay_});
    }
    say(form_, io, json, text);
  }

  bool discs_ = false;
  bool finish_ = false;
  DiscSearch search_{};
  std::vector<std::string> boxes_{};
  std::string overlay_{};
  LineSettings lines_{};
  FrameTexts frames_{};
  FrameRunSettings run_{};
  std::string part_{};
  bool keep_going_ = false;
  bool csv_ = false;
  int threads_ = 0;
};

}  // namespace

const VerbEntry verbs::measure{"measure",
                               "lamps out of focus in the plate -> iris and blur; drawn edges "
                               "-> distortion and perspective",
                               make_verb<MeasureVerb>};

}  // namespace jolly_iris::cli
