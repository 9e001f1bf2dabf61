// What a glass does over the picture's height: angles, distortion, light, spots, where both
// directions are sharp; and how large a circle it lights at all.
//
//   TracedGlass glass(prescription);
//   for (const FieldPoint& p : over_field(glass, Length::infinity(), 21.6_mm, 9)) …
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/glass/traced.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One height on the film, straight up from its middle (straight beside it for `across`).
struct FieldPoint {
  Length height{};
  Angle angle{};            ///< in the scene, off the axis, of the ray through the opening's middle
  double distortion = 0.0;  ///< height against the straight picture's, − 1
  double light = 0.0;       ///< against the middle: projected solid angle of what passes, 0 … 1
  Length spot{};            ///< root mean square of where light lands about its own middle
  /// How far behind the film (> 0) rays beside each other meet: up and down, and sideways.
  Length tangential{};
  Length sagittal{};
};

/// @param distance from the film plane, of what lies there; may be infinite
/// @param height of the farthest, > 0
/// @param points from the middle to it, 2 … 1000
/// @return fewer where the glass shows nothing farther out
/// @throws UsageError for a height or points out of range; OpticsError for a glass that no ray of
///         the picture's middle passes
std::vector<FieldPoint> over_field(const TracedGlass& glass, Length distance, Length height,
                                   int points, Meridian meridian = Meridian::up);

/// Light at a height on the film against the middle, by what passes in both directions of the
/// pupil: E = ∫ cos θ dΩ over the directions that do, as the film sees it.
/// Source: the projected solid angle is irradiance of an evenly bright scene (Born and Wolf,
/// Principles of Optics, section 4.8), exactly, not area times cos⁴.
double relative_light(const TracedGlass& glass, Length height, Meridian meridian = Meridian::up);

/// The height on the film beyond which not a thousandth of the middle's light arrives.
Length image_circle(const TracedGlass& glass, Meridian meridian = Meridian::up);

}  // namespace jolly_iris
