// A lattice of rays that light goes by, and the pieces of the picture between them: cut where the
// opening's outline or a clear diameter passes between neighbours.
#pragma once

#include <vector>

#include "jolly_iris/glass/point_light.hpp"
#include "stop_wedges.hpp"

namespace jolly_iris {

/// What one ray of it came to.
struct LatticeCorner {
  Point2 at{};         ///< m, on the picture
  Point2 stop{};       ///< in the stop's plane, mm
  double rim = 0.0;    ///< up to 1: it passes all clear diameters
  double light = 0.0;  ///< of a mm² of the plane that the lattice lies in
  bool met = false;    ///< whether it comes to the film at all
};

/// @param lattice (side + 1)² of them, row by row
/// @param cell_area of a cell where `light` is counted: the first plane, mm²
/// @param pieces gains triangles, and what is left of those that are cut
void cut_lattice(const std::vector<LatticeCorner>& lattice, int side, double cell_area,
                 const StopWedges& wedges, std::vector<LightPiece>& pieces);

}  // namespace jolly_iris
