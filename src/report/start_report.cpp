#include "start_report.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "measured.hpp"
#include "text.hpp"

namespace jolly_iris::report {

namespace {

constexpr std::size_t most_said = 12;

std::string facts_text(const PlateFacts& facts) {
  std::string text = fmt::format(", {} x {} px", facts.pixels.width, facts.pixels.height);
  if (facts.focal) text += fmt::format(", {:g} mm", facts.focal->mm());
  if (facts.f_number) text += fmt::format(", f/{:g}", *facts.f_number);
  return text;
}

std::string cameras_text(const StartedShot& shot) {
  if (shot.cameras.size() < 2) return "";
  std::string all;
  for (const std::string& name : shot.cameras) all += (all.empty() ? "" : ", ") + name;
  return wrapped("cameras of the scene: " + all, "", "  ");
}

std::string subjects_text(const StartedShot& shot) {
  if (shot.subjects.empty()) return "";
  std::size_t width = 10;
  const std::size_t n = std::min(most_said, shot.subjects.size());
  for (std::size_t i = 0; i < n; ++i) width = std::max(width, width_of(shot.subjects[i].name));
  std::string text = fmt::format("\n{} {:>10} {:>12}\n", padded("in the picture", width + 2),
                                 "away", "longest side");
  for (std::size_t i = 0; i < n; ++i) {
    const StartedSubject& s = shot.subjects[i];
    text += fmt::format("  {} {:>8.4g} m", padded(s.name, width), s.axial.m());
    if (s.longest) text += fmt::format(" {:>10.3g} m", s.longest->m());
    text += '\n';
  }
  if (n < shot.subjects.size()) text += fmt::format("  … and {} more\n", shot.subjects.size() - n);
  return text;
}

std::string guesses_text(const StartedShot& shot) {
  if (shot.guesses.empty()) return "\nNothing in it is guessed.\n";
  std::string text = "\nGuessed, and told as that until its line is taken off [guessed]:\n";
  std::size_t key = 0;
  std::size_t value = 0;
  for (const Guess& g : shot.guesses) {
    key = std::max(key, width_of(g.key));
    value = std::max(value, width_of(g.value));
  }
  for (const Guess& g : shot.guesses) {
    text += wrapped(fmt::format("{}. Settled by {}.", g.why, g.settle),
                    fmt::format("  {}  {}  ", padded(g.key, key), padded(g.value, value)),
                    std::string(6 + key + value, ' '));
  }
  return text;
}

}  // namespace

std::string started_text(const StartedShot& shot, const std::string& file) {
  return file + facts_text(shot.facts) + '\n' + cameras_text(shot) + subjects_text(shot) +
         guesses_text(shot) +
         fmt::format("\nNext: jolly-iris live {0}\n      jolly-iris report {0}\n", file);
}

Json started_json(const StartedShot& shot, const std::string& file) {
  const PlateFacts& facts = shot.facts;
  std::map<std::string, double> numbers{{"width", facts.pixels.width},
                                        {"height", facts.pixels.height}};
  if (facts.focal) numbers["focal_mm"] = facts.focal->mm();
  if (facts.f_number) numbers["f_number"] = *facts.f_number;
  if (facts.iso) numbers["iso"] = *facts.iso;
  if (facts.exposure_time) numbers["exposure_s"] = facts.exposure_time->seconds();
  if (facts.distance && facts.distance->is_finite()) numbers["distance_m"] = facts.distance->m();
  Json j = written_json({file}, numbers, nullptr);
  j["cameras"] = shot.cameras;
  j["subjects"] = Json::array();
  for (const StartedSubject& s : shot.subjects) {
    j["subjects"].push_back({{"name", s.name},
                             {"axial_m", metres_json(s.axial)},
                             {"longest_m", s.longest ? metres_json(*s.longest) : Json(nullptr)}});
  }
  j["guesses"] = Json::array();
  for (const Guess& g : shot.guesses) {
    j["guesses"].push_back(
        {{"key", g.key}, {"value", g.value}, {"why", g.why}, {"settle", g.settle}});
  }
  return j;
}

}  // namespace jolly_iris::report
