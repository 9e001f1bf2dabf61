// What somebody drew on a plate, as observations: round things, boxes around subjects, straight
// edges, grey cards.
#pragma once

#include "jolly_iris/picture.hpp"
#include "seen_in_plate.hpp"

namespace jolly_iris::cli {

/// Adds to seen.all what is told, and to seen.left what is not, and why.
void add_drawn(const LoadedShot& loaded, const Picture& plate, SeenInPlate& seen);

}  // namespace jolly_iris::cli
