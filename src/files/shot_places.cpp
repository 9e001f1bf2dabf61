#include <fmt/format.h>

#include <array>
#include <cmath>

#include "jolly_iris/optics/quantity.hpp"
#include "shot_sections.hpp"

namespace jolly_iris {

namespace {

struct Way {
  const char* key;
  DistanceKind kind;
};
constexpr std::array ways{Way{"at", DistanceKind::axial}, Way{"radial", DistanceKind::radial},
                          Way{"tape", DistanceKind::tape}, Way{"mark", DistanceKind::mark},
                          Way{"floor", DistanceKind::floor}};

// One of the five ways to say a distance, with what belongs to it.
std::optional<DistanceEntry> read_distance(ShotReader& in, const std::string& base) {
  std::optional<DistanceEntry> entry;
  for (const Way& way : ways) {
    const auto v =
        in.quantity<Length>(fmt::format("{}.{}", base, way.key), parse_distance, above_zero);
    if (v && !entry) entry = DistanceEntry{way.kind, *v, {}, {}, {}};
  }
  const std::function<std::string(const Angle&)> in_front = [](const Angle& a) {
    return std::abs(a.degrees()) < 90.0 ? "" : "is beside or behind the camera; it is under 90 deg";
  };
  const auto off_axis = in.quantity<Angle>(base + ".off_axis", parse_angle, in_front);
  const auto pixel = in.pixel(base + ".pixel");
  const auto height = in.quantity<Length>(base + ".height", parse_length);
  if (entry) {
    entry->off_axis = off_axis;
    entry->pixel = pixel;
    entry->height = height;
  }
  const bool needs_angle =
      entry && entry->kind != DistanceKind::axial && entry->kind != DistanceKind::mark;
  if (in.has(base + ".off_axis") && (!needs_angle || in.has(base + ".pixel"))) {
    in.mistake(base + ".off_axis", in.has(base + ".pixel")
                                       ? "and pixel both say where it is seen; give one of them"
                                       : "belongs to a radial, tape or floor distance");
  }
  if (in.has(base + ".height") && !(entry && entry->kind == DistanceKind::floor)) {
    in.mistake(base + ".height", "belongs to a floor distance: how high the thing is above it");
  }
  return entry;
}

// Which of these keys a section has; more than one is a mistake.
int count_given(ShotReader& in, const std::string& base, const std::vector<std::string>& keys,
                const std::string& what) {
  std::string given;
  std::string last;
  int count = 0;
  for (const std::string& key : keys) {
    const std::string full = fmt::format("{}.{}", base, key);
    if (!in.has(full)) continue;
    given += (count++ == 0 ? "" : " and ") + full;
    last = full;
  }
  if (count > 1) in.mistake(last, given + " are both given; " + what);
  return count;
}

}  // namespace

void read_subjects(ShotReader& in, std::vector<SubjectEntry>& subjects) {
  for (std::size_t i = 0;; ++i) {
    const std::string base = fmt::format("subject[{}]", i);
    const auto first = in.tree().lower_bound(base + ".");
    if (first == in.tree().end() || !first->first.starts_with(base + ".")) break;
    SubjectEntry entry;
    const auto name = in.text(base + ".name");
    entry.distance = read_distance(in, base);
    entry.place = in.place(base + ".place");
    entry.size = in.quantity<Length>(base + ".size", parse_length, above_zero);
    entry.deep = in.quantity<Length>(base + ".deep", parse_length, above_zero);
    if (!in.has(base + ".name")) {
      in.mistake(first->first, "this subject has no name; write name = \"boat\"");
    }
    const int given = count_given(in, base, {"at", "radial", "tape", "mark", "floor", "place"},
                                  "a subject is in one place");
    if (given == 0 && !entry.size) {
      in.mistake(first->first,
                 "this subject is nowhere; write at = \"2.35 m\" (axial, from the camera; or "
                 "radial, tape, mark, floor) or place = [x, y, z]");
    }
    if (given == 0 && entry.deep) {
      in.mistake(base + ".deep",
                 "is told by the scene's node itself; it belongs to a subject with "
                 "a distance or a place");
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

void read_focus(ShotReader& in, const std::string& base, Focus& focus) {
  focus.on = in.text(base + ".on");
  if (const auto v = in.choice<NodePart>(base + ".part", {{"middle", NodePart::middle},
                                                          {"origin", NodePart::origin},
                                                          {"nearest", NodePart::nearest}})) {
    focus.part = *v;
    if (!in.has(base + ".on")) {
      in.mistake(base + ".part", "says which part of a subject is meant; it belongs to on = …");
    }
  }
  focus.distance = read_distance(in, base);
  const auto area = in.choice<MiddleArea>(
      base + ".area", {{"nearest", MiddleArea::nearest}, {"median", MiddleArea::median}});
  focus.area = area;
  // A pixel with a distance says where that was measured; alone it asks the depth picture.
  if (!focus.distance && !focus.on) focus.pixel = in.pixel(base + ".pixel");
  if (const auto v = in.quantity<Length>(base + ".offset", parse_length)) focus.offset = *v;
  const bool alone = in.has(base + ".pixel") && focus.pixel;
  std::vector<std::string> rivals{"on", "at", "radial", "tape", "mark", "floor", "area"};
  if (alone) rivals.emplace_back("pixel");
  count_given(in, base, rivals, "the focus is one of them");
  if ((focus.pixel || focus.area) && !in.has("depth.file")) {
    in.mistake(base + (focus.pixel ? ".pixel" : ".area"),
               "is looked up in a depth picture; name it: [depth] file = \"depth.exr\"");
  }
}

}  // namespace jolly_iris
