// An iris is what discs share: whether enough of them do, and how well its shape is known then.
#pragma once

#include <vector>

#include "fit_together.hpp"
#include "jolly_iris/measure/discs.hpp"
#include "plate_iris.hpp"

namespace jolly_iris::measuring {

/// However many discs agree, an outline is known to a part of a pixel: codecs and clipping shift
/// all of them alike, and pixels lean their edges the same way. Widens the margins by that.
void doubt_iris(const std::vector<DiscItem>& items, PlateIris& iris);

/// Takes an iris back that too few discs show, and says why.
/// @param pooled of each disc
/// @param others what was refused for an outline of its own
/// @param from_px smaller discs tell no shape
void weigh_evidence(const std::vector<PlateDisc>& discs, const std::vector<PooledDisc>& pooled,
                    int others, double from_px, PlateIris& iris);

}  // namespace jolly_iris::measuring
