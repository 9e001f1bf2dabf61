// From what stood on the set to what a virtual camera must be given.
//
//   const Body body{.gate = {25.9_mm, 14.6_mm}, .pixels = {3840, 2160}};
//   const Lens lens{.focal = 53_mm, .adapter = 0.76};
//   const Take take{.stop = f_number(2.2), .mark = 2.4_m};
//   const VirtualCamera camera = resolve(body, lens, take);
//
// Everything is about a *thin lens seen from its entrance pupil*: distances are axial (along the
// view axis) from the entrance pupil, which is where the virtual camera's origin belongs.
#pragma once

#include <array>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/blur_override.hpp"
#include "jolly_iris/optics/body.hpp"
#include "jolly_iris/optics/disc_colouring.hpp"
#include "jolly_iris/optics/distortion.hpp"
#include "jolly_iris/optics/iris.hpp"
#include "jolly_iris/optics/lens.hpp"
#include "jolly_iris/optics/take.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The answer: what to type into a virtual (pinhole plus aperture) camera so that it equals the
/// focused real one. `focal` and `f_number` are a pair, `lens_focal` and `lens_f_number` another;
/// never mix them.
struct VirtualCamera {
  Length focal{};         ///< pinhole focal length v = A f₀ s / (s − f₀): includes breathing
  double f_number = 0.0;  ///< v / D, so that the aperture radius is D / 2
  Length aperture_radius{};  ///< D / 2 (vertical)
  Extent gate{};             ///< recorded, desqueezed: width × S
  Extent picture{};          ///< what the delivered picture shows of the gate's plane
  PixelSize pixels{};        ///< delivered picture
  Length shift_right{};      ///< of the picture's centre from the axis, as seen in the scene
  Length shift_up{};
  Distortion distortion{};     ///< of the plate; its radius is always given here
  Length focus{};              ///< s, axial from the entrance pupil; may be infinite
  double magnification = 0.0;  ///< v / s
  Length lens_focal{};         ///< effective focal length at infinity, A k f₀
  double lens_f_number = 0.0;  ///< effective f-number at infinity, A N₀
  double lens_t_number = 0.0;  ///< effective T-number at infinity
  double squeeze = 1.0;        ///< S at this focus
  SqueezeAt squeeze_at = SqueezeAt::front;
  Length pupil_to_sensor{};  ///< as known, or the simple lens's
  Iris iris{};
  std::vector<VignettingRim> vignetting{};
  Aberrations aberrations{};
  DiscColouring colouring{};
  /// D / D_widest: how far the lens is open, 1 where its widest stop is not known. Faults go by it.
  double open_against_widest = 1.0;
  BlurOverride blur_override{};

  Angle horizontal_field_of_view() const;  ///< of the gate, 2 atan(w / 2v)
  Angle vertical_field_of_view() const;    ///< of the gate, 2 atan(h / 2v)
  Angle horizontal_picture_view() const;   ///< of the picture
  Angle vertical_picture_view() const;
  /// Width of the entrance pupil against its height: 1/S for a front squeeze, else 1.
  double pupil_aspect() const;
  /// Height of a pixel on the (desqueezed) gate; the side of a pixel, where they are square.
  Length pixel_pitch() const;
  /// Width of a pixel on the gate. It differs where the delivered pixels are not square, or the
  /// squeeze is not the nominal one that the picture was desqueezed by.
  Length pixel_pitch_x() const;

  friend bool operator==(const VirtualCamera&, const VirtualCamera&) = default;
};

/// The virtual camera for a focus at axial distance `focus` (> f₀; infinity is legal).
/// Source: thin-lens imaging (e.g. Hecht, *Optics*, ch. 5); a rear adapter of factor A scales the
/// image distance by A and leaves the entrance pupil alone; an afocal converter k in front scales
/// focal length and pupil alike.
/// @throws OpticsError naming the key for impossible values
VirtualCamera resolve(const Body& body, const Lens& lens, const Take& take, Length focus);

/// The same, focused where the take's mark says.
/// @throws OpticsError if the take has no mark
VirtualCamera resolve(const Body& body, const Lens& lens, const Take& take);

/// The direction (x right, y up, −1) in which the camera sees a place of the (undistorted) picture,
/// in px from its top left corner.
std::array<double, 3> direction_of_pixel(const VirtualCamera& camera, double x, double y);
/// Where the picture shows a direction (x right, y up, z < 0), in px.
std::array<double, 2> pixel_of_direction(const VirtualCamera& camera,
                                         const std::array<double, 3>& direction);

}  // namespace jolly_iris
