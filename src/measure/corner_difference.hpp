// How much darker CG's corners are than the plate's, by the ratio of both.
#pragma once

#include <optional>

#include "jolly_iris/optics/measured.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

/// Stops that CG loses more at the corner than the plate, by r²; none where too little of both has
/// light that is not cut off.
/// @param plate, cg of one size
/// @param plate_clip, cg_clip light from which a channel is no witness
std::optional<Measured> corner_difference(const Picture& plate, const Picture& cg,
                                          double plate_clip, double cg_clip);

}  // namespace jolly_iris::measuring
