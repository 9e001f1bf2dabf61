#include "jolly_iris/match.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <locale>
#include <map>
#include <ostream>
#include <sstream>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"
#include "jolly_iris/solved_file.hpp"
#include "match_accept.hpp"
#include "match_text.hpp"
#include "output.hpp"
#include "seen_in_plate.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

namespace {

const std::map<std::string, Unknown>& keys_of_unknowns() {
  static const std::map<std::string, Unknown> keys{
      {"lens.focal", Unknown::focal},     {"body.gate", Unknown::gate},
      {"take.stop", Unknown::stop},       {"focus", Unknown::focus},
      {"lens.squeeze", Unknown::squeeze}, {"scene.scale", Unknown::scale},
      {"scene.back", Unknown::distance},  {"take.ev", Unknown::exposure},
      {"take.white", Unknown::white}};
  return keys;
}

// "take.stop", or "take.stop=2 %": how far it is believed; of take.ev in stops.
Doubt doubt_of(const std::string& text) {
  const auto equals = text.find('=');
  const std::string key = text.substr(0, equals);
  const auto found = keys_of_unknowns().find(key);
  if (found == keys_of_unknowns().end()) {
    std::vector<std::string> names;
    for (const auto& [name, u] : keys_of_unknowns()) names.push_back(name);
    throw UsageError(fmt::format("--doubt {}: no such note is matched; there are {}.{}", key,
                                 fmt::join(names, ", "), did_you_mean(key, names)));
  }
  if (equals == std::string::npos) return {found->second, std::nullopt};
  std::string unit;
  double value = 0.0;
  std::istringstream in(text.substr(equals + 1));
  in.imbue(std::locale::classic());
  in >> value >> unit;
  const bool stops = found->second == Unknown::exposure;
  const bool right = stops ? unit == "stops" || unit == "stop" : unit == "%";
  if (in.fail() || !right || !(value > 0.0)) {
    throw UsageError(fmt::format("--doubt {}: '{}' is no deviation; write {}", key,
                                 text.substr(equals + 1),
                                 stops ? "e.g. --doubt \"take.ev=0.5 stops\""
                                       : fmt::format("e.g. --doubt \"{}=0.5 %\"", key)));
  }
  return {found->second, stops ? value : 0.01 * value};
}

// What the iris of the plate is against the noted one.
std::string iris_text(const FoundDiscs& found, const Lens& lens, const VirtualCamera& camera,
                      int height) {
  std::string text;
  const auto row = [&](const char* what, const std::string& was, const std::string& is,
                       const std::string& margin, const char* words) {
    text += fmt::format("  {:<14}{:>15}{:>17}{:>15}          {}\n", what, was, is, margin, words);
  };
  const Iris& noted = lens.iris;
  const PlateIris& seen = found.iris;
  const auto count = [](int n) { return n == 0 ? std::string("round") : fmt::format("{}", n); };
  if (seen.known) {
    const char* words = !seen.sure()                  ? "cannot tell"
                        : noted.blades == seen.blades ? ""
                                                      : "the plate is sure";
    row("blades", count(noted.blades), count(seen.blades), "", words);
  }
  if (seen.known && seen.blades > 0 && noted.blades == seen.blades) {
    row("blades turned", fmt::format("{:.1f} deg", noted.rotation.degrees()),
        fmt::format("{:.1f} deg", seen.rotation_deg.value),
        fmt::format("± {:.1f} deg", seen.rotation_deg.margin), "");
  }
  if (found.barrel.known) {
    const BarrelRim rim = rim_of(found.barrel, camera, height);
    const auto mm = [](Length l) { return fmt::format("{:.1f} mm", l.mm()); };
    const auto margin = [](Length l, const Measured& m) {
      return fmt::format("± {:.1f} mm", std::abs(l.mm() * m.margin / m.value));
    };
    const bool one = lens.barrel.size() == 1;
    row("barrel radius", one ? mm(lens.barrel.front().radius) : "", mm(rim.radius),
        margin(rim.radius, found.barrel.radius), one ? "" : "not noted as one rim");
    row("barrel ahead", one ? mm(lens.barrel.front().ahead) : "", mm(rim.ahead),
        margin(rim.ahead, found.barrel.shift), "");
  }
  return text;
}

// What one measurement would help most: the note that the plate does not tell and that is least
// certain for what it does.
std::string settle_text(const MatchResult& m) {
  std::vector<std::string> left;
  for (const FoundUnknown& u : m.unknowns) {
    if (!u.determined) left.emplace_back(to_string(u.unknown));
  }
  if (left.empty()) return "";
  const auto open = [&](Unknown u) {
    return std::any_of(m.unknowns.begin(), m.unknowns.end(),
                       [&](const FoundUnknown& f) { return f.unknown == u && !f.determined; });
  };
  const char* best = nullptr;
  if (open(Unknown::focus)) {
    best = "the distance of something that is sharp, or a lamp on the other side of the focus";
  } else if (open(Unknown::scale)) {
    best = "the true size of one thing in the scene ([[subject]] size, with a box drawn around it)";
  } else if (open(Unknown::gate) || open(Unknown::focal)) {
    best = "the body's record mode: how much of its sensor's width was used";
  } else {
    best = "something round in focus, drawn as [[plate.circle]]";
  }
  return wrapped(fmt::format("The plate does not tell {}. What would settle most: {}.",
                             fmt::join(left, ", "), best),
                 "", "  ");
}

// One of the plates that are matched together.
struct OnePlate {
  std::string shot_file{};
  LoadedShot loaded{};
  PlateFacts facts{};
  std::vector<FactAgainstNote> against{};
  SeenInPlate seen{};
};

std::string facts_text(const OnePlate& one) {
  const std::string& file = one.loaded.now.plate->file;
  return cli::facts_text(one.against, std::filesystem::path(file).filename().string(),
                         one.facts.doubts);
}

OnePlate facts_of(const std::string& shot_file, const MatchOptions& options,
                  std::vector<std::string>& files) {
  ShotOptions as_noted = options.shot;
  as_noted.shot = shot_file;
  as_noted.as_noted = true;  // notes are matched, not what was solved from them before
  OnePlate one{shot_file, load(as_noted, files), {}, {}, {}};
  if (!one.loaded.now.plate || one.loaded.now.plate->file.empty()) {
    throw UsageError(one.loaded.shot.file +
                     ": names no plate to match; write [plate] file = \"plate.exr\"");
  }
  one.facts = read_plate_facts(one.loaded.now.plate->file);
  one.against = facts_against(one.facts, one.loaded.now);
  return one;
}

std::string discs_text(const OnePlate& one) {
  const SeenInPlate& seen = one.seen;
  const std::size_t found = seen.found.discs.size();
  std::string text = fmt::format(
      "{} discs in {}, {} of them lamps of the scene{}\n", found, seen.plate,
      found - static_cast<std::size_t>(seen.discs_left + seen.discs_odd),
      seen.discs_odd == 0 ? "" : fmt::format("; something overlaps {}, left out", seen.discs_odd));
  for (const std::string& left : seen.left) text += wrapped(left, "  ", "    ");
  return text;
}

Json json_of(const OnePlate& one, const MatchResult& result) {
  return {{"shot", one.shot_file},
          {"discs", one.seen.found.discs.size()},
          {"discs_without_lamp", one.seen.discs_left},
          {"discs_overlapped", one.seen.discs_odd},
          {"file_says", cli::json_of(one.against)},
          {"match", cli::json_of(result)}};
}

// What plates of one camera have in common: of one scene, its scale as well.
std::vector<Unknown> shared_by(const std::vector<OnePlate>& plates) {
  std::vector<Unknown> shared = MatchSettings{}.shared;
  const auto scene_of = [](const OnePlate& p) {
    return p.loaded.now.scene ? p.loaded.now.scene->file : std::string();
  };
  const bool one_scene = std::all_of(plates.begin(), plates.end(), [&](const OnePlate& p) {
    return !scene_of(p).empty() && scene_of(p) == scene_of(plates.front());
  });
  if (one_scene) shared.push_back(Unknown::scale);
  return shared;
}

// What is doubted though nothing in the plates tells it: that changes nothing, and is said.
std::string in_vain_text(const std::vector<Doubt>& doubts, const std::vector<MatchResult>& found) {
  std::string text;
  for (const Doubt& d : doubts) {
    const bool told = std::any_of(found.begin(), found.end(), [&](const MatchResult& m) {
      return std::any_of(m.unknowns.begin(), m.unknowns.end(),
                         [&](const FoundUnknown& u) { return u.unknown == d.of; });
    });
    if (told) continue;
    const char* draw = d.of == Unknown::exposure
                           ? "a grey card whose luminance was metered ([[plate.grey]] luminance)"
                       : d.of == Unknown::white
                           ? "a grey card in a light whose white is known ([[plate.grey]] light)"
                           : "something round in focus ([[plate.circle]])";
    text +=
        wrapped(fmt::format("Doubting the {} changes nothing: the plate does not show it. Draw {}.",
                            to_string(d.of), draw),
                "", "  ");
  }
  return text;
}

void refuse_mixtures(const MatchOptions& options) {
  if (options.accept && !options.shot.tried.empty()) {
    throw UsageError(
        "--accept is for the notes as they stand in the file; --set and --variant try others. "
        "Write what was tried into the file first");
  }
  for (const std::string& file : options.together) {
    if (file == options.shot.shot) {
      throw UsageError(
          fmt::format("--with {}: that is the shot itself; name another one that the "
                      "same camera took",
                      file));
    }
  }
}

}  // namespace

