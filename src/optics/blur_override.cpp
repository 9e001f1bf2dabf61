#include "jolly_iris/optics/blur_override.hpp"

#include <fmt/format.h>

#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// The opening times `factor`, with the barrel around it, so that discs keep their shapes.
void widen(VirtualCamera& camera, double factor) {
  camera.aperture_radius = camera.aperture_radius * factor;
  camera.f_number = camera.f_number / factor;
  for (VignettingRim& rim : camera.vignetting) {
    rim.radius = rim.radius * factor;
    rim.ahead = rim.ahead * factor;
  }
  camera.aberrations.spherical = camera.aberrations.spherical * factor;
  camera.aberrations.coma = camera.aberrations.coma * factor;
}

}  // namespace

VirtualCamera with_blur_override(const VirtualCamera& camera, const BlurOverride& blur_override) {
  if (!(blur_override.blur > 0.0)) {
    throw OpticsError(fmt::format("the blur is multiplied by {:g}; write a factor above zero",
                                  blur_override.blur),
                      "cheat.blur");
  }
  if (blur_override.from.has_value() != blur_override.to.has_value()) {
    throw OpticsError("a sharp band has two ends; give both cheat.sharp_from and cheat.sharp_to",
                      blur_override.from ? "cheat.sharp_from" : "cheat.sharp_to");
  }
  if (blur_override.from &&
      !(*blur_override.from < *blur_override.to && blur_override.from->mm() > 0.0)) {
    throw OpticsError(fmt::format("the sharp band from {:.4g} m to {:.4g} m is turned round or "
                                  "empty",
                                  blur_override.from->m(), blur_override.to->m()),
                      "cheat.sharp_from");
  }
  VirtualCamera overridden_blur = without_blur_override(camera);
  widen(overridden_blur, blur_override.blur);
  overridden_blur.blur_override = blur_override;
  return overridden_blur;
}

VirtualCamera without_blur_override(const VirtualCamera& camera) {
  VirtualCamera honest = camera;
  widen(honest, 1.0 / camera.blur_override.blur);
  honest.blur_override = {};
  return honest;
}

}  // namespace jolly_iris
