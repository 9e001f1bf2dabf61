#include "jolly_iris/optics/exposure_ramp.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

void require(bool good, const char* what, double value, const char* wanted) {
  if (good && std::isfinite(value)) return;
  throw UsageError(fmt::format("{} is {:g}; it is {}", what, value, wanted));
}

// Towards a target that stands still: at full speed while far, then ever slower.
double followed(double from, double to, double seconds, double speed, double ease) {
  const double far = to - from;
  const double slows_at = speed * ease;  // stops from the target
  const double direction = far < 0.0 ? -1.0 : 1.0;
  const double fast = std::max(0.0, (std::abs(far) - slows_at) / speed);
  if (seconds <= fast) return from + direction * speed * seconds;
  const double rest = std::min(std::abs(far), slows_at);
  if (ease == 0.0) return to;
  return to - direction * rest * std::exp(-(seconds - fast) / ease);
}

}  // namespace

std::vector<double> exposure_ramp(const std::vector<double>& wanted, const RampSettings& s) {
  require(s.stops_per_second > 0.0, "the ramp's speed in stops a second", s.stops_per_second,
          "above zero");
  require(s.fps > 0.0, "the frame rate", s.fps, "above zero");
  require(s.delay.seconds() >= 0.0, "the ramp's delay in s", s.delay.seconds(), "0 or more");
  require(s.ease.seconds() >= 0.0, "the ramp's ease in s", s.ease.seconds(), "0 or more");
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    if (std::isfinite(wanted[i])) continue;
    throw UsageError(fmt::format(
        "the exposure wanted at place {} is {:g}, which cannot be followed", i, wanted[i]));
  }
  std::vector<double> done;
  done.reserve(wanted.size());
  const double late = s.delay.seconds() * s.fps;  // frames
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    if (i == 0) {
      done.push_back(wanted[0]);
      continue;
    }
    const double ray_pick =
        std::clamp(static_cast<double>(i) - late, 0.0, static_cast<double>(wanted.size() - 1));
    const auto a = static_cast<std::size_t>(ray_pick);
    const std::size_t b = std::min(a + 1, wanted.size() - 1);
    const double t = ray_pick - static_cast<double>(a);
    const double target = wanted[a] + t * (wanted[b] - wanted[a]);
    done.push_back(
        followed(done.back(), target, 1.0 / s.fps, s.stops_per_second, s.ease.seconds()));
  }
  return done;
}

}  // namespace jolly_iris
