// What somebody drew on a plate, as observations: round things, boxes around subjects, straight
// edges, grey cards.
#pragma once

#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/workflow/plate_observations.hpp"

namespace jolly_iris {

/// Adds to seen.all what is told, and to seen.left what is not, and why.
void add_drawn(const LoadedShot& loaded, const Picture& plate, PlateObservations& seen);

}  // namespace jolly_iris
