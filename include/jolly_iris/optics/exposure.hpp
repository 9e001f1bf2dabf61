// How much light: shutter times, the exposure value, and what picture value a luminance becomes.
//
//   const Exposure e = exposure_of(lens, take, camera);
//   const double value = *e.ev100 ? luminance_cd_m2 * value_per_candela(*e.ev100, anchor, q) : …
//
// EV₁₀₀ = log2(N²/t) − log2(ISO/100) + ND, N the *working T-number*. A scene of EV₁₀₀ 10 is one for
// which a meter proposes settings of EV₁₀₀ 10.
#pragma once

#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// @throws OpticsError naming the key for an ISO, a frame rate or a shutter that is not above zero,
///         an angle over 360°, neutral density below zero, or an ev that is not finite
void require_possible(const Take& take);

/// The exposure time of a shutter: as written, or angle / 360° / fps.
/// None if it is an angle and the frame rate is not known, or if there is no shutter.
std::optional<Duration> shutter_time(const Take& take);

/// The shutter as an angle of the frame's turn; none without a frame rate. More than 360° where the
/// exposure is longer than the frame.
std::optional<Angle> shutter_angle(const Take& take);

/// When a CG camera's shutter opens and closes, in frames from the frame's own moment.
struct ShutterSpan {
  double opens = 0.0;
  double closes = 0.0;
};

/// The shutter as CG cameras are given it. Which of the two a program means is its own affair: both
/// smear equally long, half an exposure apart.
struct CgShutter {
  double open_fraction = 0.0;  ///< of a frame's time; more than 1 is longer than the frame
  ShutterSpan centred{};       ///< about the frame's moment
  ShutterSpan from_frame{};    ///< beginning there
};
/// None without a frame rate or a shutter.
std::optional<CgShutter> cg_shutter(const Take& take);

/// The T-number that light sees at this focus: the lens's T-number, × v/(A f₀) for the longer image
/// distance, × A/√(adapter transmission).
double working_t_number(const Lens& lens, const Take& take, const VirtualCamera& camera);

/// Exposure value at ISO 100: take.ev where it is given, else log2(N²/t) − log2(ISO/100) + ND in
/// stops, N the working T-number. None unless ISO and shutter time are known.
/// Source: ISO 2720 (meter equation).
/// @throws OpticsError as require_possible
std::optional<double> ev100(const Lens& lens, const Take& take, const VirtualCamera& camera);

/// The exposure with all that it was made of.
struct Exposure {
  double marked_t = 0.0;    ///< of the bare lens
  double adapter_t = 0.0;   ///< with the adapter, at infinity
  double working_t = 0.0;   ///< at this focus
  bool t_is_known = false;  ///< a T-stop, or a lens whose transmission is known
  std::optional<Duration> time{};
  std::optional<double> iso{};
  double nd_stops = 0.0;
  std::optional<double> by_numbers{};  ///< EV₁₀₀ by stop, shutter, ISO and ND
  std::optional<double> ev100{};       ///< that, or the take's ev, which leads
  bool ev_is_given = false;
};
Exposure exposure_of(const Lens& lens, const Take& take, const VirtualCamera& camera);

/// Constants of ISO 2720 and ISO 12232.
inline constexpr double meter_K = 12.5;       ///< reflected light, cd/m² · s · ISO
inline constexpr double saturation_H = 0.78;  ///< of the saturation-based speed: 78 lx·s / ISO
inline constexpr double grey_value = 0.18;

/// How much of a luminance reaches the sensor as H = q L t / N²: π/4 where the T-number and the
/// fall-off are modelled, 0.65 (which stands for a usual lens) where the T-number is not known.
double lens_q(bool t_is_known);

/// Picture value of 1 cd/m². `grey`: L = 2^EV · K/100 becomes 0.18 (ISO 2720). `saturation`: L =
/// 2^EV · 0.78/q becomes 1 (ISO 12232).
/// @throws OpticsError for an EV that is not finite
double value_per_candela(double ev100, Anchor anchor, double q);

/// The luminance that a meter calls correct, 2^EV · K/100 cd/m².
double metered_luminance(double ev100);

}  // namespace jolly_iris
