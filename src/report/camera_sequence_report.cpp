#include "report/camera_sequence_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>

#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

const char* name_of_value(Parameter of) {
  switch (of) {
    case Parameter::focus:
      return "focus";
    case Parameter::focus_change:
      return "focus change";
    case Parameter::stop:
      return "stop";
    case Parameter::focal:
      return "focal length";
    case Parameter::exposure:
      return "exposure";
    case Parameter::white:
      return "white";
    case Parameter::gate:
    case Parameter::squeeze:
    case Parameter::scale:
    case Parameter::distance:
      break;
  }
  return "value";
}

// The unit that evenly counted values have, as margins are told.
const char* even_unit(Parameter of) {
  switch (of) {
    case Parameter::focus:
    case Parameter::focus_change:
      return "dpt";
    case Parameter::white:
      return "mired";
    case Parameter::focal:
      return "%";
    case Parameter::stop:
    case Parameter::exposure:
    case Parameter::gate:
    case Parameter::squeeze:
    case Parameter::scale:
    case Parameter::distance:
      break;
  }
  return "stops";
}

std::string margin_text(Parameter of, double even) {
  if (of == Parameter::focal) return fmt::format("± {:.1f} %", 100.0 * even);
  return of == Parameter::white ? fmt::format("± {:.0f} mired", even)
                                : fmt::format("± {:.3f} {}", even, even_unit(of));
}

double median_margin(const FollowedValue& v) {
  std::vector<double> all;
  for (const FrameValue& f : v.at) all.push_back(f.margin);
  std::sort(all.begin(), all.end());
  return all.empty() ? 0.0 : all[all.size() / 2];
}

std::string did(const FollowedValue& v) {
  const bool told = std::any_of(v.at.begin(), v.at.end(),
                                [](const FrameValue& f) { return f.value.has_value(); });
  if (v.moves.moves.empty()) return told ? "stands still" : "taken to stand still";
  std::string out;
  for (std::size_t i = 0; i < v.moves.moves.size(); ++i) {
    const Move& m = v.moves.moves[i];
    if (i == 3) return out + fmt::format(", and {} more", v.moves.moves.size() - i);
    out +=
        fmt::format("{}{} {:.0f}-{:.0f}", i == 0 ? "" : ", ", to_string(m.kind), m.begins, m.ends);
  }
  return out;
}

std::size_t observations(const NotedFrame& f) {
  return f.unplaced.empty() ? f.seen.size() : f.unplaced.size();
}

// Why a move's kind is not told, and what would settle it.
std::string untold_text(const FollowedValue& v, const Move& m) {
  const double range = std::abs(m.to - m.from);
  if (m.sure < 0.9) {
    return fmt::format(
        "How {} goes over frames {:.0f} to {:.0f} cannot be told: {:.0f} % of what is possible is "
        "a "
        "{}. More lamps, or lamps nearer to the focus and farther from it, would settle it.",
        name_of_value(v.of), m.begins, m.ends, 100.0 * m.sure, to_string(m.likeliest));
  }
  return fmt::format(
      "How {} goes over frames {:.0f} to {:.0f} cannot be told: it goes one way, and a turn of "
      "less "
      "than {:.0f} % of it would not be seen. More lamps would settle it.",
      name_of_value(v.of), m.begins, m.ends,
      range > 0.0 ? 100.0 * v.moves.threshold / range : 100.0);
}

Json json_of_move(Parameter of, const Move& m) {
  Json out{{"kind", to_string(m.kind)},
           {"sure", m.sure},
           {"likeliest", to_string(m.likeliest)},
           {"begins", m.begins},
           {"ends", m.ends},
           {"from", finite(as_written(of, m.from))},
           {"to", finite(as_written(of, m.to))},
           {"tenth", Json{{"value", m.tenth}, {"margin", m.tenth_margin}}},
           {"nine_tenths", Json{{"value", m.nine_tenths}, {"margin", m.nine_tenths_margin}}},
           {"past", m.past}};
  if (m.eased) {
    out["ease"] = to_string(m.ease.kind);
    if (m.ease.kind == Ease::Kind::overshoot) {
      out["by"] = m.ease.by;
      out["swings"] = m.ease.swings;
    }
  }
  return out;
}

// What is told where no lamp's distance is known, and what would tell more.
std::string relative_text(const CameraFrames& camera) {
  std::string out;
  if (!camera.untold.empty()) {
    out = fmt::format("How the focus changes cannot be told: {}. ", camera.untold);
  } else {
    out = fmt::format(
        "No lamp's distance is known, so only how the focus changes is told, in dioptres against "
        "the first frame, as far as stop, focal length and the places of camera and lamps are as "
        "noted.{} ",
        camera.way_open ? " Whether it comes nearer or goes farther the discs do not tell, and the "
                          "notes do not, either: all of it may be the other way round."
                        : " Nearer or farther is the notes' word; the discs do not tell it.");
  }
  return out +
         "Give the scene the lamps, or draw one ([[plate.lamp]]) and name it after a subject, "
         "and the focus is told in metres.";
}

