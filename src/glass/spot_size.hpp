// How small a point on the axis is shown.
#pragma once

#include "jolly_iris/glass/traced.hpp"

namespace jolly_iris {

/// Root mean square of where light of a point on the axis lands against the axis, mm; its rays even
/// over the opening.
/// @param distance from the film plane; may be infinite
/// @throws OpticsError where hardly any ray arrives
double axis_spot_rms(const TracedGlass& glass, Length distance);

}  // namespace jolly_iris
