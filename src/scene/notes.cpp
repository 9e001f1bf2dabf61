#include "notes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris {

namespace {

using Notes = std::vector<std::string>;

void say_opening(const Shot& shot, const Answer& a, Notes& notes) {
  const double n = marked_f_number(shot.lens, shot.take.stop);
  notes.push_back(fmt::format(
      "{}{:.3g} is an opening of {:.3g} mm. A smaller number is a wider opening: less is sharp.",
      shot.take.stop.kind == Stop::Kind::f ? "f/" : "T", shot.take.stop.value,
      2.0 * without_blur_override(a.camera).aperture_radius.mm()));
  if (shot.lens.adapter != 1.0) {
    notes.push_back(fmt::format(
        "The adapter ({:g} x) turns the lens's f/{:.3g} into f/{:.3g} and its {:.4g} mm into "
        "{:.4g} mm; the opening itself stays the same.",
        shot.lens.adapter, n, a.camera.lens_f_number, shot.lens.focal.mm(),
        a.camera.lens_focal.mm()));
  }
}

void say_attachments(const Shot& shot, const Answer& a, Notes& notes) {
  if (shot.lens.converter != 1.0) {
    notes.push_back(fmt::format(
        "The converter ({:g} x) in front makes {:.4g} mm out of the lens's {:.4g} mm and keeps its "
        "f-number; what the barrel calls 1 m is {:.4g} m then.",
        shot.lens.converter, shot.lens.converter * shot.lens.focal.mm(), shot.lens.focal.mm(),
        shot.lens.converter * shot.lens.converter));
  }
  if (shot.lens.close_up.dioptres() > 0.0) {
    notes.push_back(fmt::format(
        "With the close-up attachment ({:g} dioptres) the lens focuses no farther than {:.4g} m.",
        shot.lens.close_up.dioptres(), farthest_focus(shot.lens).m()));
  }
  if (shot.lens.close_focus && a.mark && *a.mark < *shot.lens.close_focus) {
    notes.push_back(fmt::format(
        "Warning: the barrel would have to stand at {}, but the lens's nearest mark is {}: the "
        "real lens could not do this.",
        short_metres_text(*a.mark), short_metres_text(*shot.lens.close_focus)));
  }
  if (a.mark && beyond_table(shot.lens.breathing, *a.mark)) {
    notes.push_back(fmt::format(
        "The measured breathing ends before the mark of {}; its end is held from there on.",
        short_metres_text(*a.mark)));
  }
  if (a.mark && beyond_table(shot.lens.squeezes, *a.mark)) {
    notes.push_back(fmt::format(
        "The measured squeeze ends before the mark of {}; its end is held from there on.",
        short_metres_text(*a.mark)));
  }
  if (shot.lens.pupil) {
    std::string where = fmt::format(
        "The camera's origin (the entrance pupil) belongs {:.4g} mm in front of the sensor plane",
        shot.lens.pupil->mm());
    if (shot.body.flange) {
      const Length ahead = *shot.lens.pupil - *shot.body.flange;
      where += fmt::format(", {:.4g} mm {} the mount", std::abs(ahead.mm()),
                           ahead.mm() < 0.0 ? "behind" : "in front of");
    }
    notes.push_back(where + ".");
  }
}

void say_focus(const Shot& shot, const Answer& a, Notes& notes) {
  const double breathing = a.camera.focal / a.camera.lens_focal;
  if (a.camera.focus.is_finite() && std::abs(breathing - 1.0) > 0.002) {
    notes.push_back(fmt::format(
        "Focused this close the lens frames like {:.4g} mm, not {:.4g} mm: type in the left column "
        "as a pair. The right one would blur {:.1f} % too {}.",
        a.camera.focal.mm(), a.camera.lens_focal.mm(), 100.0 * std::abs(1.0 - 1.0 / breathing),
        breathing > 1.0 ? "little" : "much"));
  }
  if ((!shot.focus.any() && !shot.move) || !shot.take.mark) return;
  try {
    const Length by_mark = focus_from_mark(shot.lens, *shot.take.mark);
    const Length by_focus = a.camera.focus;
    if (by_mark.is_infinite() && by_focus.is_infinite()) return;
    notes.push_back(fmt::format(
        "The barrel's mark of {} (from the sensor) means {} from the camera's origin; the CG "
        "camera focuses {} at {}, which the barrel would show as {}.",
        short_metres_text(*shot.take.mark), short_metres_text(by_mark), a.focus_description,
        short_metres_text(by_focus), short_metres_text(a.mark.value_or(by_focus))));
  } catch (const OpticsError& e) {
    notes.push_back(std::string("The take's mark cannot be right: ") + e.what() + ".");
  }
}

void say_shape(const Shot& shot, const Answer& a, Notes& notes) {
  const VirtualCamera& c = a.camera;
  if (shot.body.window) {
    const Extent recorded = recorded_gate(shot.body);
    notes.push_back(fmt::format(
        "The window reads {} x {} of {} x {} photosites: the gate shrinks from {:.4g} x {:.4g} to "
        "{:.4g} x {:.4g} mm.",
        shot.body.window->width, shot.body.window->height, shot.body.photosites->width,
        shot.body.photosites->height, shot.body.gate.width.mm(), shot.body.gate.height.mm(),
        recorded.width.mm(), recorded.height.mm()));
  }
  const double gate = c.gate.width / c.gate.height;
  const double picture = c.picture.width / c.picture.height;
  if (std::abs(gate / picture - 1.0) > 0.005) {
    notes.push_back(fmt::format(
        "The gate is {:.4g} : 1 but the picture is {:.4g} : 1; it keeps the {} and shows {:.4g} x "
        "{:.4g} mm: {:.2f} x {:.2f} deg instead of the gate's {:.2f} x {:.2f}.",
        gate, picture,
        shot.body.keeps == FitMode::no_bars      ? "gate without bars"
        : shot.body.keeps == FitMode::whole_gate ? "whole gate, with bars"
        : shot.body.keeps == FitMode::gate_width ? "gate's width"
                                                 : "gate's height",
        c.picture.width.mm(), c.picture.height.mm(), c.horizontal_picture_view().degrees(),
        c.vertical_picture_view().degrees(), c.horizontal_field_of_view().degrees(),
        c.vertical_field_of_view().degrees()));
  }
  const double higher = c.picture.height / c.gate.height;
  const double wider = c.picture.width / c.gate.width;
  if (std::max(higher, wider) > 1.005 && shot.body.keeps != FitMode::whole_gate) {
    const bool in_height = higher > wider;
    notes.push_back(fmt::format(
        "Warning: the picture shows {:.4g} mm of {}, but only {:.4g} mm were recorded: nothing "
        "fills it. {}body.keeps = \"no bars\" takes what both have.",
        in_height ? c.picture.height.mm() : c.picture.width.mm(), in_height ? "height" : "width",
        in_height ? c.gate.height.mm() : c.gate.width.mm(),
        c.squeeze != 1.0 && in_height
            ? "Was less of the sensor's width recorded (body.window, or a narrower gate)? "
            : ""));
  }
  if (shot.body.pixel_aspect != 1.0) {
    notes.push_back(
        fmt::format("Pixels are {:g} times as wide as high: blur in px counts their height.",
                    shot.body.pixel_aspect));
  }
  if (c.squeeze != 1.0) {
    // Desqueezed by the nominal S₀, a front-squeezed disc is S²/S₀ times taller than wide.
    const double tall =
        (c.squeeze_at == SqueezeAt::front ? c.squeeze : 1.0) * c.squeeze / shot.lens.squeeze;
    notes.push_back(fmt::format(
        "With a {:.4g} x squeeze the desqueezed gate is {:.4g} mm wide; blur sizes are vertical, "
        "and discs are {}.",
        c.squeeze, c.gate.width.mm(),
        c.squeeze_at == SqueezeAt::front || c.squeeze != shot.lens.squeeze
            ? fmt::format("{:.4g} times as tall as wide", tall)
            : "as wide as tall, since the squeeze sits behind the iris"));
    if (std::abs(c.squeeze / shot.lens.squeeze - 1.0) > 1e-6) {
      notes.push_back(fmt::format(
          "At this focus the squeeze is {:.4g} x, but the picture is desqueezed by the nominal "
          "{:g} x: round things in focus come out {:.3g} times as wide as tall.",
          c.squeeze, shot.lens.squeeze, shot.lens.squeeze / c.squeeze));
    }
  }
  if (c.shift_up != Length{} || c.shift_right != Length{}) {
    std::string moved;
    const auto add = [&](Length by, const char* plus, const char* minus) {
      if (by == Length{}) return;
      moved += fmt::format("{}{:.4g} mm {}", moved.empty() ? "" : " and ", std::abs(by.mm()),
                           by.mm() > 0.0 ? plus : minus);
    };
    add(c.shift_up, "up", "down");
    add(c.shift_right, "to the right", "to the left");
    notes.push_back("The lens is shifted: the picture shows more of what is there, " + moved +
                    " on the gate.");
  }
}

// What bends lines, and what makes them converge: people take the one for the other.
void say_lines(const Answer& a, Notes& notes) {
  const Lean lean = lean_of(a.place);
  const double converging = max_convergence(a.camera, lean).degrees();
  const bool leans = converging > 0.2;
  if (!a.camera.distortion.any() && !leans) return;
  std::string message;
  if (a.camera.distortion.any()) {
    const DistortionFigures f = figures_of_distortion(a.camera);
    message = fmt::format(
        "Distortion, which the CG camera has not: {}, {:.1f} % ({:.0f} px) at the corner; the "
        "frame's long edge sags by {:.1f} px",
        f.kind, std::abs(f.corner_percent), std::abs(f.corner_px), f.bend_px);
  } else {
    message = "No distortion is given";
  }
  if (leans) {
    std::string how;
    if (std::abs(lean.tilt.degrees()) >= 0.05) {
      how = fmt::format("looks {:.1f} deg {}", std::abs(lean.tilt.degrees()),
                        lean.tilt.radians() > 0.0 ? "up" : "down");
    }
    if (std::abs(lean.roll.degrees()) >= 0.05) {
      how += fmt::format("{}is rolled {:.1f} deg {}", how.empty() ? "" : " and ",
                         std::abs(lean.roll.degrees()),
                         lean.roll.radians() > 0.0 ? "clockwise" : "counter-clockwise");
    }
    message += fmt::format(
        "; perspective, which the CG camera has too: it {}, so verticals lean by up to {:.1f} deg.",
        how, converging);
  } else {
    message += "; the camera stands level: no perspective makes verticals lean.";
  }
  notes.push_back(message);
}

void add_override_notes(const Shot& shot, const Answer& a, Notes& notes) {
  if (!shot.blur_override.any()) return;
  const VirtualCamera honest = without_blur_override(a.camera);
  const auto at = [&](const VirtualCamera& c) {
    return to_pixels(circle_of_confusion(c, Length::infinity()), c);
  };
  if (shot.blur_override.blur != 1.0) {
    notes.push_back(fmt::format(
        "CHEAT: all blur is {:g} times the lens's: an opening of {:.4g} mm instead of {:.4g} mm, "
        "as if it were f/{:.3g}. Exposure stays that of the real stop.",
        shot.blur_override.blur, 2.0 * a.camera.aperture_radius.mm(),
        2.0 * honest.aperture_radius.mm(), honest.lens_f_number / shot.blur_override.blur));
  }
  if (shot.blur_override.bends()) {
    const SharpRange true_range = sharp_range(honest, a.coc_limit);
    notes.push_back(fmt::format(
        "CHEAT: {}{}no lens does this. By the optics {} to {} would be sharp and infinity blurred "
        "by {:.1f} px; here it is {:.1f} px. defocus follows the cheat, trace stays with the "
        "optics.",
        shot.blur_override.from
            ? fmt::format("{} to {} is wholly sharp; ", short_metres_text(*shot.blur_override.from),
                          short_metres_text(*shot.blur_override.to))
            : "",
        shot.blur_override.at_most
            ? fmt::format("no disc is larger than {:.1f} px; ",
                          to_pixels(on_gate(*shot.blur_override.at_most, a.camera), a.camera))
            : "",
        short_metres_text(true_range.near), short_metres_text(true_range.far), at(honest),
        at(a.camera)));
  }
}

void say_subjects(const Answer& a, const Notes& behind, Notes& notes) {
  bool any_blurred = !a.infinity.sharp;
  for (const SubjectBlur& s : a.subjects) any_blurred = any_blurred || !s.sharp || s.partly_sharp;
  if (!any_blurred) {
    notes.emplace_back("Everything is sharp: turning depth of field on will change nothing.");
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

// Before all else: the rest is only as good as these.
void say_guesses(const Shot& shot, Notes& notes) {
  bool any = false;
  for (const auto& [key, origin] : shot.origins) {
    if (origin.source != Origin::Source::guessed) continue;
    notes.push_back(fmt::format("Guessed: {} = {}. {}.", key, origin.text, origin.why));
    any = true;
  }
  if (any) {
    notes.emplace_back(
        "What is guessed is told until somebody confirms it: take its line off [guessed] then.");
  }
}

void say_frame(const Shot& shot, const Answer& a, Notes& notes) {
  if (!a.frame || !shot.frames) return;
  if (*a.frame >= shot.frames->first && *a.frame <= shot.frames->last) return;
  notes.push_back(fmt::format("Warning: frame {:g} lies outside the shot's frames, {:g} to {:g}.",
                              *a.frame, shot.frames->first, shot.frames->last));
}

void say_light(const Shot& shot, const Answer& a, Notes& notes) {
  if (a.exposure.ev_is_given && a.exposure.by_numbers) {
    const double off = *a.exposure.by_numbers - *a.ev100;
    notes.push_back(fmt::format(
        "The take's ev of {:g} leads: stop, shutter and ISO change blur and smear only. By "
        "themselves they make EV100 {:.2f}, {}.",
        *a.ev100, *a.exposure.by_numbers,
        std::abs(off) < 0.05
            ? "which agrees"
            : fmt::format("{:.2f} stops {}", std::abs(off), off > 0.0 ? "darker" : "brighter")));
  }
  if (!a.ev100) {
    notes.emplace_back(!shot.take.iso       ? "No exposure value: take.iso is not known."
                       : !shot.take.shutter ? "No exposure value: take.shutter is not known."
                                            : "No exposure value: a shutter angle needs take.fps.");
    return;
  }
  if (shot.take.stop.kind == Stop::Kind::f && !shot.lens.transmission) {
    notes.emplace_back(
        "The lens's transmission is not known and counts as 1: its T-number is taken "
        "to be its f-number.");
  }
  if (a.corner.beyond_table) {
    notes.emplace_back(
        "The measured loss of light ends before the picture's corner; it goes on straight there.");
  }
}

}  // namespace

Notes notes_for(const Shot& shot, const Answer& answer, const Notes& behind) {
  Notes notes;
  say_guesses(shot, notes);
  for (const ScaleFinding& finding : answer.scale) notes.push_back(finding.message);
  add_override_notes(shot, answer, notes);
  say_opening(shot, answer, notes);
  say_attachments(shot, answer, notes);
  say_focus(shot, answer, notes);
  say_shape(shot, answer, notes);
  say_lines(answer, notes);
  say_subjects(answer, behind, notes);
  say_frame(shot, answer, notes);
  say_light(shot, answer, notes);
  return notes;
}

}  // namespace jolly_iris
