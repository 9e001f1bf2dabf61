#include "report/match_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/workflow/shot_glass.hpp"
#include "report/discs_report.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

Json json_of(const MatchResult& m) {
  Json j{{"unknowns", Json::array()}, {"observations", Json::array()}};
  for (const FittedParameter& u : m.parameters) {
    j["unknowns"].push_back({{"name", to_string(u.parameter)},
                             {"noted", std::isfinite(u.noted) ? Json(u.noted) : Json(nullptr)},
                             {"mended", std::isfinite(u.mended) ? Json(u.mended) : Json(nullptr)},
                             {"value", std::isfinite(u.value) ? Json(u.value) : Json(nullptr)},
                             {"margin", std::isfinite(u.margin) ? Json(u.margin) : Json(nullptr)},
                             {"moved", u.moved},
                             {"determined", u.determined}});
  }
  for (const ObservationFit& o : m.observations) {
    j["observations"].push_back({{"kind", to_string(o.seen.kind)},
                                 {"name", o.seen.name},
                                 {"seen", o.seen.value},
                                 {"sigma", std::hypot(o.seen.sigma, o.seen.placed_px)},
                                 {"noted", o.noted},
                                 {"fitted", o.fitted},
                                 {"off", o.residual}});
  }
  return j;
}

bool is_mended(const FittedParameter& u) {
  return u.mended != u.noted && std::abs(u.mended / u.noted - 1.0) > 1e-6;
}

bool any_is_mended(const MatchResult& m) {
  return std::any_of(m.parameters.begin(), m.parameters.end(), is_mended);
}

std::string parameters_text(const MatchResult& m) {
  const bool any_mended = any_is_mended(m);
  const auto mended = [&](const std::string& value) {
    return any_mended ? fmt::format("{:>13}", value) : std::string();
  };
  std::string text = fmt::format("  {:<14}{:>13}{}{:>13}{:>13}{:>9}\n", "", "noted",
                                 mended("mended"), "found", "(95 %)", "moved");
  for (const FittedParameter& u : m.parameters) {
    text += fmt::format(
        "  {:<14}{:>13}{}{:>13}{:>13}{:>9}  {}\n", to_string(u.parameter),
        value_text(u.parameter, u.noted),
        mended(is_mended(u) ? value_text(u.parameter, u.mended) : ""),
        value_text(u.parameter, u.value),
        std::isfinite(u.margin) ? fmt::format("± {}", value_text(u.parameter, u.margin)) : "",
        fmt::format("{} s", signed_text(u.moved, 1)), u.determined ? "" : "only the note says so");
  }
  return text;
}

std::string observations_text(const MatchResult& m) {
  std::size_t width = 12;
  for (const ObservationFit& o : m.observations) width = std::max(width, width_of(o.seen.name));
  std::string text =
      fmt::format("\n  {}        seen{:>12}       found    off\n", padded("observation", width),
                  any_is_mended(m) ? "as mended" : "as noted");
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
    text += fmt::format("  {}{:>12}{:>12}{:>12}  {:+.1f} s\n", padded(o.seen.name, width),
                        number(o.seen.value), number(o.noted), number(o.fitted), o.residual);
  }
  return text;
}

// What is said of one hypothesis; `first` is the likeliest of all.
std::string hypothesis_text(const RankedHypothesis& x, const RankedHypothesis& first,
                            double noted_residual_px, std::size_t count) {
  std::string line =
      fmt::format("{}: explains {} of {} observations, the discs to {:.2f} px (now {:.1f} px).",
                  x.mistakes.front(), x.observations, count, x.residual_px, noted_residual_px);
  if (x.mistakes.size() > 1) {
    line += " To this plate the same";
    for (std::size_t i = 1; i < x.mistakes.size(); ++i) {
      line += fmt::format("{} {}", i == 1 ? ":" : ";", x.mistakes[i]);
    }
    line += ".";
    if (!x.tell_apart.empty()) line += " What would tell: " + x.tell_apart + ".";
  }
  if (&x == &first) return line;
  const double times = std::exp(std::min(60.0, first.against_notes - x.against_notes));
  return line + (times < 2.0      ? std::string(" (as likely)")
                 : times < 1000.0 ? fmt::format(" ({:.0f} times less likely)", times)
                                  : std::string(" (more than 1000 times less likely)"));
}

