#include "jolly_iris/exposure.hpp"

#include <cmath>

namespace jolly_iris {

std::optional<Duration> shutter_time(const Take& take) {
  if (!take.shutter) return std::nullopt;
  if (take.shutter->time) return take.shutter->time;
  if (!take.shutter->angle || !take.fps) return std::nullopt;
  return Duration::from_seconds(take.shutter->angle->degrees() / 360.0 / *take.fps);
}

std::optional<Angle> shutter_angle(const Take& take) {
  if (!take.shutter) return std::nullopt;
  if (take.shutter->angle) return take.shutter->angle;
  if (!take.shutter->time || !take.fps) return std::nullopt;
  return Angle::from_degrees(take.shutter->time->seconds() * *take.fps * 360.0);
}

double working_t_number(const Lens& lens, const Take& take, const VirtualCamera& camera) {
  return marked_t_number(lens, take.stop) * (camera.focal / camera.lens_focal) * lens.adapter /
         std::sqrt(lens.adapter_transmission);
}

std::optional<double> ev100(const Lens& lens, const Take& take, const VirtualCamera& camera) {
  const auto time = shutter_time(take);
  if (!time || !take.iso) return std::nullopt;
  const double t = working_t_number(lens, take, camera);
  return std::log2(t * t / time->seconds()) - std::log2(*take.iso / 100.0) + take.nd_stops;
}

}  // namespace jolly_iris
