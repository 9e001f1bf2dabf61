#include "jolly_iris/optics/camera.hpp"

#include <fmt/format.h>

#include <cmath>

#include "above_zero.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

void check(const Body& body) {
  require_above_zero(body.gate.width.mm(), "the gate's width in mm", "body.gate");
  require_above_zero(body.gate.height.mm(), "the gate's height in mm", "body.gate");
  require_above_zero(body.pixels.width, "the picture's width in pixels", "body.pixels");
  require_above_zero(body.pixels.height, "the picture's height in pixels", "body.pixels");
  require_above_zero(body.pixel_aspect, "the pixel aspect", "body.pixel_aspect");
}

Angle field(Length side, Length focal) {
  return Angle::from_radians(2.0 * std::atan(side / (2.0 * focal)));
}

}  // namespace

Stop f_number(double n) {
  require_above_zero(n, "the f-number", "take.stop");
  return {n, Stop::Kind::f};
}

Stop t_number(double t) {
  require_above_zero(t, "the T-number", "take.stop");
  return {t, Stop::Kind::t};
}

Angle VirtualCamera::horizontal_field_of_view() const { return field(gate.width, focal); }
Angle VirtualCamera::vertical_field_of_view() const { return field(gate.height, focal); }
Angle VirtualCamera::horizontal_picture_view() const { return field(picture.width, focal); }
Angle VirtualCamera::vertical_picture_view() const { return field(picture.height, focal); }

double VirtualCamera::pupil_aspect() const {
  return squeeze_at == SqueezeAt::front ? 1.0 / squeeze : 1.0;
}

Length VirtualCamera::pixel_pitch() const {
  return picture.height / static_cast<double>(pixels.height);
}

Length VirtualCamera::pixel_pitch_x() const {
  return picture.width / static_cast<double>(pixels.width);
}

VirtualCamera resolve(const Body& body, const Lens& lens, const Take& take, Length focus) {
  check(body);
  require_possible(lens);
  require_above_zero(take.stop.value, "the stop", "take.stop");
  const double n0 = marked_f_number(lens, take.stop);
  const Extent recorded = recorded_gate(body);
  VirtualCamera camera;
  camera.squeeze = squeeze_at_focus(lens, focus);
  camera.squeeze_at = lens.squeeze_at;
  camera.gate = {recorded.width * camera.squeeze, recorded.height};
  // Pictures are desqueezed by the nominal squeeze; what they then show is wider or narrower by how
  // much the squeeze at this focus differs from it.
  camera.picture = shown_by_picture(body, {recorded.width * lens.squeeze, recorded.height});
  camera.picture.width = camera.picture.width * (camera.squeeze / lens.squeeze);
  camera.pixels = body.pixels;
  camera.shift_right = lens.shift_right;
  camera.shift_up = lens.shift_up;
  camera.distortion = lens.distortion;
  if (!camera.distortion.radius) {
    const double width = recorded.width.mm() * lens.squeeze;
    camera.distortion.radius = Length::from_mm(std::hypot(width, recorded.height.mm()) / 2.0);
  }
  camera.focus = focus;
  camera.focal = pinhole_focal(lens, focus, camera.gate.width);
  camera.magnification = camera.focal / focus;
  const Length diameter = lens.converter * lens.focal / n0;
  camera.f_number = camera.focal / diameter;
  camera.aperture_radius = diameter / 2.0;
  camera.lens_focal = lens.adapter * lens.converter * lens.focal;
  camera.lens_f_number = lens.adapter * n0;
  camera.lens_t_number =
      marked_t_number(lens, take.stop) * lens.adapter / std::sqrt(lens.adapter_transmission);
  camera.pupil_to_sensor = pupil_to_sensor(lens, focus);
  camera.iris = lens.iris;
  camera.vignetting = lens.vignetting;
  camera.aberrations = lens.aberrations;
  camera.colouring = lens.colouring;
  if (lens.widest) {
    const double widest = marked_f_number(lens, *lens.widest);
    camera.open_against_widest = widest / n0;
    if (!opens_to(lens, take.stop)) {
      throw OpticsError(
          fmt::format("the stop is f/{:.3g} on the lens, but its widest is f/{:.3g}", n0, widest),
          "take.stop");
    }
  }
  return camera;
}

VirtualCamera resolve(const Body& body, const Lens& lens, const Take& take) {
  if (!take.mark) {
    throw OpticsError(
        "there is no focus: give the barrel's mark (take.mark) or something to focus on",
        "take.mark");
  }
  require_possible(lens);
  return resolve(body, lens, take, focus_from_mark(lens, *take.mark));
}

std::array<double, 3> direction_of_pixel(const VirtualCamera& camera, double x, double y) {
  const double right = (x - 0.5 * camera.pixels.width) * camera.pixel_pitch_x().mm();
  const double up = (0.5 * camera.pixels.height - y) * camera.pixel_pitch().mm();
  return {(right + camera.shift_right.mm()) / camera.focal.mm(),
          (up + camera.shift_up.mm()) / camera.focal.mm(), -1.0};
}

std::array<double, 2> pixel_of_direction(const VirtualCamera& camera,
                                         const std::array<double, 3>& direction) {
  const double right = direction[0] / -direction[2] * camera.focal.mm() - camera.shift_right.mm();
  const double up = direction[1] / -direction[2] * camera.focal.mm() - camera.shift_up.mm();
  return {0.5 * camera.pixels.width + right / camera.pixel_pitch_x().mm(),
          0.5 * camera.pixels.height - up / camera.pixel_pitch().mm()};
}

}  // namespace jolly_iris
