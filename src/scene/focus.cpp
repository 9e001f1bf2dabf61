#include "focus.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "jolly_iris/optics/errors.hpp"
#include "optics/nearest.hpp"
#include "optics/value_text.hpp"
#include "places.hpp"

namespace jolly_iris {

namespace {

Length part_of(const SubjectPlace& place, NodePart part) {
  switch (part) {
    case NodePart::origin:
      return place.origin;
    case NodePart::nearest:
      return place.front;
    case NodePart::middle:
      break;
  }
  return place.axial;
}

const SubjectPlace& find(const Shot& shot, const std::vector<SubjectPlace>& places,
                         const std::string& name) {
  const auto found = std::find_if(places.begin(), places.end(),
                                  [&](const SubjectPlace& s) { return s.name == name; });
  if (found != places.end()) return *found;
  std::vector<std::string> names;
  for (const SubjectPlace& s : places) names.push_back(s.name);
  throw UsageError(
      fmt::format("{}there is no subject '{}'.{}", shot.where("focus.on"), name,
                  names.empty() ? " The shot has no subjects." : did_you_mean(name, names)));
}

Length without_offset(const Focus& focus, const Shot& shot, const std::vector<SubjectPlace>& places,
                      const Pose& stand, Length guess) {
  if (focus.on) {
    const Length axial = part_of(find(shot, places, *focus.on), focus.part);
    if (axial.mm() > 0.0) return axial;
    throw OpticsError(
        fmt::format("{}'{}' is {:.4g} m behind the camera (or beside it); nothing there can be in "
                    "focus",
                    shot.where("focus.on"), *focus.on, -axial.m()),
        "focus.on");
  }
  if (focus.distance) return axial_of(*focus.distance, shot, stand, guess, "focus");
  if (focus.picked) return axial_of(focus.picked->distance, shot, stand, guess, "focus");
  if (focus.pixel || focus.area) {
    throw UsageError(shot.where(focus.pixel ? "focus.pixel" : "focus.area") +
                     "the focus is taken from a depth picture, which nobody has read; fill in "
                     "Focus::picked (see pick.hpp)");
  }
  if (!shot.take.mark) {
    throw OpticsError(shot.file +
                          ": there is no focus; give take.mark = \"2.4 m\" (what the barrel said), "
                          "or [focus] on = \"a subject\"",
                      "focus");
  }
  try {
    return focus_from_mark(shot.lens, *shot.take.mark);
  } catch (const OpticsError& e) {
    throw OpticsError(shot.where("take.mark") + e.what(), "take.mark");
  }
}

Length distance_of(const Focus& focus, const Shot& shot, const std::vector<SubjectPlace>& places,
                   const Pose& stand, Length guess) {
  const Length at = without_offset(focus, shot, places, stand, guess);
  const Length moved = at + focus.offset;
  if (!(moved.mm() > 0.0)) {
    throw OpticsError(fmt::format("{}an offset of {:.4g} m from {:.4g} m puts the focus behind the "
                                  "camera",
                                  shot.where("focus.offset"), focus.offset.m(), at.m()),
                      "focus.offset");
  }
  return moved;
}

std::string message(const Focus& focus, const Shot& shot) {
  std::string text;
  if (focus.on) {
    text = "on " + *focus.on;
    if (focus.part == NodePart::origin) text += "'s origin";
    if (focus.part == NodePart::nearest) text += "'s nearest point";
  } else if (focus.distance) {
    const DistanceEntry& d = *focus.distance;
    text = d.kind == DistanceKind::axial ? "at " + short_metres_text(d.length)
           : d.length.is_infinite()
               ? fmt::format("{} at infinity", to_string(d.kind))
               : fmt::format("{} {}", to_string(d.kind), short_metres_text(d.length));
  } else if (focus.picked) {
    text = focus.picked->message;
  } else if (shot.take.mark) {
    text = shot.take.mark->is_infinite() ? "mark at infinity"
                                         : "mark " + short_metres_text(*shot.take.mark);
  }
  if (focus.offset != Length{}) {
    text += fmt::format(", {} {}",
                        short_metres_text(focus.offset < Length{} ? -focus.offset : focus.offset),
                        focus.offset < Length{} ? "in front" : "behind");
  }
  return text;
}

}  // namespace

Length focus_of(const Shot& shot, const std::vector<SubjectPlace>& places, const Pose& stand,
                Length guess) {
  if (!shot.move) return distance_of(shot.focus, shot, places, stand, guess);
  const double from = 1.0 / distance_of(shot.move->from, shot, places, stand, guess).m();
  const double to = 1.0 / distance_of(shot.move->to, shot, places, stand, guess).m();
  // A hunt that strays past infinity rests there, as a barrel does at its stop.
  const double dioptres = std::max(0.0, between(shot.move->ease, from, to, shot.move->fraction));
  return dioptres > 0.0 ? Length::from_m(1.0 / dioptres) : Length::infinity();
}

std::string focus_description(const Shot& shot) {
  if (!shot.move) return message(shot.focus, shot);
  return fmt::format("from {} to {} ({:.0f} % of the time, {})", message(shot.move->from, shot),
                     message(shot.move->to, shot), 100.0 * shot.move->fraction,
                     to_string(shot.move->ease.kind));
}

}  // namespace jolly_iris