Verdict verdict_of(const HypothesisRanking& e, std::size_t count) {
  Verdict out;
  if (e.notes_agree) {
    out.head = {fmt::format("Notes and plate agree: {:.2f} px is left over of {} observations.",
                            e.noted_residual_px, count)};
    return out;
  }
  if (e.none) {
    out.head = {fmt::format(
        "Notes and plate disagree ({:.1f} px), and no mistake that people usually make, nor two "
        "or three of them, explain it. Is it this plate, this scene, this camera of it?",
        e.noted_residual_px)};
    if (!e.ranked.empty()) out.head.emplace_back("The nearest:");
  } else {
    out.head = {"Notes and plate disagree. The likeliest mistake:"};
  }
  for (const RankedHypothesis& x : e.ranked) {
    // One that is far less likely shows how clear the first is; more of them tell nothing.
    const bool far = e.ranked.front().against_notes - x.against_notes > std::log(1000.0);
    if (far && out.ranked.size() > 1) break;
    out.ranked.push_back(
        fmt::format("{}. {}", out.ranked.size() + 1,
                    hypothesis_text(x, e.ranked.front(), e.noted_residual_px, count)));
  }
  return out;
}

std::string verdict_text(const HypothesisRanking& e, std::size_t count) {
  const Verdict verdict = verdict_of(e, count);
  std::string text;
  for (const std::string& line : verdict.head) text += wrapped(line, "", "  ");
  for (const std::string& line : verdict.ranked) text += wrapped(line, "  ", "     ");
  return text;
}

Json json_of(const HypothesisRanking& e) {
  Json all = Json::array();
  for (const RankedHypothesis& x : e.ranked) {
    all.push_back({{"mistakes", x.mistakes},
                   {"log_odds", x.against_notes},
                   {"off_px", x.residual_px},
                   {"explained", x.observations},
                   {"tell_apart", x.tell_apart}});
  }
  return all;
}

Json json_of(const std::vector<MetadataFinding>& facts) {
  Json all = Json::array();
  for (const MetadataFinding& f : facts) {
    all.push_back({{"what", f.what},
                   {"verdict", to_string(f.verdict)},
                   {"file", f.file},
                   {"noted", f.noted},
                   {"entry", f.entry},
                   {"said", f.message}});
  }
  return all;
}

