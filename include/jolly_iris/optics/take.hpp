// What was set on the day: stop, mark, sensitivity, shutter, filters, and how the camera stood.
#pragma once

#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A stop as it was written down: an f-number (geometry) or a T-number (light).
struct Stop {
  enum class Kind { f, t };
  double value = 0.0;
  Kind kind = Kind::f;
  friend bool operator==(const Stop&, const Stop&) = default;
};
/// @throws OpticsError unless finite and > 0
Stop f_number(double n);
/// @throws OpticsError unless finite and > 0
Stop t_number(double t);

/// A shutter as written: an exposure time, or an angle of the frame's turn.
struct Shutter {
  std::optional<Duration> time{};
  std::optional<Angle> angle{};
};

/// The white of a light, or the one that a camera was told of.
struct White {
  Temperature temperature{};
  double tint = 0.0;  ///< distance from the white locus in CIE 1960 uv (Duv): + greener, − pinker
};

struct Take {
  Stop stop{};
  std::optional<Length> mark{};  ///< focus as the barrel shows it: from the *sensor plane*
  std::optional<double> iso{};
  std::optional<Shutter> shutter{};
  std::optional<double> fps{};
  double nd_stops = 0.0;           ///< neutral density in stops, all filters together, ≥ 0
  std::optional<double> ev{};      ///< EV at ISO 100; leads over what stop, shutter and ISO make
  std::optional<White> white{};    ///< what the camera was told the light is
  std::optional<Length> height{};  ///< of the entrance pupil above the floor
  std::optional<Angle> tilt{};     ///< of the view axis, + upward
};

}  // namespace jolly_iris
