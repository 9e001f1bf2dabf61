#include <fmt/format.h>

#include <filesystem>
#include <map>
#include <ostream>
#include <sstream>

#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

// How the shot file will name the plate: relative to where the shot file lies.
std::string plate_from(const std::string& shot_file, const std::string& plate) {
  const auto folder = std::filesystem::absolute(shot_file).parent_path();
  return std::filesystem::absolute(plate).lexically_relative(folder).generic_string();
}

// Lines that must be filled in, and those that may be: the latter are comments.
struct Blanks {
  std::size_t must = 0;
  std::size_t may = 0;
};

Blanks blanks_of(const std::string& text) {
  Blanks n;
  std::istringstream lines(text);
  for (std::string line; std::getline(lines, line);) {
    if (line.find("# ???") == std::string::npos || line.starts_with("# ???")) continue;
    ++(line.starts_with('#') ? n.may : n.must);
  }
  return n;
}

std::map<std::string, double> numbers_of(const PlateFacts& facts, const Blanks& blanks) {
  std::map<std::string, double> numbers{{"blanks", static_cast<double>(blanks.must)},
                                        {"optional_blanks", static_cast<double>(blanks.may)},
                                        {"width", facts.pixels.width},
                                        {"height", facts.pixels.height}};
  if (facts.focal) numbers["focal_mm"] = facts.focal->mm();
  if (facts.f_number) numbers["f_number"] = *facts.f_number;
  if (facts.iso) numbers["iso"] = *facts.iso;
  if (facts.exposure_time) numbers["exposure_s"] = facts.exposure_time->seconds();
  if (facts.distance && facts.distance->is_finite()) numbers["distance_m"] = facts.distance->m();
  return numbers;
}

std::string summary(const PlateFacts& facts, const std::string& plate, const std::string& out,
                    const Blanks& blanks) {
  std::string text = fmt::format("{}: {} x {} px", out, facts.pixels.width, facts.pixels.height);
  if (facts.focal) text += fmt::format(", {:g} mm", facts.focal->mm());
  if (facts.f_number) text += fmt::format(", f/{:g}", *facts.f_number);
  text += '\n';
  if (!says_camera(facts)) {
    text +=
        fmt::format("{} says nothing of its camera: all of it must come from the report\n", plate);
  } else if (!facts.gate && gate_from_equivalent(facts)) {
    text +=
        "The gate is worked out from the 35 mm equivalent, taken to mean the same diagonal "
        "angle\nand rounded to whole mm: check it against the body's data sheet\n";
  }
  const std::string may = blanks.may == 0 ? ""
                                          : fmt::format("; {} more may be, as comments",
                                                        report::counted(blanks.may, "line"));
  if (blanks.must == 0) {
    return text +
           fmt::format("Nothing needed is missing{}. Next: jolly-iris report {}\n", may, out);
  }
  return text + fmt::format("{} marked ??? must be filled in{}; then: jolly-iris report {}\n",
                            report::counted(blanks.must, "line"), may, out);
}

class StartVerb : public Verb {
 public:
  void add_options(OptionSet& options) override {
    options.value("PLATE", plate_, "the plate: a picture as it came from the camera", "FILE")
        .required();
    options.value("-o,--out", out_, "shot file to write [PLATE's name .shot.toml, here]", "FILE");
    options.flag("--replace", replace_, "replace a shot file that is there already");
    add_form(options, form_, "focal_mm");
    options.example("start demo/regatta/plate.jpg -o out/first.shot.toml");
  }

  void run(const Terminal& io) override {
    note_input(plate_);  // of which the header alone is read
    const PlateFacts facts = read_plate_facts(plate_);
    const std::string out = out_.empty() ? report::stem_of(plate_) + ".shot.toml" : out_;
    if (std::filesystem::exists(out) && !replace_) {
      throw UsageError(fmt::format(
          "{}: is there already; give another name with -o, or --replace to replace it", out));
    }
    const std::string text = starter_shot(facts, plate_from(out, plate_));
    write_whole_file(out, text);
    const Blanks blanks = blanks_of(text);
    for (const std::string& doubt : facts.doubts) {
      io.notes.warn("the picture says " + doubt + ", which is not believed");
    }
    say(form_, io, report::written_json({out}, numbers_of(facts, blanks), nullptr),
        summary(facts, plate_, out, blanks));
  }

 private:
  std::string plate_{};
  std::string out_{};
  bool replace_ = false;
  Form form_{};
};

}  // namespace

const VerbEntry verbs::start{"start", "a plate -> a commented shot file to fill in",
                             make_verb<StartVerb>};

}  // namespace jolly_iris::cli