std::string facts_text(const std::vector<MetadataFinding>& facts, const std::string& file,
                       const std::vector<std::string>& doubts) {
  std::string text;
  std::size_t same = 0;
  for (const MetadataFinding& f : facts) {
    if (f.verdict == MetadataFinding::Verdict::same) {
      ++same;
      continue;
    }
    const bool conflict = f.verdict == MetadataFinding::Verdict::conflict;
    std::string line = fmt::format("{} {}", padded(f.what, 16), f.file);
    if (conflict) {
      line += fmt::format(", noted {}{}", f.noted, f.message.empty() ? "" : ": " + f.message);
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

// What the iris of the plate is against the noted one.
// @param traced no rim is asked for: the glass has its own
std::string iris_text(const FoundDiscs& found, const Lens& lens, const VirtualCamera& camera,
                      int height, bool any_mended, bool traced) {
  std::string text;
  const auto row = [&](const char* what, const std::string& was, const std::string& is,
                       const std::string& margin, const std::string& words) {
    text += fmt::format("  {:<14}{:>13}{}{:>13}{:>13}{}\n", what, was,
                        any_mended ? std::string(13, ' ') : "", is, margin,
                        words.empty() ? "" : std::string(11, ' ') + words);
  };
  const Iris& noted = lens.iris;
  const PlateIris& seen = found.iris;
  const auto count = [](int n) { return n == 0 ? std::string("round") : fmt::format("{}", n); };
  if (seen.known) {
    const std::string words =
        !seen.sure() ? blades_words(seen)
        : noted.blades == seen.blades
            ? ""
            : fmt::format("by {}", counted(static_cast<std::size_t>(seen.discs), "disc"));
    row("blades", count(noted.blades), seen.sure() ? count(seen.blades) : "", "", words);
  }
  if (seen.sure() && seen.blades > 0 && noted.blades == seen.blades) {
    row("blades turned", fmt::format("{:.1f} deg", noted.rotation.degrees()),
        fmt::format("{:.1f} deg", seen.rotation_near(noted.rotation.degrees())),
        fmt::format("± {:.1f} deg", seen.rotation_deg.margin), "");
  }
  if (traced) return text;
  if (found.vignetting.unexplained) row("barrel", "", "", "", "cuts discs as no single rim does");
  if (found.vignetting.known) {
    const VignettingRim rim = rim_of(found.vignetting, camera, height);
    const auto mm = [](Length l) { return fmt::format("{:.1f} mm", l.mm()); };
    const auto margin = [](Length l, const Measured& m) {
      return fmt::format("± {:.1f} mm", std::abs(l.mm() * m.margin / m.value));
    };
    const bool one = lens.vignetting.size() == 1;
    row("barrel radius", one ? mm(lens.vignetting.front().radius) : "", mm(rim.radius),
        margin(rim.radius, found.vignetting.radius), one ? "" : "not noted as one rim");
    row("barrel ahead", one ? mm(lens.vignetting.front().ahead) : "", mm(rim.ahead),
        margin(rim.ahead, found.vignetting.shift), "");
  }
  return text;
}

// What one measurement would help most: the note that the plate does not tell and that is least
// certain for what it does.
std::string settle_text(const MatchResult& m) {
  std::vector<std::string> left;
  for (const FittedParameter& u : m.parameters) {
    if (!u.determined) left.emplace_back(to_string(u.parameter));
  }
  if (left.empty()) return "";
  const auto open = [&](Parameter u) {
    return std::any_of(m.parameters.begin(), m.parameters.end(),
                       [&](const FittedParameter& f) { return f.parameter == u && !f.determined; });
  };
  const char* best = nullptr;
  if (open(Parameter::focus)) {
    best = "the distance of something that is sharp, or a lamp on the other side of the focus";
  } else if (open(Parameter::scale)) {
    best = "the true size of one thing in the scene ([[subject]] size, with a box drawn around it)";
  } else if (open(Parameter::gate) || open(Parameter::focal)) {
    best = "the body's record mode: how much of its sensor's width was used";
  } else {
    best = "something round in focus, drawn as [[plate.circle]]";
  }
  return wrapped(fmt::format("The plate does not tell {}. What would settle most: {}.",
                             fmt::join(left, ", "), best),
                 "", "  ");
}

// What belongs into the lens file, to be pasted.
std::string squeeze_row_text(const MatchedPlate& plate) {
  const auto row = squeeze_row(plate);
  if (!row) return {};
  return fmt::format(
      "\n  at this mark the lens squeezes otherwise; a row for its file:\n"
      "    [[lens.squeezes]]\n    mark = \"{:.4g} m\"\n    squeeze = {:.4g}\n",
      row->mark.m(), row->squeeze);
}

std::string facts_text(const MatchedPlate& plate) {
  return facts_text(plate.metadata, file_name(plate.loaded.now.plate->file), plate.facts.doubts);
}

std::string discs_text(const MatchedPlate& plate) {
  const PlateObservations& seen = plate.seen;
  const std::size_t found = seen.found.discs.size();
  std::string text = fmt::format(
      "{} discs in {}, {} of them lamps of the scene{}\n", found, seen.plate,
      found - static_cast<std::size_t>(seen.discs_left + seen.discs_odd),
      seen.discs_odd == 0 ? "" : fmt::format("; something overlaps {}, left out", seen.discs_odd));
  for (const std::string& name : seen.by_hand) {
    text += fmt::format("  {}: its disc as it was measured by hand, ± 1 px at each edge\n", name);
  }
  for (const std::string& left : seen.left) text += wrapped(left, "  ", "    ");
  const Lens& lens = plate.loaded.now.lens;
  if (plate.traced) {
    text += wrapped("against discs that were drawn through the glass of " + lens.name +
                        " and measured as the plate's were",
                    "  ", "    ");
  } else if (!lens.glass.empty()) {
    text += wrapped(thin_lens_note(plate.loaded), "  ", "    ");
  }
  if (!plate.untold.empty()) {
    text += wrapped(
        fmt::format(
            "as a thin lens has them, loosely, as discs drawn so are none to the finder: {}",
            fmt::join(plate.untold, ", ")),
        "  ", "    ");
  }
  return text;
}

Json json_of(const MatchedPlate& plate) {
  return {{"shot", plate.shot_file},
          {"discs", plate.seen.found.discs.size()},
          {"discs_without_lamp", plate.seen.discs_left},
          {"discs_overlapped", plate.seen.discs_odd},
          {"traced_through_glass", plate.traced},
          {"discs_untold", plate.untold},
          {"file_says", json_of(plate.metadata)},
          {"match", json_of(plate.best)}};
}

// What is doubted though nothing in the plates tells it: that changes nothing, and is said.
std::string in_vain_text(const std::vector<PriorOverride>& doubts,
                         const std::vector<MatchResult>& found) {
  std::string text;
  for (const PriorOverride& d : doubts) {
    const bool told = std::any_of(found.begin(), found.end(), [&](const MatchResult& m) {
      return std::any_of(m.parameters.begin(), m.parameters.end(),
                         [&](const FittedParameter& u) { return u.parameter == d.of; });
    });
    if (told) continue;
    const char* draw = d.of == Parameter::exposure
                           ? "a grey card whose luminance was metered ([[plate.grey]] luminance)"
                       : d.of == Parameter::white
                           ? "a grey card in a light whose white is known ([[plate.grey]] light)"
                           : "something round in focus ([[plate.circle]])";
    text +=
        wrapped(fmt::format("Doubting the {} changes nothing: the plate does not show it. Draw {}.",
                            to_string(d.of), draw),
                "", "  ");
  }
  return text;
}

}  // namespace

std::string metadata_text(const CameraMatch& match) {
  std::string text;
  for (const MatchedPlate& plate : match.plates) text += facts_text(plate);
  return text;
}

std::string match_text(const CameraMatch& match, const std::vector<PriorOverride>& doubts) {
  const bool several = match.plates.size() > 1;
  std::string text;
  for (const MatchedPlate& plate : match.plates) text += discs_text(plate);
  text += in_vain_text(doubts, match.ranking.plain);
  text += fmt::format("\n{}\n", verdict_text(match.ranking, match.observations));
  if (match.corrected) text += "With that mended (s are the note's own deviations):\n";
  for (const MatchedPlate& plate : match.plates) {
    if (several) {
      text += fmt::format("{}{}\n", &plate == &match.plates.front() ? "" : "\n", plate.seen.plate);
    }
    text += parameters_text(plate.best) +
            iris_text(plate.seen.found, plate.best.estimate.lens, camera_of(plate.best.estimate),
                      plate.seen.plate_size.height, any_is_mended(plate.best), plate.traced) +
            squeeze_row_text(plate) + "\n" + settle_text(plate.best) +
            observations_text(plate.best);
  }
  return text;
}

Json match_json(const CameraMatch& match) {
  Json json = json_of(match.plates.front());
  json["notes_agree"] = match.ranking.notes_agree;
  json["unexplained"] = match.ranking.none;
  json["noted_off_px"] = match.ranking.noted_residual_px;
  json["explanations"] = json_of(match.ranking);
  for (std::size_t i = 1; i < match.plates.size(); ++i) {
    json["together"].push_back(json_of(match.plates[i]));
  }
  return json;
}

Verdict verdict_of(const CameraMatch& match) {
  return verdict_of(match.ranking, match.observations);
}

}  // namespace jolly_iris::report
