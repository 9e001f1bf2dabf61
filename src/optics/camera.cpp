#include "jolly_iris/camera.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/errors.hpp"

namespace jolly_iris {

namespace {

void require_positive(double value, const char* what, const char* key) {
  if (!(value > 0.0) || !std::isfinite(value)) {
    throw OpticsError(fmt::format("{} is {:g}; it must be greater than zero", what, value), key);
  }
}

void require_share(double value, const char* what, const char* key) {
  if (!(value > 0.0 && value <= 1.0)) {
    throw OpticsError(
        fmt::format("{} is {:g}; it is a share of the light: more than 0, at most 1", what, value),
        key);
  }
}

void check(const Body& body) {
  require_positive(body.gate.width.mm(), "the gate's width in mm", "body.gate");
  require_positive(body.gate.height.mm(), "the gate's height in mm", "body.gate");
  require_positive(body.pixels.width, "the picture's width in pixels", "body.pixels");
  require_positive(body.pixels.height, "the picture's height in pixels", "body.pixels");
}

void check(const Lens& lens) {
  require_positive(lens.focal.mm(), "the focal length in mm", "lens.focal");
  require_positive(lens.adapter, "the adapter's factor", "lens.adapter");
  require_share(lens.adapter_transmission, "the adapter's transmission",
                "lens.adapter_transmission");
  if (lens.transmission) {
    require_share(*lens.transmission, "the lens's transmission", "lens.transmission");
  }
  if (!(lens.squeeze >= 1.0) || !std::isfinite(lens.squeeze)) {
    throw OpticsError(
        fmt::format("the squeeze is {:g}; it is 1 (none) or more, e.g. 2", lens.squeeze),
        "lens.squeeze");
  }
}

}  // namespace

Stop f_number(double n) {
  require_positive(n, "the f-number", "take.stop");
  return {n, Stop::Kind::f};
}

Stop t_number(double t) {
  require_positive(t, "the T-number", "take.stop");
  return {t, Stop::Kind::t};
}

Angle VirtualCamera::field_of_view_wide() const {
  return Angle::from_radians(2.0 * std::atan(gate.width / (2.0 * focal)));
}

Angle VirtualCamera::field_of_view_high() const {
  return Angle::from_radians(2.0 * std::atan(gate.height / (2.0 * focal)));
}

double VirtualCamera::pupil_aspect() const {
  return squeeze_at == SqueezeAt::front ? 1.0 / squeeze : 1.0;
}

Length VirtualCamera::pixel_pitch() const { return gate.width / static_cast<double>(pixels.width); }

Length focus_from_mark(const Lens& lens, Length mark) {
  if (mark.is_infinite()) return mark;
  if (lens.pupil) {
    const Length focus = mark - *lens.pupil;
    if (focus <= lens.focal) {
      throw OpticsError(
          fmt::format("the mark of {:.4g} m lies {:.4g} mm in front of the entrance pupil, which "
                      "is {:.4g} mm from the sensor plane; it must lie beyond one focal length "
                      "({:.4g} mm)",
                      mark.m(), focus.mm(), lens.pupil->mm(), lens.focal.mm()),
          "take.mark");
    }
    return focus;
  }
  const double d = mark.mm();
  const double f = lens.focal.mm();
  if (!(d >= 4.0 * f)) {
    throw OpticsError(
        fmt::format("the mark of {:.4g} m is closer than four focal lengths ({:.4g} m for a "
                    "{:.4g} mm lens), and no simple lens focuses there. Marks are measured from "
                    "the sensor plane; for a macro lens give lens.pupil",
                    mark.m(), 4.0 * lens.focal.m(), f),
        "take.mark");
  }
  return Length::from_mm((d + std::sqrt(d * d - 4.0 * f * d)) / 2.0);
}

Length mark_from_focus(const Lens& lens, Length focus) {
  if (focus.is_infinite()) return focus;
  if (lens.pupil) return focus + *lens.pupil;
  const double s = focus.mm();
  const double f = lens.focal.mm();
  return Length::from_mm(s + f * s / (s - f));
}

double marked_f_number(const Lens& lens, const Stop& stop) {
  if (stop.kind == Stop::Kind::f) return stop.value;
  return stop.value * std::sqrt(lens.transmission.value_or(1.0));
}

double marked_t_number(const Lens& lens, const Stop& stop) {
  if (stop.kind == Stop::Kind::t) return stop.value;
  return stop.value / std::sqrt(lens.transmission.value_or(1.0));
}

VirtualCamera resolve(const Body& body, const Lens& lens, const Take& take, Length focus) {
  check(body);
  check(lens);
  require_positive(take.stop.value, "the stop", "take.stop");
  if (!(focus > lens.focal)) {
    throw OpticsError(
        fmt::format("the focus distance of {:.4g} m is not beyond one focal length ({:.4g} m); a "
                    "lens forms no picture of things that close",
                    focus.m(), lens.focal.m()),
        "focus");
  }
  const double n0 = marked_f_number(lens, take.stop);
  const Length diameter = lens.focal / n0;
  VirtualCamera camera;
  camera.lens_focal = lens.adapter * lens.focal;
  camera.lens_f_number = lens.adapter * n0;
  camera.lens_t_number =
      marked_t_number(lens, take.stop) * lens.adapter / std::sqrt(lens.adapter_transmission);
  camera.focus = focus;
  // v = A f₀ s / (s − f₀), written so that an infinite s is no special case
  camera.focal = camera.lens_focal / (1.0 - lens.focal / focus);
  camera.magnification = camera.focal / focus;
  camera.f_number = camera.focal / diameter;
  camera.aperture_radius = diameter / 2.0;
  camera.gate = {body.gate.width * lens.squeeze, body.gate.height};
  camera.pixels = body.pixels;
  camera.squeeze = lens.squeeze;
  camera.squeeze_at = lens.squeeze_at;
  camera.iris = lens.iris;
  return camera;
}

VirtualCamera resolve(const Body& body, const Lens& lens, const Take& take) {
  if (!take.mark) {
    throw OpticsError(
        "there is no focus: give the barrel's mark (take.mark) or something to focus on",
        "take.mark");
  }
  check(lens);
  return resolve(body, lens, take, focus_from_mark(lens, *take.mark));
}

}  // namespace jolly_iris
