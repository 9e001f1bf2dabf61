#include "jolly_iris/match.hpp"

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <map>
#include <ostream>

#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"
#include "jolly_iris/solved_file.hpp"
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
      {"lens.squeeze", Unknown::squeeze}, {"scene.scale", Unknown::scale}};
  return keys;
}

MatchSettings settings_of(const MatchOptions& options) {
  MatchSettings settings;
  for (const std::string& key : options.doubt) {
    const auto found = keys_of_unknowns().find(key);
    if (found == keys_of_unknowns().end()) {
      std::vector<std::string> names;
      for (const auto& [name, u] : keys_of_unknowns()) names.push_back(name);
      throw UsageError(fmt::format("--doubt {}: no such note is matched; there are {}.{}", key,
                                   fmt::join(names, ", "), did_you_mean(key, names)));
    }
    settings.free.push_back(found->second);
  }
  return settings;
}

// What the iris of the plate is against the noted one.
std::string iris_text(const PlateIris& seen, const Lens& lens) {
  if (!seen.known) return "";
  const Iris& noted = lens.iris;
  std::string text;
  const auto row = [&](const char* what, const std::string& was, const std::string& is,
                       const std::string& margin, const char* words) {
    text += fmt::format("  {:<14}{:>15}{:>17}{:>15}         {}\n", what, was, is, margin, words);
  };
  const auto count = [](int n) { return n == 0 ? std::string("round") : fmt::format("{}", n); };
  const char* words = !seen.sure()                  ? "cannot tell"
                      : noted.blades == seen.blades ? ""
                                                    : "the plate is sure";
  row("blades", count(noted.blades), count(seen.blades), "", words);
  if (seen.blades > 0 && noted.blades == seen.blades) {
    row("blades turned", fmt::format("{:.1f} deg", noted.rotation.degrees()),
        fmt::format("{:.1f} deg", seen.rotation_deg.value),
        fmt::format("± {:.1f} deg", seen.rotation_deg.margin), "");
  }
  return text;
}

std::string quoted(const std::string& text) { return fmt::format("\"{}\"", text); }

// The iris as far as the plate says it otherwise than the notes.
void add_iris(const PlateIris& seen, const LoadedShot& loaded, std::vector<SolvedValue>& values) {
  if (!seen.sure()) return;
  const Iris& noted = loaded.now.lens.iris;
  const bool other = noted.blades != seen.blades;
  if (other) {
    values.push_back({"lens.iris.blades", fmt::format("{}", seen.blades),
                      fmt::format("noted {}", noted.blades)});
  }
  if (seen.blades == 0) return;
  const double part = 360.0 / seen.blades;
  const double off = std::remainder(noted.rotation.degrees() - seen.rotation_deg.value, part);
  if (other || std::abs(off) > seen.rotation_deg.margin + 0.5) {
    values.push_back({"lens.iris.rotation",
                      quoted(fmt::format("{:.2f} deg", seen.rotation_deg.value)),
                      fmt::format("noted {:g} deg, ± {:.1f}", noted.rotation.degrees(),
                                  seen.rotation_deg.margin)});
  }
  const double c = seen.curvature.value;
  if (other && !loaded.shot.origins.contains("lens.iris.blade_radius")) {
    values.push_back({"lens.iris.blade_radius",
                      std::abs(c) <= seen.curvature.margin
                          ? quoted("straight")
                          : quoted(fmt::format("{:.3g} x", 1.0 / c)),
                      ""});
  }
}

