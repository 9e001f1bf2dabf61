#include "jolly_iris/match.hpp"

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "jolly_iris/discs.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/scene_lamps.hpp"
#include "output.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

// Nobody places a lamp of a CG scene better than that: a share of the disc.
constexpr double placed_share = 0.01;

struct Seen {
  std::vector<Observation> all{};
  int discs_left = 0;
  std::size_t discs = 0;
};

std::vector<ExpectedLamp> expected_lamps(const LoadedShot& loaded, double to_plate) {
  std::vector<ExpectedLamp> out;
  const VirtualCamera& c = loaded.answer.camera;
  const auto add = [&](const SceneLamp& lamp) {
    const Eigen::Vector3d& at = lamp.at;
    const auto px = pixel_of_direction(c, {at.x() / -at.z(), at.y() / -at.z(), -1.0});
    out.push_back(
        {lamp.name,
         {to_plate * (px[0] - 0.5 * c.pixels.width), to_plate * (px[1] - 0.5 * c.pixels.height)},
         Length::from_m(-at.z()),
         Length::from_m(lamp.diameter_m)});
  };
  if (loaded.scene) {
    for (const SceneLamp& lamp : lamps_of(*loaded.scene, loaded.answer.place)) add(lamp);
  }
  return out;
}

// Discs of lamps that the scene knows, and of those that were drawn and named after a subject.
Seen observations_of(const LoadedShot& loaded, const FoundDiscs& found, PixelSize plate) {
  Seen seen;
  const VirtualCamera& c = loaded.answer.camera;
  const double to_plate = static_cast<double>(plate.height) / c.pixels.height;
  std::vector<SeenDisc> discs;
  for (const PlateDisc& d : found.discs) {
    const double sigma = std::hypot(0.5 * d.high_px.margin, placed_share * d.high_px.value);
    bool named = false;
    for (const SubjectBlur& s : loaded.answer.subjects) {
      if (d.name.empty() || s.name != d.name) continue;
      seen.all.push_back({Observation::Kind::disc,
                          s.name,
                          d.high_px.value / to_plate,
                          sigma / to_plate,
                          s.axial,
                          {},
                          true});
      named = true;
    }
    if (!named) {
      discs.push_back({{d.at[0] - 0.5 * plate.width, d.at[1] - 0.5 * plate.height},
                       d.high_px.value,
                       sigma,
                       d.clipped});
    }
  }
  const double focal_px = to_plate * (c.focal / c.pixel_pitch());
  const LampPairs pairs =
      pair_lamps(discs, expected_lamps(loaded, to_plate), focal_px, plate.width);
  // All numbers are px of the delivered picture, whatever size the plate's file has.
  for (Observation o : pairs.discs) {
    o.value /= to_plate;
    o.sigma /= to_plate;
    seen.all.push_back(o);
  }
  if (pairs.view) {
    Observation v = *pairs.view;
    v.value /= to_plate;
    v.sigma /= to_plate;
    seen.all.push_back(v);
  }
  const Measured& oval = found.iris.high_over_wide;
  if (oval.value > 0.0 && found.discs.size() >= 3) {
    seen.all.push_back({Observation::Kind::oval,
                        "shape of the discs",
                        oval.value,
                        std::hypot(0.5 * oval.margin, 0.004),
                        {},
                        {},
                        false});
  }
  seen.discs_left = pairs.discs_left;
  seen.discs = found.discs.size();
  return seen;
}

Notes notes_of(const LoadedShot& loaded) {
  Notes notes{
      loaded.now.body, loaded.now.lens, loaded.now.take, loaded.answer.camera.focus, 0.0, 1.0};
  for (const SubjectBlur& s : loaded.answer.subjects) {
    if (loaded.now.focus.on && s.name == *loaded.now.focus.on && s.radial.is_finite()) {
      notes.off_axis = std::acos(std::clamp(s.axial / s.radial, -1.0, 1.0));
    }
  }
  return notes;
}

