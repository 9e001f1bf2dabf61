// The ordinary lens that is nearest to a glass: what a renderer that knows only a thin lens with
// rims and faults can be given.
//
//   const Lens lens = nearest_lens(prescription, {2.4_m, 1.7, {25.9_mm, 14.6_mm}});
//
// It is fitted to rays at one focus and one stop, where faults are given; how far its discs are
// from the glass's is a question for pictures of both (workflow/nearest_look.hpp).
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/prescription.hpp"
#include "jolly_iris/optics/body.hpp"
#include "jolly_iris/optics/lens.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct NearestSettings {
  Length focus = Length::infinity();  ///< from the entrance pupil
  double f_number = 0.0;              ///< as marked, of infinity; its faults are given there
  Extent gate{};  ///< as recorded, before any desqueezing: it shall be near on that, > 0
};

/// Focal length, widest stop, transmission, nearest focus, entrance pupil, breathing, squeeze and
/// distortion as the glass has them; spherical aberration, coma, field curvature and colours by
/// least squares over where rays land, in the middle and towards the corner, before and behind the
/// focus; one rim before and one behind the pupil, as they sort rays best into those that pass and
/// those that do not. Its glass is left out.
/// @throws as GlassCamera; UsageError for a gate that is none
Lens nearest_lens(const Prescription& prescription, const NearestSettings& settings);

}  // namespace jolly_iris
