#include "match_text.hpp"

#include <fmt/format.h>

#include <cmath>

#include "text.hpp"

namespace jolly_iris::cli {

std::string value_text(Unknown u, double v) {
  switch (u) {
    case Unknown::focal:
    case Unknown::gate:
      return fmt::format("{:.2f} mm", v);
    case Unknown::stop:
      return fmt::format("{:.3f}", v);
    case Unknown::focus:
      return std::isinf(v) ? std::string("infinity") : fmt::format("{:.3f} m", v);
    case Unknown::distance:
      return fmt::format("{:.3f} m", v);
    case Unknown::exposure:
      return fmt::format("{:.2f} stops", v);
    case Unknown::white:
      return fmt::format("{:.0f} K", v);
    case Unknown::squeeze:
    case Unknown::scale:
      break;
  }
  return fmt::format("{:.3f} x", v);
}

Json json_of(const MatchResult& m) {
  Json j{{"unknowns", Json::array()}, {"observations", Json::array()}};
  for (const FoundUnknown& u : m.unknowns) {
    j["unknowns"].push_back({{"name", to_string(u.unknown)},
                             {"noted", std::isfinite(u.noted) ? Json(u.noted) : Json(nullptr)},
                             {"value", std::isfinite(u.value) ? Json(u.value) : Json(nullptr)},
                             {"margin", std::isfinite(u.margin) ? Json(u.margin) : Json(nullptr)},
                             {"moved", u.moved},
                             {"determined", u.determined}});
  }
  for (const ObservationFit& o : m.observations) {
    j["observations"].push_back({{"kind", to_string(o.seen.kind)},
                                 {"name", o.seen.name},
                                 {"seen", o.seen.value},
                                 {"sigma", o.seen.sigma},
                                 {"noted", o.noted},
                                 {"fitted", o.fitted},
                                 {"off", o.off}});
  }
  return j;
}

std::string unknowns_text(const MatchResult& m) {
  std::string text =
      fmt::format("  {:<14}{:>15}{:>17}{:>15}{:>9}\n", "", "noted", "found", "", "moved");
  for (const FoundUnknown& u : m.unknowns) {
    text += fmt::format(
        "  {:<14}{:>15}{:>17}{:>15}{:>8}  {}\n", to_string(u.unknown),
        value_text(u.unknown, u.noted), value_text(u.unknown, u.value),
        std::isfinite(u.margin) ? fmt::format("± {}", value_text(u.unknown, u.margin)) : "",
        fmt::format("{:+.1f} s", u.moved), u.determined ? "" : "only the note says so");
  }
  return text;
}

std::string observations_text(const MatchResult& m) {
  std::size_t wide = 12;
  for (const ObservationFit& o : m.observations) wide = std::max(wide, width_of(o.seen.name));
  std::string text = fmt::format("\n  {}        seen    as noted       found    off\n",
                                 padded("observation", wide));
  for (const ObservationFit& o : m.observations) {
    const auto number = [&](double v) {
      switch (o.seen.kind) {
        case Observation::Kind::oval:
        case Observation::Kind::circle:
        case Observation::Kind::grey:
        case Observation::Kind::tinge:
          return fmt::format("{:.3f}", v);
        case Observation::Kind::engraved_focal:
          return fmt::format("{:.2f} mm", v);
        case Observation::Kind::engraved_stop:
          return fmt::format("f/{:.3g}", v);
        default:
          return fmt::format("{:.2f} px", v);
      }
    };
    text += fmt::format("  {}{:>12}{:>12}{:>12}  {:+.1f} s\n", padded(o.seen.name, wide),
                        number(o.seen.value), number(o.noted), number(o.fitted), o.off);
  }
  return text;
}

std::string explanations_text(const Explanations& e, std::size_t count) {
  if (e.notes_agree) {
    return fmt::format("Notes and plate agree: {:.2f} px is left over of {} observations.\n",
                       e.noted_off_px, count);
  }
  std::string text;
  if (e.none) {
    text += wrapped(
        fmt::format(
            "Notes and plate disagree ({:.1f} px), and no mistake that people usually make, "
            "nor two of them, explains most of it. Is it this plate, this scene, this camera of "
            "it?",
            e.noted_off_px),
        "", "  ");
    if (e.ranked.empty()) return text;
    text += "The nearest:\n";
  } else {
    text += "Notes and plate disagree. The likeliest mistake:\n";
  }
  int number = 0;
  for (const Explanation& x : e.ranked) {
    // One that is far less likely shows how clear the first is; more of them tell nothing.
    const bool far = e.ranked.front().against_notes - x.against_notes > std::log(1000.0);
    if (far && number > 1) break;
    std::string line = fmt::format(
        "{}. {}: explains {} of {} observations, the discs to {:.2f} px (now {:.1f} px).", ++number,
        x.mistakes.front(), x.observations, count, x.off_px, e.noted_off_px);
    if (x.mistakes.size() > 1) {
      line += " To this plate the same";
      for (std::size_t i = 1; i < x.mistakes.size(); ++i)
        line += fmt::format("{} {}", i == 1 ? ":" : ";", x.mistakes[i]);
      line += ".";
      if (!x.tell_apart.empty()) line += " What would tell: " + x.tell_apart + ".";
    }
    if (number > 1) {
      const double times =
          std::exp(std::min(60.0, e.ranked.front().against_notes - x.against_notes));
      line += times < 2.0      ? std::string(" (as likely)")
              : times < 1000.0 ? fmt::format(" ({:.0f} times less likely)", times)
                               : std::string(" (more than 1000 times less likely)");
    }
    text += wrapped(line, "  ", "     ");
  }
  return text;
}

Json json_of(const Explanations& e) {
  Json all = Json::array();
  for (const Explanation& x : e.ranked) {
    all.push_back({{"mistakes", x.mistakes},
                   {"log_odds", x.against_notes},
                   {"off_px", x.off_px},
                   {"explained", x.observations},
                   {"tell_apart", x.tell_apart}});
  }
  return all;
}

Json json_of(const std::vector<FactAgainstNote>& facts) {
  Json all = Json::array();
  for (const FactAgainstNote& f : facts) {
    all.push_back({{"what", f.what},
                   {"verdict", to_string(f.verdict)},
                   {"file", f.file},
                   {"noted", f.noted},
                   {"entry", f.entry},
                   {"said", f.said}});
  }
  return all;
}

std::string facts_text(const std::vector<FactAgainstNote>& facts, const std::string& file,
                       const std::vector<std::string>& doubts) {
  std::string text;
  std::size_t same = 0;
  for (const FactAgainstNote& f : facts) {
    if (f.verdict == FactAgainstNote::Verdict::same) {
      ++same;
      continue;
    }
    const bool conflict = f.verdict == FactAgainstNote::Verdict::conflict;
    std::string line = fmt::format("{} {}", padded(f.what, 16), f.file);
    if (conflict) {
      line += fmt::format(", noted {}{}", f.noted, f.said.empty() ? "" : ": " + f.said);
    } else {
      line += fmt::format(", not noted; to take it over: {}", f.entry);
    }
    text += wrapped(line, "  ", std::string(19, ' '));
  }
  for (const std::string& d : doubts) {
    text += wrapped(fmt::format("it also says {}, which is not believed", d), "  ", "    ");
  }
  if (facts.empty())
    return text.empty() ? text : fmt::format("{} says of the take:\n{}\n", file, text);
  if (text.empty()) return fmt::format("What {} says of the take is as noted.\n\n", file);
  return fmt::format("{} says of the take ({} more as noted):\n{}\n", file, same, text);
}

}  // namespace jolly_iris::cli