void match(const MatchOptions& options, const Streams& io, std::vector<std::string>& files) {
  MatchSettings settings;
  for (const std::string& text : options.doubt) settings.doubts.push_back(doubt_of(text));
  refuse_mixtures(options);
  std::vector<OnePlate> all{facts_of(options.shot.shot, options, files)};
  for (const std::string& file : options.together) all.push_back(facts_of(file, options, files));
  const bool several = all.size() > 1;
  const bool for_people = !options.shot.form.json && options.shot.form.only.empty();
  std::string text = tried_line(all.front().loaded.shot);
  std::vector<NotedPlate> plates;
  std::size_t count = 0;
  for (OnePlate& one : all) {
    text += facts_text(one);
    try {
      one.seen = seen_in_plate(one.loaded, one.facts, options.least_px, files, options.boxes);
    } catch (const OpticsError&) {
      if (for_people) io.out << text;
      throw;
    }
    plates.push_back({notes_of(one.loaded), one.seen.all});
    count += one.seen.all.size();
  }
  settings.shared = shared_by(all);
  const std::vector<MatchResult> plain = jolly_iris::match(plates, settings);
  const Explanations why = explanations(plates, settings.shared);
  const bool mended = !why.notes_agree && !why.none && settings.doubts.empty();
  std::vector<MatchResult> best = plain;
  if (mended) {
    best = why.ranked.front().others;
    best.insert(best.begin(), why.ranked.front().result);
  }
  Json json = json_of(all.front(), best.front());
  json["notes_agree"] = why.notes_agree;
  json["unexplained"] = why.none;
  json["noted_off_px"] = why.noted_off_px;
  json["explanations"] = cli::json_of(why);
  for (std::size_t i = 1; i < all.size(); ++i) json["together"].push_back(json_of(all[i], best[i]));
  for (const OnePlate& one : all) text += discs_text(one);
  text += in_vain_text(settings.doubts, plain);
  text += fmt::format("\n{}\n", explanations_text(why, count));
  if (mended) text += "With that mended (s are the note's own deviations):\n";
  for (std::size_t i = 0; i < all.size(); ++i) {
    const OnePlate& one = all[i];
    if (several) text += fmt::format("{}{}\n", i == 0 ? "" : "\n", one.seen.plate);
    text += unknowns_text(best[i]) +
            iris_text(one.seen.found, best[i].notes.lens, camera_of(best[i].notes),
                      one.seen.plate_size.height) +
            "\n" + settle_text(best[i]) + observations_text(best[i]);
  }
  if (options.accept && why.none) {
    throw OpticsError(
        fmt::format("--accept: nothing explains the plate, so {} is not written; see what match "
                    "says without it",
                    solved_file_of(options.shot.shot).string()));
  }
  for (std::size_t i = 0; options.accept && i < all.size(); ++i) {
    const std::string reason =
        mended ? "Taken for the likeliest mistake: " + why.ranked.front().mistakes.front() + "."
               : "The notes agree with it; these are a little nearer.";
    text += (i == 0 ? "\n" : "") +
            accept(all[i].shot_file, best[i], all[i].loaded, all[i].seen, reason);
    json["written"].push_back(solved_file_of(all[i].shot_file).string());
  }
  say(options.shot.form, io, json.dump(2) + "\n", text);
}

}  // namespace jolly_iris::cli
