// The lens as marked, with what was screwed to its front and back, and what its barrel says.
//
// Distances s are axial from the entrance pupil; a *mark* is measured from the sensor plane. What
// sits in front of the lens (converter, close-up) changes what a mark means:
//
//   bare lens          mark d:  s_b = (d + √(d² − 4 f₀ d)) / 2
//   converter × k      the bare lens sees things k² times nearer:  s = k² s_b
//   close-up of P      adds its power:  1/s = 1/(k² s_b) + P
//
// Source: Gaussian imaging; an afocal attachment of angular magnification k multiplies vergences by
// k² (e.g. Smith, *Modern Optical Engineering*, ch. on afocal systems).
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/aberrations.hpp"
#include "jolly_iris/optics/disc_colouring.hpp"
#include "jolly_iris/optics/distortion.hpp"
#include "jolly_iris/optics/iris.hpp"
#include "jolly_iris/optics/take.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Where the anamorphic group sits. In front of the iris it squeezes the entrance pupil too, so
/// discs turn oval; behind it the pupil stays round and so do the discs.
enum class SqueezeAt { front, rear };

/// From the shortest to the longest focal length of a zoom.
struct ZoomRange {
  Length shortest{};
  Length longest{};
};

/// One measured point of a lens's breathing, with everything mounted as it was on the day: the
/// pinhole focal length at a mark, or the horizontal field of view of the recorded (desqueezed)
/// gate. One of the two.
struct BreathingPoint {
  Length mark{};
  std::optional<Length> focal{};
  std::optional<Angle> field{};
};

/// The squeeze that was measured at a mark.
struct SqueezePoint {
  Length mark{};
  double squeeze = 1.0;
};

/// A rim of the lens tube that cuts the light of places off the axis, as its image in the space of
/// the entrance pupil.
struct VignettingRim {
  Length radius{};
  Length ahead{};  ///< of the entrance pupil, + towards the subject: a front rim is > 0, a rear < 0
  friend bool operator==(const VignettingRim&, const VignettingRim&) = default;
};

/// Loss of light measured at a place of the picture, against the picture's middle.
struct LossPoint {
  Length height{};     ///< from the axis, on the gate as recorded (before any desqueezing), > 0
  double stops = 0.0;  ///< ≥ 0
};

struct Lens {
  std::string name{};
  Length focal{};  ///< marked focal length f₀ (vertical where squeezed; as chosen on a zoom), > 0
  std::optional<ZoomRange> zoom{};
  double adapter = 1.0;                  ///< rear adapter A: reducer < 1, extender > 1
  double adapter_transmission = 1.0;     ///< share of light the adapter passes, (0, 1]
  double converter = 1.0;                ///< afocal attachment in front k: tele > 1, wide < 1
  Power close_up{};                      ///< close-up attachment, ≥ 0
  std::optional<Length> close_focus{};   ///< the nearest mark the barrel has
  std::optional<Stop> widest{};          ///< as marked; faults are given at it
  std::optional<double> transmission{};  ///< share of light the lens passes, (0, 1]; unknown: 1
  double squeeze = 1.0;                  ///< nominal anamorphic squeeze S₀ ≥ 1
  SqueezeAt squeeze_at = SqueezeAt::front;
  std::vector<SqueezePoint> squeezes{};     ///< measured squeeze against mark; empty: S₀ always
  std::optional<double> squeeze_now{};      ///< known for this frame; leads over the table
  std::vector<BreathingPoint> breathing{};  ///< measured; empty: the simple lens
  std::optional<Length> breathing_at{};     ///< marked focal length it was measured at, of a zoom
  std::optional<Length> pupil{};            ///< entrance pupil to sensor plane, if known
  Length shift_right{};                     ///< of the picture's centre on the gate plane, as seen
  Length shift_up{};                        ///< in the scene: up shows more of what is above
  Distortion distortion{};
  Iris iris{};
  std::vector<VignettingRim> vignetting{};
  std::vector<LossPoint> loss{};  ///< measured, by rising height; replaces what is computed
  Aberrations aberrations{};
  DiscColouring colouring{};
  /// File of the prescription that it is, which rays can be traced through; empty: none is known.
  std::string glass{};
};

/// @throws OpticsError naming the key of the first value that no lens has
void require_possible(const Lens& lens);

/// The axial focus distance s that a barrel mark d stands for. With a known entrance pupil e the
/// bare lens has s_b = d − e; otherwise it is the simple lens, whose object and image are d apart
/// in all. The marks belong to the bare lens, so a rear adapter plays no part.
/// @throws OpticsError (key take.mark) for d < 4 f₀, or a mark inside the lens
Length focus_from_mark(const Lens& lens, Length mark);

/// The other way: the mark at which the barrel stands when focused at s.
/// @throws OpticsError (key focus) where the lens cannot focus (see bare_focus)
Length mark_from_focus(const Lens& lens, Length focus);

/// How far away the bare lens believes its focus to be, behind converter and close-up: s_b.
/// @throws OpticsError (key focus) for s ≤ the least distance, and beyond the close-up's reach 1/P
Length bare_focus(const Lens& lens, Length focus);

/// The farthest axial distance this lens can be focused at: infinity, or 1/P with a close-up.
Length farthest_focus(const Lens& lens);

/// Image distance v that equals the pinhole focal length at focus s: A k f₀ s_b / (s_b − f₀), or
/// the measured breathing, linear in 1/mark.
/// @param gate_width desqueezed, for breathing given as a field of view
Length pinhole_focal(const Lens& lens, Length focus, Length gate_width);

/// The squeeze S at focus s: nominal, or measured, linear in 1/mark.
double squeeze_at_focus(const Lens& lens, Length focus);

/// Entrance pupil to sensor plane when focused at s: as known, or what the simple lens has.
Length pupil_to_sensor(const Lens& lens, Length focus);

/// Whether a mark lies beyond the ends of a measured table, where its end value is held.
template <class Point>
bool beyond_table(const std::vector<Point>& table, Length mark) {
  return !table.empty() && (mark < table.front().mark || mark > table.back().mark);
}

/// The f-number N₀ the lens is set to: as marked, or T·√transmission.
double marked_f_number(const Lens& lens, const Stop& stop);
/// The T-number the bare lens is set to: as marked, or f/√transmission.
double marked_t_number(const Lens& lens, const Stop& stop);

/// Whether it can be set to that stop: not wider than its widest, if that is known.
bool opens_to(const Lens& lens, const Stop& stop);
/// The widest stop, counted as `kind` counts. @param lens whose widest stop is known
Stop widest_as(const Lens& lens, Stop::Kind kind);

}  // namespace jolly_iris
