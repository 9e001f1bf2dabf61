#include "jolly_iris/observation.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/sharpness.hpp"

namespace jolly_iris {

std::string_view to_string(Observation::Kind kind) {
  switch (kind) {
    case Observation::Kind::disc:
      return "disc";
    case Observation::Kind::length:
      return "length";
    case Observation::Kind::view:
      return "view";
    case Observation::Kind::oval:
      return "oval";
    case Observation::Kind::circle:
      return "circle";
    case Observation::Kind::engraved_focal:
      return "engraved focal";
    case Observation::Kind::engraved_stop:
      break;
  }
  return "engraved stop";
}

double predicted(const Observation& seen, const VirtualCamera& camera, double scale) {
  const double own = seen.in_scene ? scale : 1.0;
  switch (seen.kind) {
    case Observation::Kind::view:
      return camera.focal / camera.pixel_pitch();
    case Observation::Kind::oval:
      return camera.pixel_pitch_wide() / camera.pixel_pitch() / camera.pupil_aspect();
    case Observation::Kind::circle:
      return camera.pixel_pitch_wide() / camera.pixel_pitch();
    case Observation::Kind::engraved_focal:
    case Observation::Kind::engraved_stop:
      throw OpticsError(fmt::format("'{}' is engraved on the lens, no camera shows it", seen.name));
    case Observation::Kind::disc:
    case Observation::Kind::length:
      break;
  }
  if (!seen.at || !(seen.at->mm() > 0.0)) {
    throw OpticsError(fmt::format("'{}' has no distance in front of the camera", seen.name));
  }
  const Length z = seen.at->is_infinite() ? *seen.at : *seen.at * own;
  if (seen.kind == Observation::Kind::disc) {
    return std::abs(to_pixels(circle_of_confusion(camera, z), camera));
  }
  const double longer = seen.length_in_scene ? own : 1.0;
  return longer * (seen.length / z) * (camera.focal / camera.pixel_pitch());
}

}  // namespace jolly_iris
