#include <fmt/format.h>

#include <algorithm>
#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/error_kind.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "drawing/result_sheets.hpp"
#include "drawing/shots_page.hpp"
#include "jolly_iris/workflow/shot_list_edit.hpp"
#include "report/shots_report.hpp"

namespace jolly_iris::cli {

namespace {

class ShotsVerb : public Verb {
 public:
  void add_options(OptionSet& options) override {
    options.several("SHOT", wanted_.what,
                    "shot files, folders (all below them), patterns in quotes", "FILE");
    options.flag("--variants", wanted_.variants, "a row for each variant too");
    options.flag("--cameras", wanted_.cameras, "and for each camera of the shot's scene");
    options.value("--columns", columns_,
                  "these, in this order: keys of shot files, or computed ones\n(see --json)",
                  "KEY,KEY");
    options.repeatable("--where", wanted_.filters,
                       "only these: KEY=VALUE, KEY!=VALUE, KEY<NUMBER, KEY>NUMBER\n(repeatable)",
                       "CONDITION");
    options.value("--sort", wanted_.sort, "by this column; -KEY: downwards; shot: by name", "KEY");
    options.value("--master", wanted_.master, "what the others are compared with [the first]",
                  "SHOT");
    options.flag("--csv", csv_, "a table for spreadsheets, which --edit takes back");
    options.value("--sheet", sheet_, "draw them with their plates: .png .svg", "FILE");
    options.value("--page", page_, "the same as one HTML page, to sort and search", "FILE.html");
    options.value("--edit", edit_, "take a changed table back into the shot files, all or none",
                  "TABLE.csv");
    options.flag("--dry", dry_, "with --edit: tell what it would do, and write nothing");
    add_form(options, form_, "shots.0.values.focus_m");
    add_threads(options, threads_);
    options.example("shots demo/regatta --columns take.stop,focus_m,infinity_px,state");
  }

  void check() override {
    wanted_.columns = split(columns_);
    if (dry_ && edit_.empty()) throw UsageError("--dry belongs to --edit TABLE.csv");
    if (!edit_.empty()) {
      if (!wanted_.what.empty()) {
        throw UsageError("--edit takes the shots that its table names; leave them out here");
      }
      return;
    }
    if (wanted_.what.empty()) {
      throw UsageError("name shot files or a folder with them, e.g. jolly-iris shots demo/regatta");
    }
    if (csv_ && !form_.for_people()) {
      throw UsageError("--csv, --json and --only are three forms; ask for one of them");
    }
  }

  void run(const Terminal& io) override {
    if (!edit_.empty()) return edit(io);
    claim_drawing(sheet_);
    claim_file(page_, "a page", ".html");
    ShotListRequest wanted = wanted_;
    ShotList list;
    {
      Progress progress(io.bar, "reading shots");
      wanted.execution = progress.execution(threads_);
      list = list_shots(wanted);
    }
    std::vector<std::string> written;
    std::string text = report::shots_text(list, !wanted_.columns.empty());
    if (!sheet_.empty() || !page_.empty()) {
      Progress progress(io.bar, "reading plates");
      std::vector<std::string> notes;
      const std::vector<SheetCell> pictures =
          shot_pictures(list, notes, progress.execution(threads_));
      tell_notes(notes, io);
      if (!sheet_.empty()) {
        const LabelledSheet sheet = shots_sheet(list, pictures);
        write_whole_file(sheet_, is_svg(sheet_) ? labelled_svg(sheet) : labelled_png(sheet));
        written.push_back(sheet_);
      }
      if (!page_.empty()) {
        write_whole_file(page_, shots_page(list, pictures));
        written.push_back(page_);
      }
    }
    for (const std::string& name : written) text += name + "\n";
    Json json = report::shots_json(list);
    json["written"] = written;
    if (csv_) {
      io.out << report::shots_csv(list);
    } else {
      say(form_, io, json, text);
    }
    require_read(list);
  }

 private:
  void edit(const Terminal& io) const {
    const std::vector<std::string> finished = finish_journal(edit_);
    if (!finished.empty()) {
      io.notes.note(fmt::format(
          "an earlier run was stopped while it wrote; its last {} files are written now",
          finished.size()));
    }
    ShotListEdit change = read_shot_list(edit_);
    if (!dry_) write_shot_list(change);
    say(form_, io, report::shot_list_edit_json(change, dry_),
        report::shot_list_edit_text(change, dry_));
  }

  static void require_read(const ShotList& list) {
    const auto unread = std::count_if(list.rows.begin(), list.rows.end(),
                                      [](const ShotRow& r) { return !r.problem.empty(); });
    if (unread == 0) return;
    throw PartlyFailed(
        fmt::format("{} of {} shots cannot be read; their rows say why", unread, list.rows.size()),
        {2, "shot file"});
  }

  ShotListRequest wanted_{};
  Form form_{};
  std::string columns_{};
  std::string sheet_{};
  std::string page_{};
  std::string edit_{};
  bool csv_ = false;
  bool dry_ = false;
  int threads_ = 0;
};

}  // namespace

const VerbEntry verbs::shots{"shots", "all cameras of a show in one table, to compare and to edit",
                             make_verb<ShotsVerb>};

}  // namespace jolly_iris::cli
