#include "jolly_iris/discs.hpp"

#include "backend.hpp"

namespace jolly_iris {

std::string_view to_string(Facing facing) {
  switch (facing) {
    case Facing::upright:
      return "upright";
    case Facing::turned:
      return "turned";
    case Facing::unknown:
      break;
  }
  return "unknown";
}

BarrelRim rim_of(const PlateBarrel& barrel, const VirtualCamera& camera, int height) {
  const double to_picture = static_cast<double>(height) / camera.pixels.height;
  const double focal_px = to_picture * (camera.focal / camera.pixel_pitch());
  return {camera.aperture_radius * barrel.radius.value,
          camera.aperture_radius * (barrel.shift.value * focal_px)};
}

std::vector<std::array<double, 2>> outline_of(const PlateDisc& disc, const PlateIris& iris) {
  return measuring::backend().outline(disc, iris);
}

FoundDiscs discs_in_plate(const Picture& plate, const DiscHints& hints,
                          const DiscSettings& settings) {
  return measuring::backend().discs(plate, hints, settings);
}

}  // namespace jolly_iris
