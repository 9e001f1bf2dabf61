#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/workflow/shot_glass.hpp"
#include "report/answer_report.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string head(const LoadedShot& l) {
  const Shot& s = l.now;
  std::string line = s.file;
  if (!s.variant.empty()) line += " (variant " + s.variant + ")";
  const auto add = [&](const std::string& part) {
    if (!part.empty()) line += " · " + part;
  };
  add(s.body.name);
  add(s.lens.name.empty() ? fmt::format("{:g} mm", s.lens.focal.mm()) : s.lens.name);
  if (s.lens.adapter != 1.0) add(fmt::format("adapter {:g} x", s.lens.adapter));
  add(stop_text(s.take.stop));
  add("focus " + l.answer.focus_description);
  if (l.answer.frame) add(fmt::format("frame {:g}", *l.answer.frame));
  line += '\n';
  return line + tried_line(s);
}

std::string camera_table(const LoadedShot& l) {
  const Answer& a = l.answer;
  const VirtualCamera& c = a.camera;
  std::string out =
      fmt::format("\n{:<44}{}\n", "TYPE INTO THE VIRTUAL CAMERA", "the lens at infinity");
  const auto row = [&](const std::string& name, const std::string& value, const std::string& more) {
    out += fmt::format("  {:<18}{}{}\n", name, more.empty() ? value : padded(value, 24), more);
  };
  row("focal length", fmt::format("{:.3f} mm", c.focal.mm()),
      fmt::format("{:.3f} mm", c.lens_focal.mm()));
  row("f-number", fmt::format("f/{:.4f}", c.f_number),
      fmt::format("f/{:.4g}  T{:.4g}", c.lens_f_number, c.lens_t_number));
  row("focus distance", metres_text(c.focus),
      fmt::format("{} units of {}, along the view axis", in_units(c.focus, a.unit),
                  unit_text(a.unit)));
  // The gate is the recorded one, desqueezed, here as in JSON and in pictures' headers; where the
  // picture shows another part of its plane, that is what is typed in.
  const bool same = std::abs(c.picture.height / c.gate.height - 1.0) < 0.005 &&
                    std::abs(c.picture.width / c.gate.width - 1.0) < 0.005;
  const Extent& shown = same ? c.gate : c.picture;
  const std::string pixels = fmt::format("{} x {} px", c.pixels.width, c.pixels.height);
  row("gate", fmt::format("{:.3f} x {:.3f} mm", c.gate.width.mm(), c.gate.height.mm()),
      same ? pixels : std::string("as recorded; the picture's comes next"));
  if (!same) {
    row("picture's gate", fmt::format("{:.3f} x {:.3f} mm", shown.width.mm(), shown.height.mm()),
        pixels + ": type this one in");
  }
  if (const double aspect = c.pixel_pitch_x() / c.pixel_pitch(); std::abs(aspect - 1.0) > 1e-4) {
    row("pixel aspect", fmt::format("{:.4f}", aspect), "a pixel's width against its height");
  }
  row("field of view",
      same ? fmt::format("{:.3f} x {:.3f} deg", c.horizontal_field_of_view().degrees(),
                         c.vertical_field_of_view().degrees())
           : fmt::format("{:.3f} x {:.3f} deg", c.horizontal_picture_view().degrees(),
                         c.vertical_picture_view().degrees()),
      "wide x high");
  row("aperture radius", fmt::format("{:.3f} mm", c.aperture_radius.mm()),
      in_units(c.aperture_radius, a.unit) + " units");
  const Iris& iris = c.iris;
  std::string shape = iris.blades == 0 ? "round" : fmt::format("{} blades", iris.blades);
  if (iris.blades != 0) {
    switch (iris.blade_radius.kind) {
      case BladeRadius::Kind::straight:
        shape += ", straight";
        break;
      case BladeRadius::Kind::multiple:
        shape += fmt::format(", blade radius {:g} x", iris.blade_radius.times);
        break;
      case BladeRadius::Kind::length:
        shape += fmt::format(", blade radius {:g} mm", iris.blade_radius.length.mm());
        break;
    }
    if (iris.rotation.radians() != 0.0) {
      shape += fmt::format(", turned {:g} deg", iris.rotation.degrees());
    }
  }
  if (!iris.outline.empty()) shape = "a free outline";
  std::string more;
  const auto add = [&](bool there, const std::string& words) {
    if (there) more += (more.empty() ? "" : ", ") + words;
  };
  add(iris.uneven != 0.0, "uneven");
  add(iris.obstruction != 0.0, "its middle blocked");
  add(iris.edge_falloff != 0.0, fmt::format("rim {:+g} stops", iris.edge_falloff));
  add(iris.rings > 0, "rings");
  add(iris.dust > 0 || iris.scratches > 0, "dust");
  add(iris.picture != nullptr, "a picture over it");
  add(!l.now.lens.glass.empty() && thin_lens_note(l).empty(),
      "traced through its glass (bokeh); blur below is a thin lens's");
  add(!c.vignetting.empty(), "cut by the barrel");
  add(c.aberrations.bends() || c.aberrations.coloured() ||
          c.aberrations.curvature.dioptres() != 0.0,
      "with faults of the lens");
  add(c.colouring.any(), "discs coloured by place");
  row("iris", shape, "");
  if (!more.empty()) row("discs", more, "");
  if (c.squeeze != 1.0) {
    row("squeeze", fmt::format("{:.4g} x", c.squeeze),
        fmt::format("aperture {:.4g} times as wide as high", c.pupil_aspect()));
  }
  if (c.shift_right != Length{} || c.shift_up != Length{}) {
    row("shift", fmt::format("{:+.4g} mm right, {:+.4g} up", c.shift_right.mm(), c.shift_up.mm()),
        fmt::format("{:+.4f} of the width, {:+.4f} of the height", c.shift_right / shown.width,
                    c.shift_up / shown.height));
  }
  row("margin", fmt::format("{} px beside", a.margin.beside),
      fmt::format("{} px above: render so much more on each side", a.margin.above));
  return out;
}

