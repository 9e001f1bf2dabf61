#include <fmt/format.h>

#include <filesystem>
#include <map>
#include <ostream>

#include "jolly_iris/disk.hpp"
#include "jolly_iris/picture_file.hpp"
#include "output.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

// How the shot file will name the plate: relative to where the shot file lies.
std::string plate_from(const std::string& shot_file, const std::string& plate) {
  const auto folder = std::filesystem::absolute(shot_file).parent_path();
  return std::filesystem::absolute(plate).lexically_relative(folder).generic_string();
}

std::size_t count(const std::string& text, const std::string& part) {
  std::size_t n = 0;
  for (auto at = text.find(part); at != std::string::npos; at = text.find(part, at + 1)) ++n;
  return n;
}

std::map<std::string, double> numbers_of(const PlateFacts& facts, std::size_t blanks) {
  std::map<std::string, double> numbers{{"blanks", static_cast<double>(blanks)},
                                        {"width", facts.pixels.width},
                                        {"height", facts.pixels.height}};
  if (facts.focal) numbers["focal_mm"] = facts.focal->mm();
  if (facts.f_number) numbers["f_number"] = *facts.f_number;
  if (facts.iso) numbers["iso"] = *facts.iso;
  if (facts.exposure_time) numbers["exposure_s"] = facts.exposure_time->seconds();
  if (facts.distance && facts.distance->is_finite()) numbers["distance_m"] = facts.distance->m();
  return numbers;
}

std::string summary(const PlateFacts& facts, const std::string& out, std::size_t blanks) {
  std::string text = fmt::format("{}: {} x {} px", out, facts.pixels.width, facts.pixels.height);
  if (facts.focal) text += fmt::format(", {:g} mm", facts.focal->mm());
  if (facts.f_number) text += fmt::format(", f/{:g}", *facts.f_number);
  if (blanks == 0) {
    return text + fmt::format("\nNothing is missing. Next: jolly-iris report {}\n", out);
  }
  return text +
         fmt::format("\n{} blanks are marked ???; fill them in, then: jolly-iris report {}\n",
                     blanks, out);
}

}  // namespace

void start(const StartOptions& options, const Streams& io) {
  const PlateFacts facts = read_plate_facts(options.plate);
  const std::string out = options.out.empty() ? stem_of(options.plate) + ".shot.toml" : options.out;
  if (std::filesystem::exists(out) && !options.replace) {
    throw UsageError(fmt::format(
        "{}: is there already; give another name with -o, or --replace to replace it", out));
  }
  const std::string text = starter_shot(facts, plate_from(out, options.plate));
  write_whole_file(out, text);
  const std::size_t blanks = count(text, "\"\"");
  say(options.form, io, written_json({out}, numbers_of(facts, blanks), nullptr),
      summary(facts, out, blanks));
  for (const std::string& doubt : facts.doubts) {
    io.err << "warning: the picture says " << doubt << ", which is not believed\n";
  }
}

}  // namespace jolly_iris::cli
