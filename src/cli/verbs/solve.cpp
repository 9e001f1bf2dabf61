#include "jolly_iris/workflow/solutions.hpp"

#include <fmt/format.h>

#include "cli/parse/values.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "report/measured.hpp"
#include "report/solve_report.hpp"
#include "report/text.hpp"

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
                  "subject's size [stop]\n"
                  "with --level: who knows how the camera leans [the camera, if it\n"
                  "has a place; else lines drawn in the plate]",
                  "stop|lens|camera|lines");
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
    } else if (!by_.empty() && by_ != "stop" && by_ != "lens") {
      throw UsageError(fmt::format(
          "--by {}: write stop or lens (with --blur), camera or lines (with --level)", by_));
    }
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
                       (body_.empty() ? 0 : 1) + (level_ ? 1 : 0) + (clip_.empty() ? 0 : 1);
    if (wishes != 1) {
      throw UsageError(
          "say one thing that is wanted: --hold A,B, --sharp NEAR,FAR, --blur SIZE, --body FILE, "
          "--level or --clip NAME");
    }
    const bool about_level = from_ != LeanFrom::usual;
    if ((!blur_ && !at_.empty()) || (!blur_ && !by_.empty() && !about_level)) {
      throw UsageError("--at and --by stop or lens belong to --blur");
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
};

}  // namespace

const VerbEntry verbs::solve{"solve", "from what is wanted to focus, stop and lens",
                             make_verb<SolveVerb>};

}  // namespace jolly_iris::cli
