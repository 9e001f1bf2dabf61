#include "report/solve_report.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/sharpness.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string number(double v) { return fmt::format("{:.6g}", v); }

// ---- stops
// ---------------------------------------------------------------------------------------

// Where the stop is wider than the lens opens, or than lenses are.
void add_stop(Solved& f, const Stop& stop, double effective, const Lens& lens, bool same_lens) {
  f.json["stop"] = stop.value;
  f.json["f_number"] = effective;
  const std::string doubt = real_lens_doubt(stop.value);
  if (!doubt.empty()) f.notes.push_back(doubt + ".");
  if (opens_to(lens, stop) || !same_lens || !doubt.empty()) return;
  f.notes.push_back(
      fmt::format("This lens opens to {} only: take another, or take it as a number "
                  "for CG.",
                  stop_text(*lens.widest)));
}

// What another stop costs: somebody must pay for its light.
void add_price(Solved& f, const Stop& stop, const Shot& shot) {
  const double darker = 2.0 * std::log2(marked_f_number(shot.lens, stop) /
                                        marked_f_number(shot.lens, shot.take.stop));
  if (std::abs(darker) < 0.05) return;
  f.json["light_stops"] = -darker;
  f.notes.push_back(
      fmt::format("That lets in {} {} light than {}: shutter, ISO, ND or the lights {}.",
                  stops_text(darker), darker > 0.0 ? "less" : "more", stop_text(shot.take.stop),
                  darker > 0.0 ? "must make up for it" : "must take it away"));
}

void add_diffraction(Solved& f, const LoadedShot& loaded, const VirtualCamera& camera) {
  const Length limit = coc_limit(loaded.now.criterion, loaded.now.body, camera);
  const Length airy = airy_diameter(camera);
  f.json["airy_px"] = to_pixels(airy, camera);
  if (airy <= limit) return;
  f.notes.push_back(
      fmt::format("Diffraction alone blurs by {:.1f} px there, more than the limit of {:.1f} px: "
                  "nothing gets as sharp as asked.",
                  to_pixels(airy, camera), to_pixels(limit, camera)));
}

// ---- leaning
// -------------------------------------------------------------------------------------

std::string lean_text(const Lean& lean) {
  const double tilt = lean.tilt.degrees();
  const double roll = lean.roll.degrees();
  std::string text = fmt::format("looks {:.2f} deg {}", std::abs(tilt), tilt < 0.0 ? "down" : "up");
  if (std::abs(roll) >= 0.005) {
    text += fmt::format(" and is rolled {:.2f} deg {}", std::abs(roll),
                        roll < 0.0 ? "counter-clockwise" : "clockwise");
  }
  return text;
}

std::string plate_lean_text(const LevelSolution& s) {
  return fmt::format("{} (± {:.2f} deg), by {} edges drawn in the plate{}",
                     lean_text(s.lines->lean), s.lines->tilt_deg.margin, s.lines->lines.size(),
                     s.lines_straightened ? ", without its distortion" : "");
}

// Which way a shift goes, in words: programs count it either way round.
std::string shift_text(Length shift, Length side, const char* plus, const char* minus,
                       const char* of) {
  if (std::abs(shift.mm()) < 5e-4) return "none";
  return fmt::format("{:.3f} mm {} = {:.4f} of the picture's {}", std::abs(shift.mm()),
                     shift.mm() > 0.0 ? plus : minus, std::abs(shift / side), of);
}

std::string span_text(const ClipSpan& s) {
  return s.to.is_infinite()
             ? fmt::format("anything beyond {}", metres_text(s.from))
             : fmt::format("anything from {} to {}", metres_text(s.from), metres_text(s.to));
}

}  // namespace

Solved say(const HoldSolution& s, const LoadedShot& loaded, const std::string& a,
           const std::string& b) {
  Solved f;
  f.text = fmt::format(
      "{} at {} and {} at {} are both just sharp:\n  focus {}, {} on the lens (f/{:.6g} with all "
      "that is mounted)\n",
      a, metres_text(s.near), b, metres_text(s.far),
      s.found.focus.is_infinite() ? "infinity" : fmt::format("{:.6f} m", s.found.focus.m()),
      fmt::format("f/{}", number(s.found.stop.value)), s.found.f_number);
  f.json["focus_m"] = metres_json(s.found.focus);
  if (s.closed_for_faults) {
    f.notes.emplace_back(
        "A perfect lens could be opened wider; this one's faults (or the cheat) blur by more, and "
        "are counted.");
  }
  add_stop(f, s.found.stop, s.found.f_number, loaded.now.lens, true);
  add_price(f, s.found.stop, loaded.now);
  add_diffraction(f, loaded, s.camera);
  return f;
}

Solved say(const BlurSolution& s, const LoadedShot& loaded) {
  const Shot& shot = loaded.now;
  Solved f;
  const bool itself = s.at == metres_text(s.z);  // "infinity at infinity" says nothing
  const std::string wish =
      fmt::format("{}{} is blurred by {:.4g} px", s.at, itself ? "" : " at " + metres_text(s.z),
                  to_pixels(s.coc, s.now));
  if (s.stop) {
    f.text = fmt::format("{} at:\n  f/{} on the lens instead of {}\n", wish, number(s.stop->value),
                         stop_text(shot.take.stop));
    add_stop(f, *s.stop, shot.lens.adapter * s.stop->value, shot.lens, true);
    add_price(f, *s.stop, shot);
    add_diffraction(f, loaded, s.camera);
    return f;
  }
  f.text = fmt::format(
      "{} at {}, with what is in focus as large as now, by:\n  a lens of {} mm at {} from it "
      "(instead of {:.4g} mm at {})\n",
      wish, stop_text(shot.take.stop), number(s.lens->focal.mm()), metres_text(s.lens->distance),
      shot.lens.focal.mm(), metres_text(s.now.focus));
  f.json["focal_mm"] = s.lens->focal.mm();
  f.json["distance_m"] = s.lens->distance.m();
  f.notes.push_back(
      fmt::format("The camera moves {:.4g} m {} for that: in the picture everything behind what is "
                  "in focus changes its size.",
                  std::abs(s.lens->distance.m() - s.now.focus.m()),
                  s.lens->distance > s.now.focus ? "back" : "closer"));
  if (!shot.scene) {
    f.notes.emplace_back(
        "The shot has no scene whose camera could move: the distances of its subjects are to be "
        "changed in the file.");
  }
  return f;
}

