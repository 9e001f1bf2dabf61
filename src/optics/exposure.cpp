#include "jolly_iris/optics/exposure.hpp"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "above_zero.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {}  // namespace

void require_possible(const Take& take) {
  if (take.iso) require_above_zero(*take.iso, "the ISO", "take.iso");
  if (take.fps) require_above_zero(*take.fps, "the frame rate", "take.fps");
  if (take.shutter && take.shutter->time) {
    require_above_zero(take.shutter->time->seconds(), "the exposure time in s", "take.shutter");
  }
  if (take.shutter && take.shutter->angle) {
    const double degrees = take.shutter->angle->degrees();
    require_above_zero(degrees, "the shutter angle in deg", "take.shutter");
    if (degrees > 360.0 + 1e-9) {
      throw OpticsError(fmt::format("the shutter angle is {:g} deg; a frame's turn has 360, and a "
                                    "longer exposure is written as a time",
                                    degrees),
                        "take.shutter");
    }
  }
  if (!(take.nd_stops >= 0.0) || !std::isfinite(take.nd_stops)) {
    throw OpticsError(
        fmt::format("the neutral density is {:g} stops; it is 0 (none) or more", take.nd_stops),
        "take.nd");
  }
  if (take.ev && !std::isfinite(*take.ev)) {
    throw OpticsError(fmt::format("the exposure value is {:g}; write a number, e.g. 9.5", *take.ev),
                      "take.ev");
  }
}

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

std::optional<CgShutter> cg_shutter(const Take& take) {
  require_possible(take);
  const auto angle = shutter_angle(take);
  if (!angle || !take.fps) return std::nullopt;
  const double open = angle->degrees() / 360.0;
  return CgShutter{open, {-0.5 * open, 0.5 * open}, {0.0, open}};
}

double working_t_number(const Lens& lens, const Take& take, const VirtualCamera& camera) {
  return marked_t_number(lens, take.stop) * (camera.focal / camera.lens_focal) * lens.adapter /
         std::sqrt(lens.adapter_transmission);
}

std::optional<double> ev100(const Lens& lens, const Take& take, const VirtualCamera& camera) {
  return exposure_of(lens, take, camera).ev100;
}

Exposure exposure_of(const Lens& lens, const Take& take, const VirtualCamera& camera) {
  require_possible(take);
  Exposure e;
  e.marked_t = marked_t_number(lens, take.stop);
  e.adapter_t = e.marked_t * lens.adapter / std::sqrt(lens.adapter_transmission);
  e.working_t = working_t_number(lens, take, camera);
  e.t_is_known = take.stop.kind == Stop::Kind::t || lens.transmission.has_value();
  e.time = shutter_time(take);
  e.iso = take.iso;
  e.nd_stops = take.nd_stops;
  if (e.time && e.iso) {
    e.by_numbers = std::log2(e.working_t * e.working_t / e.time->seconds()) -
                   std::log2(*e.iso / 100.0) + e.nd_stops;
  }
  e.ev_is_given = take.ev.has_value();
  e.ev100 = take.ev ? take.ev : e.by_numbers;
  return e;
}

double lens_q(bool t_is_known) { return t_is_known ? std::numbers::pi / 4.0 : 0.65; }

double metered_luminance(double ev100) { return std::exp2(ev100) * meter_K / 100.0; }

double value_per_candela(double ev100, Anchor anchor, double q) {
  if (!std::isfinite(ev100)) {
    throw OpticsError(fmt::format("the exposure value is {:g}; write a number", ev100), "take.ev");
  }
  if (anchor == Anchor::grey) return grey_value / metered_luminance(ev100);
  return q / (saturation_H * std::exp2(ev100));
}

}  // namespace jolly_iris
