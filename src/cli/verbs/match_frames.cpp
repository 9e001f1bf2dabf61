#include "cli/verbs/match_frames.hpp"

#include <fmt/format.h>

#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "disk/disk.hpp"
#include "drawing/result_sheets.hpp"
#include "jolly_iris/drawing/curve_sheet.hpp"
#include "jolly_iris/files/solved_file.hpp"
#include "report/camera_sequence_report.hpp"
#include "report/measured.hpp"

namespace jolly_iris::cli {

void MatchFrames::add(OptionSet& options) {
  frames_.add(options, "a plate that is a sequence: the camera of each frame, as curves");
  options
      .repeatable("--measured", measured_,
                  "discs that tasks measured (measure --frames --json);\nthen no plate is read "
                  "(repeatable)",
                  "FILE.json")
      .under("Many frames");
  options
      .value("--sheet", sheet_, "draw the curves, what is left over, and the plate as a strip",
             "FILE.png|svg")
      .under("Many frames");
  options.flag("--keys", keys_, "say nothing but the keys, to be pasted into the shot file")
      .under("Many frames");
  options.flag("--csv", csv_, "a row for each frame").under("Many frames");
  options
      .flag("--keep-going", keep_going_,
            "a frame that fails does not end the run: it is told at the end")
      .under("Many frames");
  add_threads(options, threads_);
}

void MatchFrames::check(const Form& form) {
  run_.frames = frames_.request();
  run_.keep_going = keep_going_;
  if (!run_.frames.asked) {
    if (!measured_.empty() || !sheet_.empty() || csv_ || keys_ || keep_going_) {
      throw UsageError(
          "--measured, --sheet, --keys, --csv and --keep-going belong to --frames; write --frames "
          "all");
    }
    return;
  }
  if (int{csv_} + int{keys_} + int{!form.for_people()} > 1) {
    throw UsageError("--csv, --keys, --json and --only are four forms; ask for one of them");
  }
}

void MatchFrames::run(const ShotRequest& shot, const DiscSearch& discs,
                      const std::vector<PriorOverride>& doubts, bool accept, const Form& form,
                      const Terminal& io) const {
  claim_drawing(sheet_);
  CameraSequenceRequest wanted{shot, discs, run_, measured_, doubts, {}};
  CameraSequence found = open_sequence(wanted, io.files);
  frames_.doubt(found.loaded, io);
  if (accept) {
    claim_file(solved_file_of(found.loaded.shot.file).string(), "a solved file", ".toml");
  }
  {
    Progress progress(io.bar, "matching");
    wanted.execution = progress.execution(threads_);
    for_boxes(wanted.discs.boxes, [&] { solve_sequence(found, wanted, io.files); });
  }
  tell_notes(found.notes, io);
  Json json = report::camera_sequence_json(found);
  json["failed"] = tell_failed(found.discs.failed, io);
  std::string text = report::tried_line(found.loaded.shot) + report::camera_sequence_text(found);
  std::vector<std::string> written;
  if (!sheet_.empty()) {
    std::vector<std::string> notes;
    const CurveSheet sheet = sequence_sheet(found, notes);
    tell_notes(notes, io);
    write_whole_file(sheet_, is_svg(sheet_) ? curves_svg(sheet) : curves_png(sheet));
    text += fmt::format("\n{:<28} 1280 x 800, the curves and the plate as a strip\n", sheet_);
    written.push_back(sheet_);
  }
  if (accept) {
    const SolvedKeys solved = write_solved(found);
    text += fmt::format(
        "\n{:<28} {} keys that lead over the notes from now on (--as-noted leaves them out)\n",
        solved.file, solved.keys);
    written.push_back(solved.file);
  }
  if (!written.empty()) json["written"] = written;
  if (csv_) {
    io.out << report::camera_sequence_csv(found);
  } else if (keys_) {
    io.out << keys_of(found);
  } else {
    say(form, io, json, text);
  }
  require_no_failure(found.discs.failed, found.frames.size() + found.discs.failed.size());
}

}  // namespace jolly_iris::cli
