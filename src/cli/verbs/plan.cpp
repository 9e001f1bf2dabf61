#include "jolly_iris/drawing/plan.hpp"

#include <fmt/format.h>

#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class PlanVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "written.0");
    options.repeatable("-o,--out", out_,
                       "drawing to write: .png .svg; repeatable\n[SHOT's name .plan.png, here]",
                       "FILE");
    options.flag("--side", side_, "from the side instead");
    options.example(fmt::format("plan {} -o out/hero.plan.png", regatta));
  }

  void run(const Terminal& io) override {
    const std::string usual = report::stem_of(file()) + (side_ ? ".side.png" : ".plan.png");
    const std::vector<std::string> names = out_.empty() ? std::vector{usual} : out_;
    for (const std::string& name : names) claim_drawing(name);
    const LoadedShot loaded = open(io);
    const Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
    const Plan plan = plan_of(loaded.shot, loaded.now, scene, loaded.answer, side_);
    const PlanLayout layout = layout_of(plan);
    std::string text = report::tried_line(loaded.shot);
    for (const std::string& name : names) {
      write_whole_file(name, is_svg(name) ? plan_svg(plan) : plan_png(plan));
      text += fmt::format("{:<28} {} x {}, the set from {}\n", name, layout.width, layout.height,
                          side_ ? "the side" : "above");
    }
    say(form_, io, report::written_json(names, {}, &loaded.shot), text);
  }

 private:
  std::vector<std::string> out_{};
  bool side_ = false;
};

}  // namespace

const VerbEntry verbs::plan{"plan", "the set from above: view, focus plane, who is sharp",
                            make_verb<PlanVerb>};

}  // namespace jolly_iris::cli
