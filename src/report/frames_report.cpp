#include "report/frames_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "jolly_iris/optics/errors.hpp"
#include "optics/nearest.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

// Whose blur the text shows: those asked for, else what the focus goes to and the file names.
std::vector<std::string> shown_subjects(const std::vector<std::string>& of,
                                        const LoadedShot& loaded,
                                        const std::vector<Answer>& answers) {
  std::set<std::string> known;
  for (const Answer& a : answers) {
    for (const SubjectBlur& s : a.subjects) known.insert(s.name);
  }
  const std::vector<std::string> all(known.begin(), known.end());
  for (const std::string& name : of) {
    if (!known.contains(name)) {
      throw UsageError(
          fmt::format("{}: there is no such subject.{}", name, did_you_mean(name, all)));
    }
  }
  if (!of.empty()) return of;
  std::vector<std::string> names;
  const auto add = [&](const std::string& name) {
    const bool there = std::find(names.begin(), names.end(), name) != names.end();
    if (!there && known.contains(name)) names.push_back(name);
  };
  const Shot& shot = loaded.shot;
  if (shot.focus.on) add(*shot.focus.on);
  for (const Pull& p : shot.pulls) {
    if (p.focus.on) add(*p.focus.on);
  }
  for (const SubjectEntry& s : shot.subjects) add(s.name);
  constexpr std::size_t max = 4;
  if (names.size() > max) names.resize(max);
  return names;
}

std::string frames_text(const LoadedShot& loaded, const std::vector<Answer>& answers,
                        const std::vector<std::string>& names) {
  std::string out = loaded.shot.file;
  if (!loaded.shot.variant.empty()) out += " (variant " + loaded.shot.variant + ")";
  out += '\n' + tried_line(loaded.shot);
  out += fmt::format("\n  {:>6}{:>10}{:>10}{:>9}{:>9}{:>9}{:>10}", "frame", "focus", "mark", "near",
                     "far", "focal", "f-number");
  for (const std::string& name : names) out += fmt::format("  {:>10}", name.substr(0, 14));
  out +=
      fmt::format("\n  {:>6}{:>10}{:>10}{:>9}{:>9}{:>9}{:>10}", "", "m", "m", "m", "m", "mm", "");
  for (const std::string& name : names) {
    out += fmt::format("  {:>{}}", "blur px",
                       std::max<std::size_t>(10, std::min<std::size_t>(14, name.size())));
  }
  out += '\n';
  const auto number = [](Length l) {
    return l.is_infinite() ? std::string("inf")
                           : fmt::format("{:.{}f}", l.m(), l.m() < 1000.0 ? 4 : 1);
  };
  for (const Answer& a : answers) {
    out += fmt::format("  {:>6g}{:>10}{:>10}{:>9}{:>9}{:>9.3f}{:>10.3f}", a.frame.value_or(0.0),
                       number(a.camera.focus), a.mark ? number(*a.mark) : "", number(a.sharp.near),
                       number(a.sharp.far), a.camera.focal.mm(), a.camera.f_number);
    for (const std::string& name : names) {
      const auto found = std::find_if(a.subjects.begin(), a.subjects.end(),
                                      [&](const SubjectBlur& s) { return s.name == name; });
      out += fmt::format("  {:>{}}",
                         found == a.subjects.end() ? "behind us" : blur_text(found->coc_px),
                         std::max<std::size_t>(10, std::min<std::size_t>(14, name.size())));
    }
    out += '\n';
  }
  return out;
}

}  // namespace jolly_iris::report
