#include <fmt/format.h>

#include <ostream>

#include "cli/terminal/say.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/drawing/glass_section.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/workflow/glass_look.hpp"
#include "report/glass_report.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

class GlassVerb : public Verb {
 public:
  void add_options(OptionSet& options) override {
    options.value("LENS", wanted_.file, "the prescription, NAME.glass.toml", "FILE").required();
    options.value("--at", distance_, "focused there, from the film plane [infinity]", "DISTANCE");
    options.value("--stop", stop_, "with this f-number [as wide as it opens]", "STOP");
    options.value("--on", gate_,
                  "over a gate: its size, e.g. \"24.9 x 18.7 mm\", or its name, \"super 35\"\n"
                  "[as far as the glass lights]",
                  "GATE");
    options.value("--section", section_, "draw it cut open, with rays of the middle and the corner",
                  "FILE.png|svg");
    add_form(options, form_, "up.focal_mm");
    options.example("glass demo/glass/quince-58.glass.toml --section out/quince.png");
  }

  void check() override {
    if (!distance_.empty()) wanted_.distance = parse_distance(distance_);
    if (!stop_.empty()) {
      const Stop stop = parse_stop(stop_);
      if (stop.kind != Stop::Kind::f) {
        throw UsageError(
            fmt::format("--stop {}: a glass is open by its f-number; write e.g. f/2.8", stop_));
      }
      wanted_.f_number = stop.value;
    }
    if (!gate_.empty()) wanted_.gate = parse_gate(gate_);
    claim_drawing(section_);
  }

  void run(const Terminal& io) override {
    const GlassLook look = look_at_glass(wanted_, io.files);
    for (const std::string& note : look.notes) io.notes.warn(note);
    Json json = report::glass_json(look);
    std::string text = report::glass_text(look);
    if (!section_.empty()) {
      write_whole_file(section_, is_svg(section_) ? section_svg(look) : section_png(look));
      json["written"] = {section_};
      text += fmt::format("\n{:<28} 1280 x 800, cut open along its axis\n", section_);
    }
    say(form_, io, json, text);
  }

 private:
  GlassRequest wanted_{};
  std::string distance_{};
  std::string stop_{};
  std::string gate_{};
  std::string section_{};
  Form form_{};
};

}  // namespace

const VerbEntry verbs::glass{
    "glass", "a lens's prescription: what it is, over the picture, cut open", make_verb<GlassVerb>};

}  // namespace jolly_iris::cli
