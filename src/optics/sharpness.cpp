#include "jolly_iris/optics/sharpness.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/opening.hpp"

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

Length on_gate(const BlurSize& size, const VirtualCamera& camera) {
  switch (size.kind) {
    case BlurSize::Kind::pixels:
      return size.value * camera.pixel_pitch();
    case BlurSize::Kind::on_gate:
      return Length::from_mm(size.value);
    case BlurSize::Kind::percent:
      break;
  }
  return size.value / 100.0 * camera.picture.width;
}

Length coc_limit(const Criterion& criterion, const Body& body, const VirtualCamera& camera) {
  switch (criterion.kind) {
    case Criterion::Kind::pixels:
      return criterion.pixels * camera.pixel_pitch();
    case Criterion::Kind::photosite:
      if (!body.photosites) {
        throw OpticsError(
            "the criterion is one photosite, but the body's photosites are not known; give "
            "body.photosites = \"5240 x 2956\", or a criterion in pixels",
            "criterion");
      }
      return body.gate.width / static_cast<double>(body.photosites->width);
    case Criterion::Kind::print:
      break;
  }
  const Extent gate = recorded_gate(body);
  return Length::from_mm(std::hypot(gate.width.mm(), gate.height.mm()) / 1500.0);
}

Length circle_of_confusion(const VirtualCamera& camera, Length z) {
  if (!(z.mm() > 0.0)) {
    throw OpticsError(fmt::format("something at {:.4g} m is not in front of the camera", z.m()));
  }
  const BlurOverride& blur_override = camera.blur_override;
  const Length front = blur_override.from.value_or(camera.focus);
  const Length back = blur_override.to.value_or(camera.focus);
  if (blur_override.from && z >= front && z <= back) return {};
  const Length edge = z < front ? front : back;
  const double c = blur_strength(camera) * (1.0 / edge.mm() - 1.0 / z.mm());
  if (!blur_override.at_most) return Length::from_mm(c);
  const double max = on_gate(*blur_override.at_most, camera).mm();
  return Length::from_mm(std::abs(c) > max ? std::copysign(max, c) : c);
}

Length circle_of_confusion_x(const VirtualCamera& camera, Length z) {
  return camera.pupil_aspect() * circle_of_confusion(camera, z);
}

double to_pixels(Length on_gate, const VirtualCamera& camera) {
  return on_gate / camera.pixel_pitch();
}

Margin margin_for(const VirtualCamera& camera, Length coc) {
  const Opening opening(camera.iris, camera.aperture_radius);
  const double reach = std::abs(coc.mm()) / 2.0 * opening.corner_radius();
  return {static_cast<int>(
              std::ceil(reach * camera.pupil_aspect() / camera.pixel_pitch_x().mm() - 1e-9)),
          static_cast<int>(std::ceil(reach / camera.pixel_pitch().mm() - 1e-9))};
}

SharpRange sharp_range(const VirtualCamera& camera, Length limit) {
  require_limit(limit);
  const BlurOverride& blur_override = camera.blur_override;
  if (blur_override.at_most && on_gate(*blur_override.at_most, camera) <= limit)
    return {Length{}, Length::infinity()};
  const double play = limit.mm() / blur_strength(camera);
  const double far = 1.0 / blur_override.to.value_or(camera.focus).mm() - play;
  return {Length::from_mm(1.0 / (1.0 / blur_override.from.value_or(camera.focus).mm() + play)),
          far > 0.0 ? Length::from_mm(1.0 / far) : Length::infinity()};
}

Length hyperfocal(const VirtualCamera& camera, Length limit) {
  require_limit(limit);
  const double f = camera.lens_focal.mm();
  // f²/(N c) + f, with N = f / D
  return Length::from_mm(f * 2.0 * camera.aperture_radius.mm() / limit.mm() + f);
}

Length airy_diameter(const VirtualCamera& camera, Length wavelength) {
  return 2.44 * camera.f_number * wavelength;
}

}  // namespace jolly_iris