std::vector<SolvedValue> solved_values(const MatchResult& m, const LoadedShot& loaded,
                                       const PlateIris& iris) {
  std::vector<SolvedValue> values;
  const Shot& shot = loaded.now;
  const Notes& found = m.notes;
  const auto margin_of = [&](Unknown u) {
    for (const FoundUnknown& f : m.unknowns) {
      if (f.unknown == u && std::isfinite(f.margin)) {
        return fmt::format("± {}", value_text(u, f.margin));
      }
    }
    return std::string();
  };
  // What only the note says stays noted, unless a mistake in it was mended.
  const auto changed = [&](Unknown u, double a, double b) {
    const auto f = std::find_if(m.unknowns.begin(), m.unknowns.end(),
                                [&](const FoundUnknown& one) { return one.unknown == u; });
    const bool told = f != m.unknowns.end() && (f->determined || std::abs(f->moved) > 0.5);
    if (!told || !std::isfinite(f->margin)) return std::abs(a / b - 1.0) > 0.02;
    return std::abs(a - b) > 0.25 * f->margin;  // less is no news
  };
  if (changed(Unknown::focal, found.lens.focal.mm(), shot.lens.focal.mm())) {
    values.push_back(
        {"lens.focal", quoted(fmt::format("{:.5g} mm", found.lens.focal.mm())),
         fmt::format("noted {:g} mm, {}", shot.lens.focal.mm(), margin_of(Unknown::focal))});
  }
  if (found.lens.adapter != shot.lens.adapter) {
    values.push_back({"lens.adapter", fmt::format("{:g}", found.lens.adapter),
                      fmt::format("noted {:g}", shot.lens.adapter)});
  }
  if (changed(Unknown::squeeze, found.lens.squeeze, shot.lens.squeeze)) {
    values.push_back(
        {"lens.squeeze", fmt::format("{:.5g}", found.lens.squeeze),
         fmt::format("noted {:g}, {}", shot.lens.squeeze, margin_of(Unknown::squeeze))});
  }
  const Extent& gate = found.body.gate;
  if (changed(Unknown::gate, gate.width.mm(), shot.body.gate.width.mm()) ||
      changed(Unknown::gate, gate.height.mm(), shot.body.gate.height.mm())) {
    values.push_back({"body.gate",
                      quoted(fmt::format("{:.5g} x {:.5g} mm", gate.width.mm(), gate.height.mm())),
                      fmt::format("noted {:g} x {:g} mm, {} wide", shot.body.gate.width.mm(),
                                  shot.body.gate.height.mm(), margin_of(Unknown::gate))});
  }
  if (shot.body.window && !found.body.window && shot.body.photosites) {
    values.push_back(
        {"body.window",
         quoted(fmt::format("{} x {}", shot.body.photosites->width, shot.body.photosites->height)),
         "all of it was recorded"});
  }
  const Stop& stop = found.take.stop;
  if (changed(Unknown::stop, stop.value, shot.take.stop.value)) {
    values.push_back(
        {"take.stop",
         quoted(fmt::format("{}{:.4g}", stop.kind == Stop::Kind::f ? "f/" : "T", stop.value)),
         fmt::format("noted {}, {}", stop_text(shot.take.stop), margin_of(Unknown::stop))});
  }
  const Length noted_focus = loaded.answer.camera.focus;
  if (found.focus.is_infinite() != noted_focus.is_infinite() ||
      (found.focus.is_finite() && changed(Unknown::focus, found.focus.m(), noted_focus.m()))) {
    values.push_back(
        {"focus.at",
         quoted(found.focus.is_infinite() ? "infinity" : fmt::format("{:.5g} m", found.focus.m())),
         fmt::format("noted {}, {}", metres(noted_focus), margin_of(Unknown::focus))});
    if (shot.focus.offset.m() != 0.0) values.push_back({"focus.offset", quoted("0 m"), ""});
  }
  if (shot.scene && changed(Unknown::scale, found.scene_scale, 1.0)) {
    values.push_back({"scene.scale", fmt::format("{:.5g}", shot.scene->scale * found.scene_scale),
                      fmt::format("noted {:g}, {}", shot.scene->scale, margin_of(Unknown::scale))});
  }
  add_iris(iris, loaded, values);
  return values;
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

void accept(const MatchOptions& options, const LoadedShot& loaded, const Explanations& why,
            const MatchResult& best, const PlateIris& iris, Json& json, std::string& text) {
  const std::string file = solved_file_of(options.shot.shot).string();
  if (why.none) {
    throw OpticsError(
        fmt::format("--accept: nothing explains the plate, so {} is not written; see what match "
                    "says without it",
                    file));
  }
  const bool mended = !why.notes_agree;
  const std::string reason =
      mended ? "Taken for the likeliest mistake: " + why.ranked.front().mistakes.front() + "."
             : "The notes agree with it; these are a little nearer.";
  const auto values = solved_values(best, loaded, iris);
  write_whole_file(file, solved_text(options.shot.shot, reason, values));
  json["written"] = {file};
  text += fmt::format("\n{:<28} {} values that lead over the notes from now on{}\n", file,
                      values.size(), " (--as-noted leaves them out)");
}

}  // namespace

