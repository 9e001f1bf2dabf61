#include "jolly_iris/optics/observation.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/optics/white.hpp"
#include "optics/enum_name.hpp"

namespace jolly_iris {

namespace {

// A disc's edge is as soft as the even disc that blurs it: a quarter of its diameter.
constexpr double edge_of_disc = 0.25;

double disc_px(const VirtualCamera& camera, Length z) {
  return std::abs(to_pixels(circle_of_confusion(camera, z), camera));
}

double grey(const Observation& seen, const CameraEstimate& estimate, const VirtualCamera& camera) {
  if (!(seen.luminance > 0.0) || !std::isfinite(seen.luminance)) {
    throw OpticsError(fmt::format("'{}' is a card of {:g} cd/m2; its luminance is above zero",
                                  seen.name, seen.luminance));
  }
  const Exposure e = exposure_of(estimate.lens, estimate.take, camera);
  if (!e.ev100) {
    throw OpticsError(fmt::format(
        "'{}' tells the exposure, but the notes have none: that needs take.iso and take.shutter",
        seen.name));
  }
  return seen.luminance * seen.falls_to * std::exp2(estimate.brighter) *
         value_per_candela(*e.ev100, estimate.body.anchor, lens_q(e.t_is_known));
}

double tinge(const Observation& seen, const CameraEstimate& estimate) {
  if (!estimate.take.white) {
    throw OpticsError(fmt::format(
        "'{}' tells the white, but the notes do not say what the camera was told (take.white)",
        seen.name));
  }
  const Rgb rgb = seen_white(*estimate.take.white, seen.light, seen.primaries);
  return rgb[0] / rgb[2];
}

Length distance_of(const Observation& seen, const CameraEstimate& estimate) {
  if (!seen.at || !(seen.at->mm() > 0.0)) {
    throw OpticsError(fmt::format("'{}' has no distance in front of the camera", seen.name));
  }
  if (seen.at->is_infinite() || !seen.in_scene) return *seen.at;
  const Length z = *seen.at * estimate.scene_scale + estimate.farther;
  if (!(z.mm() > 0.0)) {
    throw OpticsError(fmt::format("'{}' would lie behind the camera", seen.name));
  }
  return z;
}

}  // namespace

std::string_view to_string(Observation::Kind kind) {
  return name_of<Observation::Kind::engraved_stop>(
      kind, {"disc", "edge", "length", "view", "oval", "circle", "grey", "tinge", "engraved focal",
             "engraved stop"});
}

double predicted(const Observation& seen, const CameraEstimate& estimate,
                 const VirtualCamera& camera) {
  switch (seen.kind) {
    case Observation::Kind::view: {
      const double nearer = seen.in_scene && seen.at && seen.at->is_finite()
                                ? *seen.at * estimate.scene_scale / distance_of(seen, estimate)
                                : 1.0;
      return nearer * (camera.focal / camera.pixel_pitch());
    }
    case Observation::Kind::oval:
      return seen.as_traced * camera.pixel_pitch_x() / camera.pixel_pitch() / camera.pupil_aspect();
    case Observation::Kind::circle:
      return camera.pixel_pitch_x() / camera.pixel_pitch();
    case Observation::Kind::engraved_focal:
      return estimate.lens.focal.mm();
    case Observation::Kind::engraved_stop:
      return estimate.take.stop.value;
    case Observation::Kind::grey:
      return grey(seen, estimate, camera);
    case Observation::Kind::tinge:
      return tinge(seen, estimate);
    case Observation::Kind::disc:
      if (!seen.at) return std::min(seen.value, disc_px(camera, Length::infinity()));
      return seen.as_traced * disc_px(camera, distance_of(seen, estimate));
    case Observation::Kind::edge:
      return edge_of_disc * disc_px(camera, distance_of(seen, estimate));
    case Observation::Kind::length:
      break;
  }
  const double longer = seen.in_scene && seen.length_in_scene ? estimate.scene_scale : 1.0;
  return longer * (seen.length / distance_of(seen, estimate)) *
         (camera.focal / camera.pixel_pitch());
}

double predicted(const Observation& seen, const CameraEstimate& estimate) {
  return predicted(seen, estimate, camera_of(estimate));
}

}  // namespace jolly_iris