// The names that columns and JSON use: the value's own unit, and that of its margin.
struct Names {
  const char* value;
  const char* margin;
};
// Notes do not tell exposure and white by frames.
bool is_noted(const FollowedValue& v) { return !v.relative || v.of == Parameter::focus_change; }

Names names_of(Parameter of) {
  switch (of) {
    case Parameter::focus:
      return {"focus_m", "focus_margin_dpt"};
    case Parameter::stop:
      return {"stop", "stop_margin_stops"};
    case Parameter::focal:
      return {"focal_mm", "focal_margin_share"};
    case Parameter::exposure:
      return {"exposure_stops", "exposure_margin_stops"};
    case Parameter::white:
      return {"white_mired", "white_margin_mired"};
    case Parameter::focus_change:
      return {"focus_change_dpt", "focus_change_margin_dpt"};
    case Parameter::gate:
    case Parameter::squeeze:
    case Parameter::scale:
    case Parameter::distance:
      break;
  }
  return {"value", "margin"};
}

}  // namespace

std::string even_text(Parameter of, double even) {
  const double v = as_written(of, even);
  switch (of) {
    case Parameter::focus:
      return std::isinf(v) || v > 1e4 ? std::string("infinity") : fmt::format("{:.3f} m", v);
    case Parameter::stop:
      return fmt::format("f/{:.2f}", v);
    case Parameter::focal:
      return fmt::format("{:.2f} mm", v);
    case Parameter::exposure:
      return signed_text(v, 2) + " stops";
    case Parameter::white:
      return signed_text(v, 0) + " mired";
    case Parameter::focus_change:
      return signed_text(v, 3) + " dpt";
    case Parameter::gate:
    case Parameter::squeeze:
    case Parameter::scale:
    case Parameter::distance:
      break;
  }
  return fmt::format("{:.3f}", v);
}

std::string camera_sequence_text(const CameraSequence& s) {
  if (s.frames.empty()) return "No frames.\n";
  const std::size_t lamps = [&] {
    std::vector<std::string> names;
    for (const NotedFrame& f : s.frames) {
      for (const Observation& o : f.seen) {
        if (o.kind == Observation::Kind::disc && !o.name.empty() && o.at) names.push_back(o.name);
      }
    }
    std::sort(names.begin(), names.end());
    return static_cast<std::size_t>(std::unique(names.begin(), names.end()) - names.begin());
  }();
  std::string out = fmt::format("{} frames, {:g} to {:g}: {} show lamps of {} distance ({} in all)",
                                s.frames.size(), s.frames.front().frame, s.frames.back().frame,
                                s.camera.seen, s.camera.relative ? "unknown" : "known",
                                counted(s.camera.relative ? s.camera.lamps : lamps, "lamp"));
  if (s.camera.seen < s.frames.size()) {
    out += fmt::format(", {} are bridged", s.frames.size() - s.camera.seen);
  }
  out += "\n\n";
  if (!s.camera.values.empty()) {
    out += fmt::format("  {:<13}{:>11}{:>13}{:>13}  {:<16}{}\n", "", "noted first", "found first",
                       "found last", "margin (95 %)", "what it does");
  }
  for (const FollowedValue& v : s.camera.values) {
    if (v.at.empty()) continue;
    out += fmt::format("  {:<13}{:>11}{:>13}{:>13}  {:<16}{}\n", name_of_value(v.of),
                       is_noted(v) ? even_text(v.of, v.at.front().noted) : "-",
                       even_text(v.of, v.at.front().curve), even_text(v.of, v.at.back().curve),
                       padded(margin_text(v.of, median_margin(v)), 16), did(v));
  }
  const bool relative =
      std::any_of(s.camera.values.begin(), s.camera.values.end(),
                  [](const FollowedValue& v) { return v.relative && !is_noted(v); });
  if (s.camera.relative) {
    out += (s.camera.values.empty() ? "" : "\n") + wrapped(relative_text(s.camera), "  ", "  ");
  }
  if (relative) {
    out +=
        "\n  Exposure and white are told by lamps that burn steadily, against the first frame "
        "that shows any.\n";
  }
  if (s.camera.two_sides) {
    out +=
        "\n" + wrapped(
                   "On which side of the lamps the focus is the discs do not tell: a focus on the "
                   "other side would explain them about as well, and the side is the notes'. One "
                   "more lamp, nearer or farther, would settle it.",
                   "  ", "  ");
  }
  if (s.camera.notes_disagree) {
    out += "\n" + wrapped(
                      "What stays the same in all frames is not as noted, beyond what notes are "
                      "usually off. match on one of these frames asks for mistakes in the notes.",
                      "  ", "  ");
  }
  if (!s.findings.empty()) out += "\n";
  for (const SequenceFinding& f : s.findings) out += wrapped(f.message, "  ", "    ");
  for (const FollowedValue& v : s.camera.values) {
    for (const Move& m : v.moves.moves) {
      if (m.kind == MoveKind::untold) out += wrapped(untold_text(v, m), "  ", "    ");
    }
  }
  return out;
}

