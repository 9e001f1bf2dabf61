// A lattice of rays that light goes by, and the pieces of the picture between them: cut where the
// opening's outline or a clear diameter passes between neighbours.
#pragma once

#include <vector>

#include "jolly_iris/glass/point_light.hpp"
#include "stop_wedges.hpp"

namespace jolly_iris {

/// @param lattice (side + 1)² of them, row by row
/// @param cell_area of a cell where `light` is counted: the first plane, mm²
/// @param pieces gains triangles, and what is left of those that are cut
void cut_lattice(const std::vector<LightRay>& lattice, int side, double cell_area,
                 const StopWedges& wedges, std::vector<LightPiece>& pieces);

}  // namespace jolly_iris
