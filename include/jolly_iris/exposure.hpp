// How much light: shutter times and the exposure value.
#pragma once

#include <optional>

#include "jolly_iris/camera.hpp"

namespace jolly_iris {

/// The exposure time of a shutter: as written, or angle / 360° / fps.
/// None if it is an angle and the frame rate is not known, or if there is no shutter.
std::optional<Duration> shutter_time(const Take& take);

/// The shutter as an angle of the frame's turn; none without a frame rate.
std::optional<Angle> shutter_angle(const Take& take);

/// The T-number that light sees at this focus: the lens's T-number, × v/(A f₀) for the longer image
/// distance, × A/√(adapter transmission).
double working_t_number(const Lens& lens, const Take& take, const VirtualCamera& camera);

/// Exposure value at ISO 100: log2(N²/t) − log2(ISO/100) + ND in stops, N the working T-number.
/// None unless ISO and shutter time are known. Source: ISO 2720 (meter equation).
std::optional<double> ev100(const Lens& lens, const Take& take, const VirtualCamera& camera);

}  // namespace jolly_iris
