// How far a glass's groups travel to focus at a distance.
//
//   const FocusTravel at = focused(prescription, 2.4_m);      // from the film plane, as barrels
//   mark const TracedGlass glass(prescription, at.travel);
#pragma once

#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/glass/traced.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct FocusTravel {
  Length travel{};      ///< towards the subject, of a group that `moves` 1
  int evaluations = 0;  ///< how often the lens was looked at
};

struct FocusTravelSettings {
  FocusBy by = FocusBy::axis;
  double wavelength_um = line_d_um;
  /// By light: the opening's radius; none: as wide as it opens.
  std::optional<Length> opening{};
};

/// By the axis: the root of B in the matrix from the object to the film, (y, n u)_film = (A B; C D)
/// (y, n u)_object (Hecht 2017, section 6.2.1); of infinity, of A. By light: about that, where the
/// spot of a point on the axis has the least root mean square.
/// @param distance from the film plane, as barrels are marked; may be infinite
/// @param settings `by` leads over the prescription's own where it is `light`
/// @throws OpticsError where its travel does not reach: with the nearest (or farthest) distance
/// that
///         it does; where no image is formed; where light has no least spot near the axis's focus
FocusTravel focused(const Prescription& prescription, Length distance,
                    const FocusTravelSettings& settings);
/// As the prescription says.
FocusTravel focused(const Prescription& prescription, Length distance);

/// What a glass is focused at, by the axis, from the film plane. Infinite for infinity and beyond.
Length focused_distance(const TracedGlass& glass, Meridian meridian);

/// The nearest distance that it focuses at, from the film plane: at one of its travel's ends, which
/// without such an end is half its focal length away.
Length nearest_focus(const Prescription& prescription);

}  // namespace jolly_iris
