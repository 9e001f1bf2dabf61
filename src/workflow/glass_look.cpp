#include "jolly_iris/workflow/glass_look.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/glass/coating.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

constexpr int field_points = 9;

TracedGlass set_to(const Prescription& p, Length travel, const std::optional<double>& f_number) {
  TracedGlass glass(p, travel);
  if (f_number) {
    // The stop's mark is of infinity, wherever the lens is focused.
    glass.set_opening(opening_for(TracedGlass(p), *f_number));
  }
  return glass;
}

}  // namespace

GlassLook look_at_glass(const GlassRequest& request, std::vector<std::string>& files) {
  GlassLook out;
  out.request = request;
  out.file = request.file;
  files.push_back(request.file);
  out.prescription = read_glass(request.file);
  const Prescription& p = out.prescription;
  // As it is opened: by light a glass that is stopped down is sharpest elsewhere.
  const std::optional<Length> opened =
      request.f_number ? std::optional(opening_for(TracedGlass(p), *request.f_number))
                       : std::nullopt;
  out.travel = focused(p, request.distance, {p.focus_by, line_d_um, opened});
  const TracedGlass glass = set_to(p, out.travel.travel, request.f_number);
  const TracedGlass far(p);
  out.opening = glass.opening();
  out.up = paraxial_facts(far);
  out.widest = out.up.f_number;
  out.passes = axis_transmission(p);
  if (!(out.up.focal.mm() > 0.0)) {
    throw OpticsError(fmt::format(
        "{}: its focal length is {:.4g} mm: it spreads light, so it forms no picture on a film",
        request.file, out.up.focal.mm()));
  }
  if (!p.is_round()) {
    out.across = paraxial_facts(far, Meridian::across);
    out.squeeze = out.up.focal / out.across->focal;
    // What is not sharp together either way is said: a hundredth of what f-numbers blur.
    const TracedGlass set(p, out.travel.travel);
    const Length at_up = focused_distance(set, Meridian::up);
    const Length at_across = focused_distance(set, Meridian::across);
    const auto dioptres = [](Length l) { return l.is_finite() ? 1.0 / l.m() : 0.0; };
    const double apart = std::abs(dioptres(at_up) - dioptres(at_across));
    const double blur_mm = out.up.entrance_diameter.mm() * out.up.focal.mm() * apart / 1000.0;
    if (blur_mm > 0.01) {
      out.notes.push_back(fmt::format(
          "up and down it is focused at {}, sideways at {}: where one is sharp the other is "
          "blurred "
          "by {:.3f} mm on the film wide open",
          at_up.is_finite() ? fmt::format("{:.3f} m", at_up.m()) : "infinity",
          at_across.is_finite() ? fmt::format("{:.3f} m", at_across.m()) : "infinity", blur_mm));
    }
  }
  out.length = Length::from_mm(-glass.surfaces().front().z);
  out.nearest = nearest_focus(p);
  out.circle = image_circle(glass);
  out.focus = marks_of(p);
  Length corner = out.circle * 0.999;
  if (request.gate) {
    corner = Length::from_mm(0.5 * std::hypot(request.gate->width.mm(), request.gate->height.mm()));
    if (corner > out.circle) {
      out.notes.push_back(fmt::format("black from {:.1f} mm on: the gate's corner is at {:.1f} mm",
                                      out.circle.mm(), corner.mm()));
    }
  }
  out.field = over_field(glass, request.distance, corner, field_points);
  return out;
}

namespace {

Length focus_of(const GlassLook& look) {
  const Length distance = look.request.distance;
  if (!distance.is_finite()) return distance;
  // The pupil goes along with what moves.
  const TracedGlass there(look.prescription, look.travel.travel);
  return distance + paraxial_facts(there).entrance_pupil;
}

}  // namespace

GlassCamera camera_of(const GlassLook& look) {
  const Length half = look.request.gate
                          ? Length::from_mm(0.5 * std::hypot(look.request.gate->width.mm(),
                                                             look.request.gate->height.mm()))
                          : look.circle;
  const double squeeze = look.prescription.is_round()
                             ? 1.0
                             : mark_at(look.prescription, look.request.distance).squeeze;
  return GlassCamera(look.prescription, focus_of(look), look.request.f_number.value_or(look.widest),
                     half, squeeze);
}

GlassFit fit_of(const GlassLook& look, int order) {
  return fit_glass(camera_of(look), focus_of(look), order);
}

}  // namespace jolly_iris
