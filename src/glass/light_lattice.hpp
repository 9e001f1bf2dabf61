// A lattice of rays that light goes by, and the pieces of the picture between them: cut where the
// opening's outline or a clear diameter passes between neighbours.
#pragma once

#include <vector>

#include "jolly_iris/glass/point_light.hpp"
#include "stop_wedges.hpp"

namespace jolly_iris {

/// The place that a lattice's rays begin in: the first vertex's plane, mm.
struct LatticePlane {
  double z = 0.0;
  double behind = 0.0;  ///< of the entrance pupil, m; < 0: before it
  double left = 0.0, low = 0.0;
  double step_x = 0.0, step_y = 0.0;
  std::size_t columns = 0;
};

/// As many of its rays as a block holds, from number `first` on: from a point of the scene to the
/// plane; and the light that each stands for, `unit` for a mm² that is met straight.
void begin_rays(const LatticePlane& plane, const PupilPlace& from, std::size_t first, double unit,
                RayBlock& rays, std::vector<LightRay>& lattice);

/// @param lattice (side + 1)² of them, row by row
/// @param cell_area of a cell where `light` is counted: the first plane, mm²
/// @param pieces gains triangles, and what is left of those that are cut
void cut_lattice(const std::vector<LightRay>& lattice, int side, double cell_area,
                 const StopWedges& wedges, std::vector<LightPiece>& pieces);

}  // namespace jolly_iris
