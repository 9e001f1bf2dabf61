#include "jolly_iris/shot_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <limits>
#include <tuple>

#include "jolly_iris/disk.hpp"
#include "jolly_iris/nearest.hpp"
#include "jolly_iris/quantity.hpp"
#include "shot_reader.hpp"
#include "toml_tree.hpp"

namespace jolly_iris {

namespace {

constexpr double tiny = std::numeric_limits<double>::min();
constexpr double huge = 1e12;

std::string positive(const Length& l) {
  return l.mm() > 0.0 ? "" : "is not above zero; a length here is greater than zero";
}

std::string positive_extent(const Extent& e) {
  return e.width.mm() > 0.0 && e.height.mm() > 0.0
             ? ""
             : "has a side that is not above zero; write e.g. 24.6 x 13.8 mm";
}

// The path of a file named in another file.
std::string beside(const std::string& file, const std::string& name) {
  return (std::filesystem::path(file).parent_path() / name).string();
}

// ---- from files to one tree ---------------------------------------------------------------------

// Puts the keys of the body or lens file that a section names below that section's own keys.
void merge_part(const std::string& section, const std::string& shot_file, TomlTree& tree,
                std::vector<std::string>& files) {
  const bool short_form = tree.contains(section);
  const std::string key = short_form ? section : section + ".file";
  const auto named = tree.find(key);
  if (named == tree.end()) return;
  const auto* name = std::get_if<std::string>(&named->second.data);
  if (name == nullptr || named->second.odd || name->empty()) return;  // told when the key is read
  const std::string path = beside(shot_file, *name);
  std::string text;
  try {
    text = read_whole_file(path);
  } catch (const FileError& e) {
    throw FileError(fmt::format("{}: {}: {}", named->second.place, key, e.what()));
  }
  files.push_back(path);
  for (auto& [k, value] : parse_toml(text, path)) tree.try_emplace(section + "." + k, value);
}

// "subject.boat.at" → "subject[0].at", whichever number the boat has.
std::string numbered_subject(const TomlTree& tree, const std::string& key) {
  constexpr std::string_view prefix = "subject.";
  if (!key.starts_with(prefix)) return key;
  const std::size_t dot = key.rfind('.');
  if (dot < prefix.size()) return key;
  const std::string name = key.substr(prefix.size(), dot - prefix.size());
  std::vector<std::string> names;
  for (std::size_t i = 0;; ++i) {
    const auto entry = tree.find(fmt::format("subject[{}].name", i));
    if (entry == tree.end()) break;
    const auto* own = std::get_if<std::string>(&entry->second.data);
    if (own == nullptr) continue;
    if (*own == name) return fmt::format("subject[{}]{}", i, key.substr(dot));
    names.push_back(*own);
  }
  throw UsageError(fmt::format("--set {}: the shot file has no subject '{}'.{}", key, name,
                               did_you_mean(name, names)));
}

void apply_tried(const std::vector<Tried>& tried, TomlTree& tree) {
  for (const Tried& t : tried) {
    if (t.key.starts_with("focus.")) {
      // The three ways to say a focus exclude each other; the tried one replaces the noted one.
      for (const char* rival : {"focus.on", "focus.at", "focus.mark"}) tree.erase(rival);
    }
    const std::string key = numbered_subject(tree, t.key);
    tree.insert_or_assign(key, tried_value(t.text));
  }
}

// ---- from the tree to the shot ------------------------------------------------------------------

void read_name_and_file(ShotReader& in, const std::string& section, std::string& name) {
  in.text(section);
  in.text(section + ".file");
  if (const auto v = in.text(section + ".name")) name = *v;
}

void read_body(ShotReader& in, Body& body) {
  read_name_and_file(in, "body", body.name);
  in.require("body.gate", "gate = \"24.6 x 13.8 mm\" (width x height of the recorded area)");
  in.require("body.pixels", "pixels = \"3840 x 2160\"");
  if (const auto v = in.quantity<Extent>("body.gate", parse_extent, positive_extent)) {
    body.gate = *v;
  }
  if (const auto v = in.quantity<PixelSize>("body.pixels", parse_pixel_size)) body.pixels = *v;
  body.photosites = in.quantity<PixelSize>("body.photosites", parse_pixel_size);
}

void read_iris(ShotReader& in, Iris& iris) {
  const std::string wanted = "a number of blades; write 0 (round) or 3 to 32";
  if (const auto v = in.number("lens.iris.blades", 0, 32, wanted)) {
    if (*v != std::floor(*v) || *v == 1.0 || *v == 2.0) {
      in.mistake("lens.iris.blades", fmt::format("'{:g}' is not {}", *v, wanted));
    } else {
      iris.blades = static_cast<int>(*v);
    }
  }
  if (const auto v = in.quantity<Angle>("lens.iris.rotation", parse_angle)) iris.rotation = *v;
  if (const auto v = in.quantity<BladeRadius>("lens.iris.blade_radius", parse_blade_radius)) {
    iris.blade_radius = *v;
  }
  if (const auto v = in.choice<SizeBy>("lens.iris.size_by",
                                       {{"area", SizeBy::area}, {"corners", SizeBy::corners}})) {
    iris.size_by = *v;
  }
}

void read_projection(ShotReader& in) {
  const std::string key = "lens.projection";
  const auto v = in.choice<bool>(key, {{"rectilinear", true},
                                       {"fisheye", false},
                                       {"panorama", false},
                                       {"orthographic", false},
                                       {"stereo pair", false}});
  if (v && !*v) {
    const TomlValue& value = in.tree().at(key);
    throw OpticsError(
        fmt::format("{}: {}: a {} camera is out of scope: blur and framing are computed for one "
                    "rectilinear lens",
                    value.place, key, value.text),
        key);
  }
}

void read_lens(ShotReader& in, Lens& lens) {
  read_name_and_file(in, "lens", lens.name);
  in.require("lens.focal", "focal = \"58 mm\"");
  if (const auto v = in.quantity<Length>("lens.focal", parse_length, positive)) lens.focal = *v;
  const std::string factor = "a factor above zero; write e.g. 0.71 for a reducer";
  const std::string share = "a share of the light, more than 0 and at most 1";
  if (const auto v = in.number("lens.adapter", tiny, huge, factor)) lens.adapter = *v;
  if (const auto v = in.number("lens.adapter_transmission", tiny, 1.0, share)) {
    lens.adapter_transmission = *v;
  }
  lens.transmission = in.number("lens.transmission", tiny, 1.0, share);
  if (const auto v = in.number("lens.squeeze", 1.0, huge, "a squeeze of 1 (none) or more")) {
    lens.squeeze = *v;
  }
  if (const auto v = in.choice<SqueezeAt>(
          "lens.squeeze_at", {{"front", SqueezeAt::front}, {"rear", SqueezeAt::rear}})) {
    lens.squeeze_at = *v;
  }
  lens.pupil = in.quantity<Length>("lens.pupil", parse_length);
  read_projection(in);
  read_iris(in, lens.iris);
}

void read_take(ShotReader& in, Take& take) {
  in.require("take.stop", "stop = \"f/2\" or \"T2.1\"");
  if (const auto v = in.quantity<Stop>("take.stop", parse_stop)) take.stop = *v;
  take.mark = in.quantity<Length>("take.mark", parse_distance, positive);
  take.iso = in.number("take.iso", tiny, huge, "an ISO above zero; write e.g. 800");
  take.shutter = in.quantity<Shutter>("take.shutter", parse_shutter);
  take.fps = in.number("take.fps", tiny, huge, "a frame rate above zero; write e.g. 24");
  if (const auto v = in.quantity<double>("take.nd", parse_density)) take.nd_stops = *v;
}

void read_focus(ShotReader& in, Focus& focus) {
  focus.on = in.text("focus.on");
  focus.at = in.quantity<Length>("focus.at", parse_distance, positive);
  focus.mark = in.quantity<Length>("focus.mark", parse_distance, positive);
  std::string given;
  std::string last;
  int count = 0;
  for (const char* key : {"focus.on", "focus.at", "focus.mark"}) {
    if (!in.has(key)) continue;
    given += (count++ == 0 ? "" : " and ") + std::string(key);
    last = key;
  }
  if (count > 1) in.mistake(last, given + " are both given; the focus is one of them");
}

void read_subjects(ShotReader& in, std::vector<SubjectEntry>& subjects) {
  for (std::size_t i = 0;; ++i) {
    const std::string base = fmt::format("subject[{}]", i);
    const auto first = in.tree().lower_bound(base + ".");
    if (first == in.tree().end() || !first->first.starts_with(base + ".")) break;
    SubjectEntry entry;
    const auto name = in.text(base + ".name");
    entry.at = in.quantity<Length>(base + ".at", parse_distance, positive);
    entry.place = in.place(base + ".place");
    entry.size = in.quantity<Length>(base + ".size", parse_length, positive);
    if (!in.has(base + ".name")) {
      in.mistake(first->first, "this subject has no name; write name = \"boat\"");
    }
    const bool both = in.has(base + ".at") && in.has(base + ".place");
    const bool none = !in.has(base + ".at") && !in.has(base + ".place");
    if (both || (none && !entry.size)) {
      in.mistake(first->first, both ? "this subject has both at and place; give one of them"
                                    : "this subject is nowhere; write at = \"2.35 m\" (axial, from "
                                      "the camera) or place = [x, y, z]");
    }
    if (!name) continue;
    entry.name = *name;
    for (const SubjectEntry& other : subjects) {
      if (other.name != entry.name) continue;
      in.mistake(base + ".name", fmt::format("'{}' is a subject already; give it another name, or "
                                             "one entry with all that is known of it",
                                             entry.name));
    }
    subjects.push_back(entry);
  }
}

void read_files(ShotReader& in, const std::string& file, Shot& shot) {
  const auto scene = in.text("scene.file");
  const auto camera = in.text("scene.camera");
  if (scene)
    shot.scene = SceneEntry{beside(file, *scene), camera};
  else if (camera)
    in.mistake("scene.camera", "names a camera, but scene.file is missing");
  const auto plate = in.text("plate.file");
  const auto transfer = in.choice<Transfer>(
      "plate.transfer",
      {{"linear", Transfer::linear}, {"sRGB", Transfer::srgb}, {"Rec.709", Transfer::rec709}});
  if (plate) shot.plate = PlateEntry{beside(file, *plate), transfer};
}

// By file, then from top to bottom, as a person goes through them.
bool in_reading_order(const Mistake& a, const Mistake& b) {
  const auto split = [](const std::string& place) {
    int line = 0;
    int column = 0;
    const auto second = place.rfind(':');
    const auto first =
        second == std::string::npos || second == 0 ? second : place.rfind(':', second - 1);
    if (first == std::string::npos || first == second) return std::tuple(place, line, column);
    std::from_chars(place.data() + first + 1, place.data() + second, line);
    std::from_chars(place.data() + second + 1, place.data() + place.size(), column);
    return std::tuple(place.substr(0, first), line, column);
  };
  return split(a.place) < split(b.place);
}

Length parse_unit(std::string_view text) {
  // "cm" is how people say it; "0.353 mm" is for scenes that count in something odd.
  try {
    return parse_length(fmt::format("1 {}", text));
  } catch (const QuantityError&) {
    return parse_length(text);
  }
}

}  // namespace

Shot read_shot(const std::filesystem::path& path, const std::vector<Tried>& tried) {
  Shot shot;
  shot.file = path.string();
  shot.files.push_back(shot.file);
  const std::string text = read_whole_file(path);
  if (text.find('\0') != std::string::npos) {
    throw FileError(shot.file +
                    ": is not text, so it is no shot file. To begin one from a plate: "
                    "jolly-iris start PLATE");
  }
  TomlTree tree = parse_toml(text, shot.file);
  apply_tried(tried, tree);  // first, so that another body or lens file can be tried too
  for (const char* section : {"body", "lens"}) merge_part(section, shot.file, tree, shot.files);
  ShotReader in(std::move(tree));
  if (const auto v = in.quantity<Length>("unit", parse_unit, positive)) shot.unit = *v;
  if (const auto v = in.quantity<Criterion>("criterion", parse_criterion)) shot.criterion = *v;
  read_body(in, shot.body);
  read_lens(in, shot.lens);
  read_take(in, shot.take);
  read_focus(in, shot.focus);
  read_subjects(in, shot.subjects);
  read_files(in, shot.file, shot);
  in.check_unknown();
  if (!in.good()) {
    auto mistakes = in.mistakes();
    for (Mistake& m : mistakes) {
      if (m.place.empty()) m.place = shot.file;
    }
    std::stable_sort(mistakes.begin(), mistakes.end(), in_reading_order);
    throw ShotFileError(std::move(mistakes));
  }
  shot.origins = in.origins();
  return shot;
}

}  // namespace jolly_iris