Solved say(const BodySolution& s, const LoadedShot& loaded) {
  Solved f;
  const Extent gate = recorded_gate(s.body);
  f.text = fmt::format(
      "The same picture, framed and blurred alike at every distance, on {} ({:.4g} x {:.4g} mm):\n"
      "  a lens of {} mm at f/{}{}, focused at the same {}\n",
      s.body.name.empty() ? s.file : s.body.name, gate.width.mm(), gate.height.mm(),
      number(s.found.focal.mm()), number(s.found.stop.value),
      s.adapter != 1.0 ? fmt::format(" behind it a {:g} x adapter", s.adapter) : "",
      metres_text(loaded.answer.camera.focus));
  f.json["focal_mm"] = s.found.focal.mm();
  add_stop(f, s.found.stop, s.found.f_number, loaded.now.lens, false);
  return f;
}

Solved say(const LevelSolution& s, const LoadedShot& loaded) {
  const VirtualCamera& camera = loaded.answer.camera;
  const VirtualCamera& c = s.level.camera;
  Solved f;
  const std::string by = s.from == LeanFrom::lines
                             ? plate_lean_text(s)
                             : lean_text(s.lean) + (loaded.now.scene ? ", as it stands in the scene"
                                                    : loaded.now.track ? ", by its track"
                                                                       : ", by take.tilt");
  if (s.plate_disagrees) {
    f.notes.push_back(fmt::format(
        "The plate says otherwise: it {}. Take that instead with --by lines.", plate_lean_text(s)));
  }
  f.text = wrapped(
      fmt::format("The camera {}. Level, with its lens shifted, it shows the same with verticals "
                  "parallel; what is at ({:.0f}, {:.0f}) px keeps its place and size:",
                  by, s.level.kept[0], s.level.kept[1]),
      "", "");
  const auto row = [&](const char* name, const std::string& value) {
    f.text += fmt::format("  {:<16}{}\n", name, value);
  };
  row("focal length",
      fmt::format("{:.3f} mm instead of {:.3f} mm", c.focal.mm(), camera.focal.mm()));
  row("f-number", fmt::format("f/{:.4f}, the same opening of {:.2f} mm", c.f_number,
                              2.0 * c.aperture_radius.mm()));
  row("focus distance", metres_text(c.focus) + ", along the level axis");
  row("shift up", shift_text(c.shift_up, c.picture.height, "up", "down", "height"));
  row("shift right",
      shift_text(c.shift_right, c.picture.width, "to the right", "to the left", "width"));
  const double diagonal = std::hypot(c.picture.width.mm(), c.picture.height.mm());
  row("image circle",
      fmt::format("{:.1f} mm; unshifted it takes {:.1f} mm", s.level.image_circle.mm(), diagonal));
  f.json["tilt_deg"] = s.lean.tilt.degrees();
  f.json["roll_deg"] = s.lean.roll.degrees();
  f.json["focal_mm"] = c.focal.mm();
  f.json["f_number"] = c.f_number;
  f.json["focus_m"] = metres_json(c.focus);
  f.json["shift_up_mm"] = c.shift_up.mm();
  f.json["shift_right_mm"] = c.shift_right.mm();
  f.json["shift_up_of_height"] = c.shift_up / c.picture.height;
  f.json["shift_right_of_width"] = c.shift_right / c.picture.width;
  f.json["image_circle_mm"] = s.level.image_circle.mm();
  f.notes.emplace_back(
      "Up means that the picture shows more of what is above, as when the lens is moved up; a "
      "program that moves the sensor or the picture instead wants the other sign.");
  f.notes.emplace_back(
      "The focus plane stands upright then: what is above or below the kept place may be a little "
      "sharper or softer than before.");
  if (camera.distortion.any()) {
    f.notes.emplace_back(
        "The plate's distortion is undone first: this is about straight pictures.");
  }
  if (!s.lens) {
    f.notes.emplace_back(
        "With what is mounted in front of this lens, type these numbers into the CG "
        "camera; no marked focal length stands for them.");
  }
  return f;
}

Solved say(const Clip& clip, const LoadedShot& loaded, const std::vector<std::string>& nodes) {
  Solved f;
  std::string names;
  for (const std::string& name : nodes) names += (names.empty() ? "" : ", ") + name;
  f.text = fmt::format("Without {}, and with everything else that the picture shows:\n", names);
  const auto add = [&](const char* name, const char* key, const std::optional<ClipSpan>& span) {
    f.json[key] = span ? Json(span->distance.m()) : Json(nullptr);
    if (!span) return;
    f.text += fmt::format("  {:<16}{} = {} units of {}; {} does it\n", name,
                          metres_text(span->distance), in_units(span->distance, loaded.now.unit),
                          unit_text(loaded.now.unit), span_text(*span));
  };
  add("near clip", "near_m", clip.near);
  add("far clip", "far_m", clip.far);
  f.notes.emplace_back(
      "Along the view axis, from the camera's origin. What is clipped away throws no shadow and no "
      "light any more, unless the renderer keeps it for both.");
  return f;
}

}  // namespace jolly_iris::report
