#include "jolly_iris/workflow/solutions.hpp"

#include <fmt/format.h>

#include "cli/parse/values.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "cli/verbs/solve_autofocus.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "report/measured.hpp"
#include "report/solve_report.hpp"
#include "report/text.hpp"
#include "report/wish_report.hpp"

namespace jolly_iris::cli {

namespace {

class SolveVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "stop");
    options.value("--hold", hold_text_, "two subjects (or distances) that shall both be just sharp",
                  "A,B");
    options.value("--sharp", sharp_text_, "the range that shall be sharp, e.g. \"1.8m,3m\"",
                  "NEAR,FAR");
    options.value("--blur", blur_text_,
                  "a wanted blur: \"12 px\", \"0.1 mm\" or \"0.5 %\" of the width", "SIZE");
    options.value("--at", at_, "with --blur: where; a subject or a distance [infinity]",
                  "NAME|LENGTH");
    options.value("--by", by_,
                  "with --blur: what changes; lens moves too, keeping the\n"
                  "subject's size; all: every way with its price [stop]\n"
                  "with --level: who knows how the camera leans [the camera, if it\n"
                  "has a place; else lines drawn in the plate]",
                  "stop|lens|all|camera|lines");
    options.repeatable("--wish", wishes_,
                       "several at once: \"buoy 3 by 3 px\", \"bridge at least 20 px\",\n"
                       "\"boat and buoy sharp\", \"boat as large as now\",\n"
                       "\"no wider than f/1.4\", \"ISO up to 1600\" (repeatable)",
                       "WISH");
    options.value("--free", free_,
                  "with --wish: what may change: stop, focus, focal, camera,\n"
                  "and names of subjects [stop,focus]",
                  "LIST");
    frames_.add(options,
                "with --wish: an answer for each of these frames; with --autofocus:\nthose that it "
                "goes through");
    autofocus_.add(options);
    options.flag("--level", level_, "a level camera with a shifted lens: verticals stay parallel");
    options.value("--keep", keep_,
                  "with --level: what keeps its place and size in the picture\n[the middle]",
                  "NAME|X,Y");
    options.value("--clip", clip_text_, "clip distances that remove these nodes and no others",
                  "NAME,NAME");
    options.value("--body", body_, "the same picture on another body: its lens and stop",
                  "BODY.toml");
    options.value("--adapter", adapter_, "with --body: the adapter behind that lens [1]", "FACTOR");
    options.example(fmt::format("solve {} --hold \"boat,second boat\"", regatta));
  }

  void check() override {
    ShotVerb::check();
    hold_ = two("--hold", hold_text_, "\"boat,second boat\"");
    sharp_ = two("--sharp", sharp_text_, "1.8m,3m");
    clip_ = split(clip_text_);
    for (const std::string& name : clip_) {
      if (name.empty()) throw UsageError(fmt::format("--clip {}: a name is empty", clip_text_));
    }
    try {
      if (!blur_text_.empty()) blur_ = parse_blur_size(blur_text_);
    } catch (const QuantityError& e) {
      throw UsageError(fmt::format("--blur: {}", e.what()));
    }
    if (by_ == "camera") {
      from_ = LeanFrom::camera;
    } else if (by_ == "lines") {
      from_ = LeanFrom::lines;
    } else if (!by_.empty() && by_ != "stop" && by_ != "lens" && by_ != "all") {
      throw UsageError(fmt::format(
          "--by {}: write stop, lens or all (with --blur), camera or lines (with --level)", by_));
    }
    chosen_ = frames_.request();
    autofocus_.check(chosen_);
    check_together();
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    std::vector<Override> overrides;
    report::Solved solved = solve(loaded, io, overrides);
    std::string text = report::tried_line(loaded.shot) + solved.text;
    for (const std::string& note : solved.notes) text += report::wrapped(note, "- ", "  ");
    Json tries = Json::array();
    for (const Override& o : overrides) tries.push_back(o.key + "=" + o.text);
    if (!overrides.empty()) {
      text += "Try it: " + command("report", overrides) + '\n';
      solved.json["command"] = command("report", overrides);
    }
    solved.json["notes"] = solved.notes;
    solved.json["try"] = tries;
    say(form_, io, solved.json, text);
  }

 private:
  void check_together() const {
    const int wishes = (hold_.empty() ? 0 : 1) + (sharp_.empty() ? 0 : 1) + (blur_ ? 1 : 0) +
                       (body_.empty() ? 0 : 1) + (level_ ? 1 : 0) + (clip_.empty() ? 0 : 1) +
                       (wishes_.empty() ? 0 : 1) + (autofocus_.asked() ? 1 : 0);
    if (wishes != 1) {
      throw UsageError(
          "say one thing that is wanted: --hold A,B, --sharp NEAR,FAR, --blur SIZE, --body FILE, "
          "--level, --clip NAME, --autofocus NAME, or several with --wish");
    }
    if (wishes_.empty() && !free_.empty())
      throw UsageError("--free and its names belong to --wish");
    if (wishes_.empty() && !autofocus_.asked() && chosen_.asked) {
      throw UsageError("--frames belongs to --wish and --autofocus");
    }
    const bool about_level = from_ != LeanFrom::usual;
    if ((!blur_ && !at_.empty()) || (!blur_ && !by_.empty() && !about_level)) {
      throw UsageError("--at and --by stop, lens or all belong to --blur");
    }
    if (!level_ && (about_level || !keep_.empty())) {
      throw UsageError("--keep and --by camera or lines belong to --level");
    }
    if (body_.empty() && adapter_ != 1.0) throw UsageError("--adapter belongs to --body");
    if (!(adapter_ > 0.0)) throw UsageError("--adapter is a factor above zero, e.g. 0.76");
  }

  report::Solved solve(const LoadedShot& loaded, const Terminal& io,
                       std::vector<Override>& overrides) const {
    const auto said = [&](const auto& solution) {
      overrides = overrides_for(solution, loaded);
      return report::say(solution, loaded);
    };
    if (!wishes_.empty()) return wished(loaded, io, overrides);
    if (autofocus_.asked()) return autofocus_.run(request_, io);
    if (blur_ && by_ == "all") {
      return report::say(for_option("--at", [&] { return ways_to_blur(loaded, *blur_, at_); }),
                         loaded);
    }
    if (level_) {
      return said(keep_.empty() ? solve_level(loaded, from_, keep_) : for_option("--keep", [&] {
        return solve_level(loaded, from_, keep_);
      }));
    }
    if (!clip_.empty()) {
      if (!loaded.scene) (void)solve_clip(loaded, clip_);
      return report::say(for_option("--clip", [&] { return solve_clip(loaded, clip_); }), loaded,
                         clip_);
    }
    if (blur_) {
      return said(
          for_option("--at", [&] { return solve_blur(loaded, *blur_, at_, by_ == "lens"); }));
    }
    if (!body_.empty()) return said(solve_body(loaded, body_, adapter_, io.files));
    const bool hold = !hold_.empty();
    const auto& ends = hold ? hold_ : sharp_;
    const HoldSolution solution = for_option(hold ? "--hold" : "--sharp",
                                             [&] { return solve_hold(loaded, ends[0], ends[1]); });
    overrides = overrides_for(solution, loaded);
    return report::say(solution, loaded, hold ? ends[0] : "near", hold ? ends[1] : "far");
  }

  report::Solved wished(const LoadedShot& loaded, const Terminal& io,
                        std::vector<Override>& overrides) const {
    const std::string free = free_.empty() ? "stop,focus" : free_;
    if (!chosen_.asked) {
      const WishSolution solution = solve_wishes(loaded, wishes_, free);
      overrides = overrides_for(solution, loaded);
      return report::say(solution, loaded);
    }
    frames_.doubt(loaded, io);
    std::vector<WishSolution> all;
    for (const double frame : chosen_frames(chosen_, loaded)) {
      all.push_back(solve_wishes(at_frame(loaded, frame), wishes_, free));
      all.back().frame = frame;
    }
    return report::say(all, loaded);
  }

  std::vector<std::string> wishes_{};
  std::string free_{};
  FrameTexts frames_{};
  FrameRequest chosen_{};
  std::string hold_text_{};
  std::string sharp_text_{};
  std::string blur_text_{};
  std::string clip_text_{};
  std::string at_{};
  std::string by_{};
  std::string keep_{};
  std::string body_{};
  double adapter_ = 1.0;
  bool level_ = false;
  std::vector<std::string> hold_{};
  std::vector<std::string> sharp_{};
  std::vector<std::string> clip_{};
  std::optional<BlurSize> blur_{};
  LeanFrom from_ = LeanFrom::usual;
  SolveAutofocus autofocus_{};
};

}  // namespace

const VerbEntry verbs::solve{"solve", "from what is wanted to focus, stop and lens",
                             make_verb<SolveVerb>};

}  // namespace jolly_iris::cli