std::string value_text(Unknown u, double v) {
  switch (u) {
    case Unknown::focal:
    case Unknown::gate:
      return fmt::format("{:.2f} mm", v);
    case Unknown::stop:
      return fmt::format("{:.3f}", v);
    case Unknown::focus:
      return std::isinf(v) ? std::string("infinity") : fmt::format("{:.3f} m", v);
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
  std::string text = "                        noted            found             moved\n";
  for (const FoundUnknown& u : m.unknowns) {
    text +=
        fmt::format("  {:<14}{:>15}{:>17}{:>15}{:>7}  {}\n", to_string(u.unknown),
                    value_text(u.unknown, u.noted), value_text(u.unknown, u.value),
                    std::isfinite(u.margin) ? "± " + value_text(u.unknown, u.margin) : "",
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
    const bool ratio =
        o.seen.kind == Observation::Kind::oval || o.seen.kind == Observation::Kind::circle;
    const auto number = [&](double v) {
      return ratio ? fmt::format("{:.3f}", v) : fmt::format("{:.2f} px", v);
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
    if (number > 1)
      line +=
          fmt::format(" ({:.0f} times less likely)",
                      std::exp(std::min(60.0, e.ranked.front().against_notes - x.against_notes)));
    text += wrapped(line, "  ", "     ");
  }
  return text;
}

}  // namespace

void match(const MatchOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  if (!loaded.now.plate || loaded.now.plate->file.empty()) {
    throw UsageError(loaded.shot.file +
                     ": names no plate to match; write [plate] file = \"plate.exr\"");
  }
  files.push_back(loaded.now.plate->file);
  const Frame plate = read_plate(*loaded.now.plate);
  DiscHints hints;
  hints.lamps = loaded.now.plate->marks.lamps;
  const FoundDiscs found = discs_in_plate(plate.colour, hints, {options.least_px, 0.0, {}, 0});
  const Seen seen = observations_of(loaded, found, plate.colour.size());
  const bool any_disc = std::any_of(seen.all.begin(), seen.all.end(), [](const Observation& o) {
    return o.kind == Observation::Kind::disc;
  });
  if (!any_disc) {
    throw OpticsError(
        fmt::format("{} disc{} found in the plate, but none whose distance is known: lamps of the "
                    "scene ({}) lie where "
                    "no disc is. Give the scene the lamps, or draw one and name it after a subject "
                    "([[plate.lamp]])",
                    seen.discs, seen.discs == 1 ? "" : "s",
                    loaded.scene ? loaded.now.scene->file : "there is none"));
  }
  const Notes notes = notes_of(loaded);
  const MatchResult plain = jolly_iris::match(notes, seen.all);
  const Explanations why = explanations(notes, seen.all);
  const bool mended = !why.notes_agree && !why.none;
  const MatchResult& best = mended ? why.ranked.front().result : plain;
  Json json{{"discs", seen.discs},
            {"discs_without_lamp", seen.discs_left},
            {"notes_agree", why.notes_agree},
            {"unexplained", why.none},
            {"noted_off_px", why.noted_off_px},
            {"explanations", Json::array()}};
  for (const Explanation& e : why.ranked) {
    json["explanations"].push_back({{"mistakes", e.mistakes},
                                    {"log_odds", e.against_notes},
                                    {"off_px", e.off_px},
                                    {"explained", e.observations},
                                    {"tell_apart", e.tell_apart}});
  }
  json["match"] = json_of(best);
  std::string text = tried_line(loaded.shot);
  text += fmt::format("{} discs in {}, {} of them lamps of the scene\n\n", seen.discs,
                      std::filesystem::path(loaded.now.plate->file).filename().string(),
                      seen.discs - static_cast<std::size_t>(seen.discs_left));
  text += explanations_text(why, seen.all.size()) + "\n";
  if (mended) text += "With that mended (s are the note's own deviations):\n";
  text += unknowns_text(best) + observations_text(best);
  say(options.shot.form, io, json.dump(2) + "\n", text);
}

}  // namespace jolly_iris::cli
