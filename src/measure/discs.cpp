#include "jolly_iris/measure/discs.hpp"

#include "optics/enum_name.hpp"
#include "plate_look.hpp"

namespace jolly_iris {

std::string_view to_string(Facing facing) {
  return name_of<Facing::turned>(facing, {"unknown", "upright", "turned"});
}

PixelSize size_of(const PlateLook& look) { return look.size; }

VignettingRim rim_of(const PlateVignetting& vignetting, const VirtualCamera& camera, int height) {
  const double to_picture = static_cast<double>(height) / camera.pixels.height;
  const double focal_px = to_picture * (camera.focal / camera.pixel_pitch());
  return {camera.aperture_radius * vignetting.radius.value,
          camera.aperture_radius * (vignetting.shift.value * focal_px)};
}

}  // namespace jolly_iris
