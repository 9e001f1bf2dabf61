#include "notes.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/errors.hpp"

namespace jolly_iris {

namespace {

using Notes = std::vector<std::string>;

std::string metres(Length l) {
  return l.is_infinite() ? "infinity" : fmt::format("{:.4g} m", l.m());
}

void say_opening(const Shot& shot, const Answer& a, Notes& notes) {
  const double n = marked_f_number(shot.lens, shot.take.stop);
  notes.push_back(fmt::format(
      "{}{:.3g} is an opening of {:.3g} mm. A smaller number is a wider opening: less is sharp.",
      shot.take.stop.kind == Stop::Kind::f ? "f/" : "T", shot.take.stop.value,
      2.0 * a.camera.aperture_radius.mm()));
  if (shot.lens.adapter != 1.0) {
    notes.push_back(fmt::format(
        "The adapter ({:g} x) turns the lens's f/{:.3g} into f/{:.3g} and its {:.4g} mm into "
        "{:.4g} mm; the opening itself stays the same.",
        shot.lens.adapter, n, a.camera.lens_f_number, shot.lens.focal.mm(),
        a.camera.lens_focal.mm()));
  }
}

void say_focus(const Shot& shot, const Answer& a, Notes& notes) {
  if (a.camera.focus.is_finite() && a.camera.magnification > 0.002) {
    notes.push_back(fmt::format(
        "Focused this close the lens frames like {:.4g} mm, not {:.4g} mm: type in the left column "
        "as a pair. The right one would blur {:.1f} % too little.",
        a.camera.focal.mm(), a.camera.lens_focal.mm(),
        100.0 * (1.0 - a.camera.lens_focal / a.camera.focal)));
  }
  const bool chosen = shot.focus.on || shot.focus.at || shot.focus.mark;
  if (!chosen || !shot.take.mark) return;
  try {
    const Length by_mark = focus_from_mark(shot.lens, *shot.take.mark);
    const Length by_focus = a.camera.focus;
    if (by_mark.is_infinite() && by_focus.is_infinite()) return;
    const Length mark = mark_from_focus(shot.lens, by_focus);
    notes.push_back(fmt::format(
        "The barrel's mark of {} (from the sensor) means {} from the camera's origin; the CG "
        "camera focuses {} at {}, which the barrel would show as {}.",
        metres(*shot.take.mark), metres(by_mark), a.focus_said, metres(by_focus), metres(mark)));
  } catch (const OpticsError& e) {
    notes.push_back(std::string("The take's mark cannot be right: ") + e.what() + ".");
  }
}

void say_shape(const Shot& shot, const Answer& a, Notes& notes) {
  const double gate = a.camera.gate.width / a.camera.gate.height;
  const double picture =
      static_cast<double>(a.camera.pixels.width) / static_cast<double>(a.camera.pixels.height);
  if (std::abs(gate / picture - 1.0) > 0.005) {
    notes.push_back(
        fmt::format("The gate is {:.4g} : 1 but the picture is {:.4g} : 1; the picture's width is "
                    "taken to show "
                    "the gate's whole width.",
                    gate, picture));
  }
  if (shot.lens.squeeze != 1.0) {
    notes.push_back(fmt::format(
        "With a {:g} x squeeze the desqueezed gate is {:.4g} mm wide; blur sizes are vertical, and "
        "discs are {}.",
        shot.lens.squeeze, a.camera.gate.width.mm(),
        shot.lens.squeeze_at == SqueezeAt::front
            ? fmt::format("{:g} times as tall as wide", shot.lens.squeeze)
            : "as wide as tall, since the squeeze sits behind the iris"));
  }
}

void say_subjects(const Answer& a, const Notes& behind, Notes& notes) {
  bool any_blurred = !a.infinity.sharp;
  for (const SubjectBlur& s : a.subjects) any_blurred = any_blurred || !s.sharp;
  if (!any_blurred) {
    notes.push_back("Everything is sharp: turning depth of field on will change nothing.");
  }
  std::string outside;
  for (const SubjectBlur& s : a.subjects) {
    if (!s.in_picture) outside += (outside.empty() ? "" : ", ") + s.name;
  }
  if (!outside.empty()) notes.push_back("Outside the picture: " + outside + ".");
  if (!behind.empty()) {
    std::string list;
    for (const std::string& name : behind) list += (list.empty() ? "" : ", ") + name;
    notes.push_back("Behind the camera: " + list + ".");
  }
  const Length airy = airy_diameter(a.camera);
  if (airy > a.coc_limit) {
    notes.push_back(fmt::format(
        "Diffraction alone blurs {:.4f} mm, more than the limit of {:.4f} mm: closing down further "
        "sharpens nothing.",
        airy.mm(), a.coc_limit.mm()));
  }
}

void say_light(const Shot& shot, const Answer& a, Notes& notes) {
  if (!a.ev100) {
    notes.push_back(!shot.take.iso       ? "No exposure value: take.iso is not known."
                    : !shot.take.shutter ? "No exposure value: take.shutter is not known."
                                         : "No exposure value: a shutter angle needs take.fps.");
    return;
  }
  if (shot.take.stop.kind == Stop::Kind::f && !shot.lens.transmission) {
    notes.push_back(
        "The lens's transmission is not known and counts as 1: its T-number is taken "
        "to be its f-number.");
  }
}

}  // namespace

Notes notes_for(const Shot& shot, const Answer& answer, const Notes& behind) {
  Notes notes;
  say_opening(shot, answer, notes);
  say_focus(shot, answer, notes);
  say_shape(shot, answer, notes);
  say_subjects(answer, behind, notes);
  say_light(shot, answer, notes);
  return notes;
}

}  // namespace jolly_iris
