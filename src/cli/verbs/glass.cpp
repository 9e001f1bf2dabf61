#include <fmt/format.h>

#include <algorithm>
#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/say.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/drawing/glass_curves.hpp"
#include "jolly_iris/drawing/glass_section.hpp"
#include "jolly_iris/files/lens_text.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/workflow/glass_look.hpp"
#include "jolly_iris/workflow/glass_twin.hpp"
#include "jolly_iris/workflow/nearest_look.hpp"
#include "report/glass_report.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

// What the file says before its first key.
std::string nearest_comment(const NearestLook& n) {
  return fmt::format(
      "The ordinary lens that is nearest to the glass at f/{:.3g}, focused at {}: discs overlap "
      "by\n"
      "{:.2f} on average, by {:.2f} at worst; faults are as wide open as that.",
      n.f_number,
      n.focus.is_finite() ? fmt::format("{:.4g} m from the entrance pupil", n.focus.m())
                          : std::string("infinity"),
      n.mean_overlap, n.worst.overlap);
}

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
    options.value("--compare", compared_,
                  "prescriptions beside it, focused, opened and framed alike: a column each",
                  "FILE,FILE");
    options.value(
        "--curves", curves_,
        "draw light, distortion, spots, fields, breathing and travel as curves, of those\n"
        "compared, too",
        "FILE.png|svg");
    options.value(
        "--twin", twin_,
        "write the plain camera that frames alike, and for renderers that trace surfaces\n"
        "themselves where each lies in metres",
        "FILE.json");
    options.value(
        "--nearest", nearest_,
        "write the ordinary lens that is nearest to it at this focus, stop and gate, and\n"
        "tell how near its discs are",
        "FILE.lens.toml");
    options.value(
        "--fit", fit_,
        "write its compact form for renderers (glass_sampler.hpp) at this focus, stop and\n"
        "gate, and tell its error",
        "FILE.json");
    options.value("--order", order_, "of its polynomials: 3, 5, 7 or 9 [7]", "N").within(3, 9);
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
    claim_drawing(curves_);
    claim_file(twin_, "a table", ".json");
    others_ = split(compared_);
    if (others_.size() + 1 > most_glass_curves) {
      throw UsageError(fmt::format("--compare: {} beside LENS; at most {} are told apart",
                                   others_.size(), most_glass_curves - 1));
    }
    if (std::find(others_.begin(), others_.end(), "") != others_.end()) {
      throw UsageError("--compare " + compared_ + ": a name is empty");
    }
    claim_file(nearest_, "a lens", ".toml");
    claim_file(fit_, "a table", ".json");
    if (order_ % 2 == 0) {
      throw UsageError(fmt::format("--order {}: polynomials are odd; write 3, 5, 7 or 9", order_));
    }
  }

  void run(const Terminal& io) override {
    const GlassLook look = look_at_glass(wanted_, io.files);
    for (const std::string& note : look.notes) io.notes.warn(note);
    Json json = report::glass_json(look);
    json["written"] = Json::array();
    std::vector<GlassLook> looks{look};
    for (const std::string& other : others_) {
      GlassRequest wanted = wanted_;
      wanted.file = other;
      looks.push_back(look_at_glass(wanted, io.files));
      json["compared"].push_back(report::glass_json(looks.back()));
      for (const std::string& note : looks.back().notes) {
        io.notes.warn(looks.back().prescription.name + ": " + note);
      }
    }
    std::string text =
        looks.size() == 1 ? report::glass_text(look) : report::glass_comparison_text(looks);
    if (!curves_.empty()) {
      write_whole_file(curves_,
                       is_svg(curves_) ? glass_curves_svg(looks) : glass_curves_png(looks));
      json["written"].push_back(curves_);
      text += fmt::format("\n{:<28} 1280 x 800, curves\n", curves_);
    }
    if (!twin_.empty()) {
      const GlassTwin twin = twin_of(look);
      json["twin"] = report::twin_json(look, twin);
      write_whole_file(twin_, json["twin"].dump(2) + '\n');
      json["written"].push_back(twin_);
      text += '\n' + report::twin_text(look, twin) +
              fmt::format("\n{:<28} surfaces in metres\n", twin_);
    }
    if (!section_.empty()) {
      write_whole_file(section_, is_svg(section_) ? section_svg(look) : section_png(look));
      json["written"].push_back(section_);
      text += fmt::format("\n{:<28} 1280 x 800, cut open along its axis\n", section_);
    }
    if (!nearest_.empty()) {
      const NearestLook nearest = nearest_to(look);
      write_whole_file(nearest_, lens_text(nearest.lens, nearest_comment(nearest)));
      json["nearest"] = report::nearest_json(nearest);
      json["written"].push_back(nearest_);
      text += '\n' + report::nearest_text(nearest) +
              fmt::format("\n{:<28} an ordinary lens\n", nearest_);
    }
    if (!fit_.empty()) {
      const GlassFit fit = fit_of(look, order_);
      write_whole_file(fit_, report::fit_table(look, fit));
      json["fit"] = report::fit_json(fit);
      json["written"].push_back(fit_);
      text += '\n' + report::fit_text(fit) + fmt::format("\n{:<28} for glass_sampler.hpp\n", fit_);
    }
    say(form_, io, json, text);
  }

 private:
  GlassRequest wanted_{};
  std::string distance_{};
  std::string stop_{};
  std::string gate_{};
  std::string section_{};
  std::string compared_{};
  std::vector<std::string> others_{};
  std::string curves_{};
  std::string twin_{};
  std::string nearest_{};
  std::string fit_{};
  int order_ = 7;
  Form form_{};
};

}  // namespace

const VerbEntry verbs::glass{
    "glass", "a lens's prescription: what it is, over the picture, cut open", make_verb<GlassVerb>};

}  // namespace jolly_iris::cli
