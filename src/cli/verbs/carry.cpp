#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/error_kind.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/workflow/carry.hpp"
#include "jolly_iris/workflow/shot_list.hpp"
#include "report/carry_report.hpp"
#include "report/measured.hpp"
#include "report/shots_report.hpp"

namespace jolly_iris::cli {

namespace {

class CarryVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "shots.0.frames.0.stop");
    options.repeatable("--to", to_, "other shots: files, folders, patterns in quotes (repeatable)",
                       "SHOT");
    options.value("--keep", keep_, "what of the master: blur, disc, exposure, white, finish [blur]",
                  "PART,PART");
    options.value("--of", wanted_.of,
                  "whose blur: a subject that all of them have [what is infinitely far]", "NAME");
    options.value("--in", in_,
                  "what the blur is the same in: px, picture (a share of its width)\nor subject (a "
                  "share of the size of what is in focus) [picture]",
                  "MEASURE");
    options.value("--pay", pay_,
                  "with exposure: who pays for the other stop: iso, nd, shutter [iso]", "PARTNER");
    frames_.add(options, "these frames of the other shots [the one each is answered at]");
    options.value("--write", variant_, "write it into each shot as a variant of that name", "NAME");
    options.flag("--dry", dry_, "with --write: tell what it would do, and write nothing");
    options.flag("--csv", csv_, "a row for each shot and frame");
    options
        .value("--felt", felt_,
               "a number that was set by feel in another program, and at which distance of\nthe "
               "subject: \"9 at 20 m, 14 at 12 m\"",
               "TEXT")
        .under("Numbers of other programs");
    options.value("--at", at_, "with --felt: what is it at these distances, e.g. 7m,12m", "LENGTHS")
        .under("Numbers of other programs");
    add_threads(options, threads_);
    options.example(
        fmt::format("carry {} --to demo/regatta/passing.shot.toml --in subject", regatta));
  }

  void check() override {
    ShotVerb::check();
    wanted_.master = request_;
    wanted_.frames = frames_.request();
    if (!felt_.empty()) {
      if (!to_.empty() || !keep_.empty()) {
        throw UsageError("--felt is a question of its own; leave out --to and --keep");
      }
      if (at_.empty()) throw UsageError("--felt needs --at: for which distances, e.g. --at 7m,12m");
      return;
    }
    if (!at_.empty()) throw UsageError("--at belongs to --felt");
    if (to_.empty()) throw UsageError("name other shots, e.g. --to demo/regatta/passing.shot.toml");
    if (dry_ && variant_.empty()) throw UsageError("--dry belongs to --write NAME");
    if (csv_ && !form_.for_people()) {
      throw UsageError("--csv, --json and --only are three forms; ask for one of them");
    }
    read_parts();
    if (!in_.empty()) {
      wanted_.in = one_of<BlurMeasure>("--in", in_,
                                       {{"px", BlurMeasure::pixels},
                                        {"picture", BlurMeasure::picture},
                                        {"subject", BlurMeasure::subject}});
    }
    if (!pay_.empty()) {
      wanted_.pays = one_of<Partner>(
          "--pay", pay_,
          {{"iso", Partner::iso}, {"nd", Partner::nd}, {"shutter", Partner::shutter}});
    }
  }

  void run(const Terminal& io) override {
    if (!felt_.empty()) return tell_felt(io);
    CarryRequest wanted = wanted_;
    wanted.to = for_option("--to", [&] { return shot_files(to_); });
    std::erase_if(wanted.to, [&](const std::string& other) {
      std::error_code missing;
      return std::filesystem::equivalent(other, file(), missing);
    });
    if (wanted.to.empty()) throw UsageError("--to: names the master alone; name other shots");
    if (!variant_.empty()) {
      const auto finished = finish_journal(file());
      if (!finished.empty()) {
        io.notes.note(
            fmt::format("an earlier run was stopped while it wrote; {} files are "
                        "written now",
                        finished.size()));
      }
    }
    Carried carried;
    {
      Progress progress(io.bar, "carrying");
      wanted.execution = progress.execution(threads_);
      carried = carry(wanted, io.files);
    }
    std::string text = report::carry_text(carried, wanted.in);
    Json json = report::carry_json(carried, wanted.in);
    if (!variant_.empty()) {
      const ShotListEdit edit = carried_variants(carried, variant_, file());
      if (!dry_) write_shot_list(edit);
      text += fmt::format("\n{} {} {}: [variant.{}]\n", edit.files.size(),
                          edit.files.size() == 1 ? "file" : "files",
                          dry_ ? "would be written; nothing is" : "written", variant_);
      json["edit"] = report::shot_list_edit_json(edit, dry_);
    }
    if (csv_) {
      io.out << report::carry_csv(carried);
    } else {
      say(form_, io, json, text);
    }
    const auto failed = std::count_if(carried.shots.begin(), carried.shots.end(),
                                      [](const CarriedShot& s) { return !s.problem.empty(); });
    if (failed == 0) return;
    throw PartlyFailed(fmt::format("nothing could be carried to {} of {} shots; their rows say why",
                                   failed, carried.shots.size()),
                       {1, "optics"});
  }

 private:
  void read_parts() {
    if (keep_.empty()) return;
    wanted_.blur = false;
    for (const std::string& part : split(keep_)) {
      *one_of<bool*>("--keep", part,
                     {{"blur", &wanted_.blur},
                      {"disc", &wanted_.disc},
                      {"exposure", &wanted_.exposure},
                      {"white", &wanted_.white},
                      {"finish", &wanted_.finish}}) = true;
    }
  }

  void tell_felt(const Terminal& io) const {
    const LoadedShot loaded = open(io);
    const std::vector<FeltValue> felt = for_option("--felt", [&] { return felt_values(felt_); });
    std::vector<Length> at;
    for (const std::string& one : split(at_)) {
      at.push_back(for_option("--at", [&] { return parse_distance(one); }));
    }
    Length behind = Length::infinity();
    if (!wanted_.of.empty()) {
      behind = for_option("--of", [&] { return distance_named(loaded, wanted_.of); }) -
               loaded.answer.camera.focus;
    }
    const ValueCarrier carrier(loaded.now.body, loaded.now.lens, loaded.now.take, felt, behind);
    say(form_, io, report::felt_json(carrier, felt, at),
        report::tried_line(loaded.shot) + report::felt_text(carrier, felt, at));
  }

  CarryRequest wanted_{};
  FrameTexts frames_{};
  std::vector<std::string> to_{};
  std::string keep_{};
  std::string in_{};
  std::string pay_{};
  std::string variant_{};
  std::string felt_{};
  std::string at_{};
  bool dry_ = false;
  bool csv_ = false;
  int threads_ = 0;
};

}  // namespace

const VerbEntry verbs::carry{"carry", "the look of a master shot taken to others by optics",
                             make_verb<CarryVerb>};

}  // namespace jolly_iris::cli