void match(const MatchOptions& options, const Streams& io, std::vector<std::string>& files) {
  const MatchSettings settings = settings_of(options);
  ShotOptions as_noted = options.shot;
  as_noted.as_noted = true;  // notes are matched, not what was solved from them before
  if (options.accept && !options.shot.tried.empty()) {
    throw UsageError(
        "--accept is for the notes as they stand in the file; --set and --variant try others. "
        "Write what was tried into the file first");
  }
  const LoadedShot loaded = load(as_noted, files);
  if (!loaded.now.plate || loaded.now.plate->file.empty()) {
    throw UsageError(loaded.shot.file +
                     ": names no plate to match; write [plate] file = \"plate.exr\"");
  }
  const PlateFacts facts = read_plate_facts(loaded.now.plate->file);
  const auto against = facts_against(facts, loaded.now);
  const std::string plate = std::filesystem::path(loaded.now.plate->file).filename().string();
  std::string text = tried_line(loaded.shot) + facts_text(against, plate, facts.doubts);
  const bool for_people = !options.shot.form.json && options.shot.form.only.empty();
  SeenInPlate seen;
  try {
    seen = seen_in_plate(loaded, facts, options.least_px, files);
  } catch (const OpticsError&) {
    if (for_people) io.out << text;
    throw;
  }
  const Notes notes = notes_of(loaded);
  const MatchResult plain = jolly_iris::match(notes, seen.all, settings);
  const Explanations why = explanations(notes, seen.all);
  const bool mended = !why.notes_agree && !why.none && settings.free.empty();
  const MatchResult& best = mended ? why.ranked.front().result : plain;
  Json json{{"discs", seen.found.discs.size()},
            {"discs_without_lamp", seen.discs_left},
            {"discs_overlapped", seen.discs_odd},
            {"file_says", json_of(against)},
            {"notes_agree", why.notes_agree},
            {"unexplained", why.none},
            {"noted_off_px", why.noted_off_px},
            {"explanations", json_of(why)},
            {"match", json_of(best)}};
  text += fmt::format(
      "{} discs in {}, {} of them lamps of the scene{}\n", seen.found.discs.size(), plate,
      seen.found.discs.size() - static_cast<std::size_t>(seen.discs_left + seen.discs_odd),
      seen.discs_odd == 0 ? "" : fmt::format("; something overlaps {}, left out", seen.discs_odd));
  for (const std::string& left : seen.left) text += wrapped(left, "  ", "    ");
  text += fmt::format("\n{}\n", explanations_text(why, seen.all.size()));
  if (mended) text += "With that mended (s are the note's own deviations):\n";
  text += unknowns_text(best) + iris_text(seen.found.iris, best.notes.lens) + "\n" +
          settle_text(best) + observations_text(best);
  if (options.accept) accept(options, loaded, why, best, seen.found.iris, json, text);
  say(options.shot.form, io, json.dump(2) + "\n", text);
}

}  // namespace jolly_iris::cli
