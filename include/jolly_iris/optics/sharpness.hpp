// Who is sharp: circles of confusion, limits, hyperfocal distance, diffraction.
//
// All distances are axial from the entrance pupil. The circle of confusion (CoC) is *signed*:
// positive behind the focus plane, negative in front of it.
#pragma once

#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What still counts as sharp.
struct Criterion {
  enum class Kind {
    pixels,     ///< k pixels of the delivered picture: what the viewer of this picture can see
    photosite,  ///< one photosite of the sensor
    print       ///< gate diagonal / 1500, the habit of printed tables
  };
  Kind kind = Kind::pixels;
  double pixels = 2.0;
};

/// The largest CoC diameter that is still sharp, on the gate.
/// @throws OpticsError if the criterion needs photosites and the body's are not known
Length coc_limit(const Criterion& criterion, const Body& body, const VirtualCamera& camera);

/// Signed CoC diameter (vertical) of something at axial distance z (> 0, infinity is legal):
/// c = D v (1/s − 1/z). Source: similar triangles at the thin lens. A cheat's band takes the place
/// of s (its near edge in front, its far edge behind; 0 between them), its limit cuts the result.
/// @throws OpticsError for z ≤ 0
Length circle_of_confusion(const VirtualCamera& camera, Length z);

/// The same across the frame: smaller by the squeeze where the lens squeezes in front.
Length circle_of_confusion_x(const VirtualCamera& camera, Length z);

/// A length on the gate in (the height of) pixels of the delivered picture.
double to_pixels(Length on_gate, const VirtualCamera& camera);

/// How many pixels a render needs beyond each side of the picture, so that blur at the frame's edge
/// is right: half the CoC times the *outermost* point of the opening, rounded up.
struct Margin {
  int beside = 0;  ///< left, and as many right
  int above = 0;   ///< above, and as many below
};
/// @param coc the largest disc that things in or beside the frame have; either sign
Margin margin_for(const VirtualCamera& camera, Length coc);

/// From where to where things are sharp. `far` is infinity when nothing behind is unsharp.
struct SharpRange {
  Length near{};
  Length far{};
};
/// 1/near = 1/s + c/(D v), 1/far = 1/s − c/(D v). @throws OpticsError for limit ≤ 0
SharpRange sharp_range(const VirtualCamera& camera, Length limit);

/// Focused here (of the lens at infinity), everything to infinity is sharp: f²/(N c) + f.
Length hyperfocal(const VirtualCamera& camera, Length limit);

/// Diameter of the Airy disc on the gate, 2.44 λ v/D: closing down further sharpens nothing.
/// Source: Airy 1835; first zero of the diffraction pattern of a circular opening.
Length airy_diameter(const VirtualCamera& camera, Length wavelength = Length::from_mm(550e-6));

}  // namespace jolly_iris
