#include "jolly_iris/sharpness.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/errors.hpp"

namespace jolly_iris {

namespace {
// D v, the strength of the blur: c = D v × (difference of reciprocal distances).
double blur_strength(const VirtualCamera& camera) {
  return 2.0 * camera.aperture_radius.mm() * camera.focal.mm();
}

void require_limit(Length limit) {
  if (!(limit.mm() > 0.0)) {
    throw OpticsError(
        fmt::format("the sharpness limit is {:g} mm; it must be greater than zero", limit.mm()),
        "criterion");
  }
}
}  // namespace

Length coc_limit(const Criterion& criterion, const Body& body, const VirtualCamera& camera) {
  switch (criterion.kind) {
    case Criterion::Kind::pixels:
      return criterion.pixels * camera.pixel_pitch();
    case Criterion::Kind::photosite:
      if (!body.photosites) {
        throw OpticsError(
            "the criterion is one photosite, but the body's photosites are not known; give "
            "body.photosites = \"6144 x 3456\", or a criterion in pixels",
            "criterion");
      }
      return body.gate.width / static_cast<double>(body.photosites->width);
    case Criterion::Kind::print:
      break;
  }
  return Length::from_mm(std::hypot(body.gate.width.mm(), body.gate.height.mm()) / 1500.0);
}

Length circle_of_confusion(const VirtualCamera& camera, Length z) {
  if (!(z.mm() > 0.0)) {
    throw OpticsError(fmt::format("something at {:.4g} m is not in front of the camera", z.m()));
  }
  return Length::from_mm(blur_strength(camera) * (1.0 / camera.focus.mm() - 1.0 / z.mm()));
}

Length circle_of_confusion_wide(const VirtualCamera& camera, Length z) {
  return camera.pupil_aspect() * circle_of_confusion(camera, z);
}

double to_pixels(Length on_gate, const VirtualCamera& camera) {
  return on_gate / camera.pixel_pitch();
}

SharpRange sharp_range(const VirtualCamera& camera, Length limit) {
  require_limit(limit);
  const double at_focus = 1.0 / camera.focus.mm();
  const double play = limit.mm() / blur_strength(camera);
  const double far = at_focus - play;
  return {Length::from_mm(1.0 / (at_focus + play)),
          far > 0.0 ? Length::from_mm(1.0 / far) : Length::infinity()};
}

Length hyperfocal(const VirtualCamera& camera, Length limit) {
  require_limit(limit);
  const double f = camera.lens_focal.mm();
  return Length::from_mm(f * f / (camera.lens_f_number * limit.mm()) + f);
}

Length airy_diameter(const VirtualCamera& camera, Length wavelength) {
  return 2.44 * camera.f_number * wavelength;
}

}  // namespace jolly_iris
