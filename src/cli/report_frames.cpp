#include <fmt/format.h>

#include <algorithm>
#include <ostream>
#include <set>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/frame_table.hpp"
#include "jolly_iris/nearest.hpp"
#include "jolly_iris/over.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

// The frames that keys, pulls, a track or an animation span.
std::optional<FrameRange> moving_range(const LoadedShot& loaded) {
  const Shot& shot = loaded.shot;
  std::vector<double> ends;
  for (const Keyed& k : shot.over) {
    ends.push_back(k.keys.front().frame);
    ends.push_back(k.keys.back().frame);
  }
  for (const Pull& p : shot.pulls) ends.push_back(p.frame);
  if (shot.track) {
    ends.push_back(shot.track->rows.front().frame);
    ends.push_back(shot.track->rows.back().frame);
  }
  if (loaded.scene && shot.take.fps && !loaded.scene->channels.empty()) {
    ends.push_back(0.0);
    ends.push_back(std::floor(duration_of(*loaded.scene) * *shot.take.fps));
  }
  if (ends.empty()) return std::nullopt;
  const auto [first, last] = std::minmax_element(ends.begin(), ends.end());
  return FrameRange{*first, *last};
}

// Whose blur the text shows: those asked for, else what the focus goes to and the file names.
std::vector<std::string> shown_subjects(const ReportOptions& options, const LoadedShot& loaded,
                                        const std::vector<Answer>& answers) {
  std::set<std::string> known;
  for (const Answer& a : answers) {
    for (const SubjectBlur& s : a.subjects) known.insert(s.name);
  }
  const std::vector<std::string> all(known.begin(), known.end());
  for (const std::string& name : options.of) {
    if (!known.contains(name)) {
      throw UsageError(
          fmt::format("--of {}: there is no such subject.{}", name, did_you_mean(name, all)));
    }
  }
  if (!options.of.empty()) return options.of;
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
  constexpr std::size_t most = 4;
  if (names.size() > most) names.resize(most);
  return names;
}

std::string table(const LoadedShot& loaded, const std::vector<Answer>& answers,
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

}  // namespace

std::vector<double> chosen_frames(const FrameOptions& options, const LoadedShot& loaded) {
  std::optional<FrameRange> range = options.range;
  if (!range) range = loaded.shot.frames;
  if (!range) range = moving_range(loaded);
  if (!range) {
    throw UsageError(
        loaded.shot.file +
        ": nothing says which frames there are; write [frames] first = 1001 and last = "
        "1100, or --frames 1001-1100");
  }
  return frames_of(*range, options.step);
}

void report_frames(const ReportOptions& options, LoadedShot& loaded, const Streams& io) {
  const std::vector<double> frames = chosen_frames(options.frames, loaded);
  Progress progress(io.err, "frames");
  const auto answers =
      answers_at(loaded.shot, loaded.scene ? &*loaded.scene : nullptr, frames, progress.callback());
  if (options.csv) {
    io.out << frames_csv(answers);
  } else if (options.shot.form.json || !options.shot.form.only.empty()) {
    say(options.shot.form, io, frames_json(answers), {});
  } else {
    io.out << table(loaded, answers, shown_subjects(options, loaded, answers));
  }
}

}  // namespace jolly_iris::cli
