#include "jolly_iris/cheat.hpp"

#include <fmt/format.h>

#include "jolly_iris/camera.hpp"
#include "jolly_iris/errors.hpp"

namespace jolly_iris {

namespace {

// The opening times `factor`, with the barrel around it, so that discs keep their shapes.
void widen(VirtualCamera& camera, double factor) {
  camera.aperture_radius = camera.aperture_radius * factor;
  camera.f_number = camera.f_number / factor;
  for (BarrelRim& rim : camera.barrel) {
    rim.radius = rim.radius * factor;
    rim.ahead = rim.ahead * factor;
  }
  camera.faults.spherical = camera.faults.spherical * factor;
  camera.faults.coma = camera.faults.coma * factor;
}

}  // namespace

VirtualCamera with_cheat(const VirtualCamera& camera, const Cheat& cheat) {
  if (!(cheat.blur > 0.0)) {
    throw OpticsError(
        fmt::format("the blur is multiplied by {:g}; write a factor above zero", cheat.blur),
        "cheat.blur");
  }
  if (cheat.from.has_value() != cheat.to.has_value()) {
    throw OpticsError("a sharp band has two ends; give both cheat.sharp_from and cheat.sharp_to",
                      cheat.from ? "cheat.sharp_from" : "cheat.sharp_to");
  }
  if (cheat.from && !(*cheat.from < *cheat.to && cheat.from->mm() > 0.0)) {
    throw OpticsError(fmt::format("the sharp band from {:.4g} m to {:.4g} m is turned round or "
                                  "empty",
                                  cheat.from->m(), cheat.to->m()),
                      "cheat.sharp_from");
  }
  VirtualCamera cheated = without_cheat(camera);
  widen(cheated, cheat.blur);
  cheated.cheat = cheat;
  return cheated;
}

VirtualCamera without_cheat(const VirtualCamera& camera) {
  VirtualCamera honest = camera;
  widen(honest, 1.0 / camera.cheat.blur);
  honest.cheat = {};
  return honest;
}

}  // namespace jolly_iris