Json camera_sequence_json(const CameraSequence& s) {
  Json out = Json::object();
  out["frames"] = Json::array();
  for (std::size_t i = 0; i < s.frames.size(); ++i) {
    Json one{{"frame", s.frames[i].frame}, {"observations", observations(s.frames[i])}};
    for (const FollowedValue& v : s.camera.values) {
      const FrameValue& f = v.at[i];
      const Names names = names_of(v.of);
      one[names.value] = finite(as_written(v.of, f.curve));
      one[names.margin] = f.margin;
      if (is_noted(v)) one[std::string("noted_") + names.value] = finite(as_written(v.of, f.noted));
      if (f.value) {
        one[std::string("seen_") + names.value] = finite(as_written(v.of, *f.value));
        one[std::string("seen_") + names.margin] = f.value_margin;
      }
    }
    out["frames"].push_back(std::move(one));
  }
  out["values"] = Json::object();
  for (const FollowedValue& v : s.camera.values) {
    Json moves = Json::array();
    for (const Move& m : v.moves.moves) moves.push_back(json_of_move(v.of, m));
    Json one{{"relative", v.relative}, {"smallest_move", v.moves.threshold}};
    one["moves"] = std::move(moves);
    Json noted = Json::array();
    for (const NotedMove& n : noted_moves(v)) {
      noted.push_back({{"begins", n.begins},
                       {"ends", n.ends},
                       {"from", finite(as_written(v.of, n.from))},
                       {"to", finite(as_written(v.of, n.to))}});
    }
    one["noted_moves"] = std::move(noted);
    out["values"][to_string(v.of)] = std::move(one);
  }
  out["common"] = Json::array();
  for (const FittedParameter& p : s.camera.common) {
    out["common"].push_back({{"name", to_string(p.parameter)},
                             {"noted", finite(p.noted)},
                             {"value", finite(p.value)},
                             {"margin", finite(p.margin)},
                             {"determined", p.determined}});
  }
  out["told_by"] = s.camera.told_by;
  out["residual_px"] = s.camera.residual_px;
  out["notes_disagree"] = s.camera.notes_disagree;
  out["two_sides"] = s.camera.two_sides;
  out["relative"] = s.camera.relative;
  out["way_open"] = s.camera.way_open;
  out["untold"] = s.camera.untold;
  Json tracks = Json::array();
  for (std::size_t i = 0; i < s.lamps.size(); ++i) {
    tracks.push_back({{"track", s.discs.tracks[i].number}, {"lamps", Json(s.lamps[i])}});
  }
  out["tracks"] = std::move(tracks);
  out["findings"] = Json::array();
  for (const SequenceFinding& f : s.findings) {
    out["findings"].push_back(
        {{"of", to_string(f.of)}, {"disagrees", f.disagrees}, {"message", f.message}});
  }
  out["keys"] = keys_of(s);
  return out;
}

std::string camera_sequence_csv(const CameraSequence& s) {
  std::string out = "frame,discs";
  for (const FollowedValue& v : s.camera.values) {
    const Names n = names_of(v.of);
    if (v.of == Parameter::focus) out += ",focus_dpt";
    out += fmt::format(",{},{}", n.value, n.margin);
    if (is_noted(v)) out += fmt::format(",noted_{}", n.value);
    out += fmt::format(",seen_{}", n.value);
  }
  out += "\n";
  const auto cell = [](double v, int digits) {
    return std::isfinite(v) ? fmt::format(",{:.{}g}", v, digits) : std::string(",infinity");
  };
  for (std::size_t i = 0; i < s.frames.size(); ++i) {
    out += fmt::format("{:g},{}", s.frames[i].frame, observations(s.frames[i]));
    for (const FollowedValue& v : s.camera.values) {
      const FrameValue& f = v.at[i];
      if (v.of == Parameter::focus) out += cell(f.curve, 6);
      out += cell(as_written(v.of, f.curve), 6);
      out += cell(f.margin, 4);
      if (is_noted(v)) out += cell(as_written(v.of, f.noted), 6);
      out += f.value ? cell(as_written(v.of, *f.value), 6) : ",";
    }
    out += "\n";
  }
  return out;
}

}  // namespace jolly_iris::report
