// Lamps that a picture could not hold: their light before it was clipped.
//
// A lamp of 300 that a file ended at 1 spreads over its disc as 1, and the disc drowns. Given how
// bright lamps truly are (or one lamp's disc in the plate, which tells), their pixels get it back
// before the blur.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The light of a point from its disc in a plate: the disc's value times its area.
/// @param value of the disc, linear, exposed as the picture is
/// @param diameter_px of a round disc; the picture's px
/// @throws UsageError unless both are above zero
double peak_of_disc(double value, double diameter_px);

struct RecoveredHighlights {
  Picture picture{};
  int lamps = 0;   ///< clipped spots
  int pixels = 0;  ///< that were clipped
};

/// Every pixel of which a channel reaches `clipped_at` gets `true_peak` in its brightest channel.
/// Clipped pixels are white whatever the lamp's colour was: their hue comes from the unclipped
/// pixels around the spot, if they are bright enough to tell (a tenth of the clip).
/// @throws UsageError unless 0 < clipped_at ≤ true_peak
RecoveredHighlights recover_highlights(const Picture& picture, double clipped_at, double true_peak);

}  // namespace jolly_iris
