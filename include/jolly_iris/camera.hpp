// From what stood on the set to what a virtual camera must be given.
//
//   const Body body{.gate = {24.6_mm, 13.8_mm}, .pixels = {3840, 2160}};
//   const Lens lens{.focal = 58_mm, .adapter = 0.71};
//   const Take take{.stop = f_number(2.0), .mark = 2.4_m};
//   const VirtualCamera camera = resolve(body, lens, take);
//
// Everything is about a *thin lens seen from its entrance pupil*: distances are axial (along the
// view axis) from the entrance pupil, which is where the virtual camera's origin belongs.
#pragma once

#include <optional>
#include <string>

#include "jolly_iris/iris.hpp"
#include "jolly_iris/units.hpp"

namespace jolly_iris {

/// The real camera: the recorded area of its sensor and the picture it delivers.
struct Body {
  std::string name{};
  Extent gate{};                          ///< recorded width × height on the sensor, > 0
  PixelSize pixels{};                     ///< the delivered (desqueezed) picture, > 0
  std::optional<PixelSize> photosites{};  ///< recorded photosites across the gate, if known
};

/// Where the anamorphic group sits. In front of the iris it squeezes the entrance pupil too, so
/// discs turn oval; behind it the pupil stays round and so do the discs.
enum class SqueezeAt { front, rear };

/// The lens as marked, and what was screwed to its back.
struct Lens {
  std::string name{};
  Length focal{};                     ///< marked focal length f₀ (vertical where squeezed), > 0
  double adapter = 1.0;               ///< rear adapter A: reducer < 1, extender > 1
  double adapter_transmission = 1.0;  ///< share of light the adapter passes, (0, 1]
  std::optional<double> transmission{};  ///< share of light the lens passes, (0, 1]; unknown: 1
  double squeeze = 1.0;                  ///< anamorphic squeeze S ≥ 1
  SqueezeAt squeeze_at = SqueezeAt::front;
  std::optional<Length> pupil{};  ///< entrance pupil to sensor plane, if known
  Iris iris{};
};

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

/// What was set on the day.
struct Take {
  Stop stop{};
  std::optional<Length> mark{};  ///< focus as the barrel shows it: from the *sensor plane*
  std::optional<double> iso{};
  std::optional<Shutter> shutter{};
  std::optional<double> fps{};
  double nd_stops = 0.0;  ///< neutral density in stops, ≥ 0
};

/// The answer: what to type into a virtual (pinhole plus aperture) camera so that it equals the
/// focused real one. `focal` and `f_number` are a pair, `lens_focal` and `lens_f_number` another;
/// never mix them.
struct VirtualCamera {
  Length focal{};         ///< pinhole focal length v = A f₀ s / (s − f₀): includes breathing
  double f_number = 0.0;  ///< v / D, so that the aperture radius is D / 2
  Length aperture_radius{};    ///< D / 2 (vertical)
  Extent gate{};               ///< desqueezed: width × S
  PixelSize pixels{};          ///< delivered picture
  Length focus{};              ///< s, axial from the entrance pupil; may be infinite
  double magnification = 0.0;  ///< v / s
  Length lens_focal{};         ///< effective focal length at infinity, A f₀
  double lens_f_number = 0.0;  ///< effective f-number at infinity, A N₀
  double lens_t_number = 0.0;  ///< effective T-number at infinity
  double squeeze = 1.0;
  SqueezeAt squeeze_at = SqueezeAt::front;
  Iris iris{};

  Angle field_of_view_wide() const;  ///< 2 atan(w / 2v)
  Angle field_of_view_high() const;  ///< 2 atan(h / 2v)
  /// Width of the entrance pupil against its height: 1/S for a front squeeze, else 1.
  double pupil_aspect() const;
  /// Side of a pixel on the (desqueezed) gate: gate width / picture width.
  Length pixel_pitch() const;
};

/// The axial focus distance s that a barrel mark d stands for.
/// With a known entrance pupil e: s = d − e. Otherwise the simple lens, whose object and image are
/// d apart in all: s = (d + √(d² − 4 f₀ d)) / 2. The marks belong to the bare lens, so a rear
/// adapter plays no part. Source: Gaussian lens formula, 1/f = 1/s + 1/(d − s).
/// @throws OpticsError (key take.mark) for d < 4 f₀, or a mark inside the lens
Length focus_from_mark(const Lens& lens, Length mark);

/// The other way: the mark at which the barrel stands when focused at s.
Length mark_from_focus(const Lens& lens, Length focus);

/// The f-number N₀ the lens is set to: as marked, or T·√transmission.
double marked_f_number(const Lens& lens, const Stop& stop);
/// The T-number the bare lens is set to: as marked, or f/√transmission.
double marked_t_number(const Lens& lens, const Stop& stop);

/// The virtual camera for a focus at axial distance `focus` (> f₀; infinity is legal).
/// Source: thin-lens imaging (e.g. Hecht, *Optics*, ch. 5); a rear adapter of factor A scales the
/// image distance by A and leaves the entrance pupil alone.
/// @throws OpticsError naming the key for impossible values
VirtualCamera resolve(const Body& body, const Lens& lens, const Take& take, Length focus);

/// The same, focused where the take's mark says.
/// @throws OpticsError if the take has no mark
VirtualCamera resolve(const Body& body, const Lens& lens, const Take& take);

}  // namespace jolly_iris