std::string subject_table(const Answer& a) {
  std::string out =
      a.nothing_sharp
          ? fmt::format(
                "\nWHO IS SHARP: nobody; the lens's faults alone blur by {:.2f} px, and {:.2f} "
                "px is the limit. Close it down\n",
                a.least_blur_px, a.coc_limit / a.camera.pixel_pitch())
          : fmt::format(
                "\nWHO IS SHARP: {} to {} (blur up to {:.2f} px = {:.5f} mm); hyperfocal {}\n",
                metres_text(a.sharp.near), metres_text(a.sharp.far),
                a.coc_limit / a.camera.pixel_pitch(), a.coc_limit.mm(), metres_text(a.hyperfocal));
  std::size_t width = 8;
  bool sizes = false;
  for (const SubjectBlur& s : a.subjects) {
    if (!s.in_picture) continue;
    width = std::max(width, width_of(s.name));
    sizes = sizes || s.size_px.has_value();
  }
  width = std::min<std::size_t>(width, 24) + 2;
  out +=
      fmt::format("  {:{}}  -------- distance --------   ------- blur in px -------\n", "", width);
  out += fmt::format("  {}{:>10}{:>10}{:>10}{:>9}{:>9}{:>9}{}\n", padded("subject", width), "axial",
                     "radial", "tape", "front", "middle", "back", sizes ? "  size px" : "");
  const auto row = [&](const SubjectBlur& s) {
    const std::string size =
        !sizes ? "" : fmt::format("{:>9}", s.size_px ? fmt::format("{:.0f}", *s.size_px) : "");
    const bool flat = s.front == s.back;
    const std::string front = flat ? "" : s.coc_front_px ? blur_text(*s.coc_front_px) : "at lens";
    out += fmt::format("  {}{:>10}{:>10}{:>10}{:>9}{:>9}{:>9}{}  {}\n", padded(s.name, width),
                       metres_text(s.axial), metres_text(s.radial), metres_text(s.tape), front,
                       blur_text(s.coc_px), flat ? "" : blur_text(s.coc_back_px), size,
                       s.partly_sharp     ? "partly"
                       : s.sharp          ? "sharp"
                       : s.coc.mm() > 0.0 ? "behind"
                                          : "in front");
  };
  for (const SubjectBlur& s : a.subjects) {
    if (s.in_picture) row(s);  // the others are named in a note
  }
  row(a.infinity);
  return out;
}

std::string exposure_line(const Answer& a) {
  std::string out = "\nEXPOSURE: ";
  out += a.ev100 ? fmt::format("EV100 {:.2f}", *a.ev100) : std::string("EV100 not known");
  if (a.shutter) out += ", shutter " + time_text(*a.shutter);
  if (a.shutter_angle) out += fmt::format(" = {:.4g} deg", a.shutter_angle->degrees());
  out += fmt::format("; corners {:.2f} stop darker{}", a.corner.stops,
                     a.corner.measured           ? " (measured)"
                     : a.corner.vignetting_known ? ""
                                                 : " by cos^4 alone");
  return out + '\n';
}

}  // namespace

std::string answer_text(const LoadedShot& loaded) {
  std::string out = head(loaded) + camera_table(loaded) + subject_table(loaded.answer) +
                    exposure_line(loaded.answer);
  if (!loaded.answer.notes.empty()) out += '\n';
  for (const std::string& note : loaded.answer.notes) out += wrapped(note, "- ", "  ");
  return out;
}

}  // namespace jolly_iris::report
