// One iris from the edges of many discs.
#pragma once

#include <vector>

#include "blade_shape.hpp"
#include "disc_fit.hpp"
#include "jolly_iris/measure/discs.hpp"

namespace jolly_iris::measuring {

/// A disc's edge as the pool takes it.
struct PooledDisc {
  EdgeProfile profile{};
  double height = 0.0;     ///< px
  double soft = 0.0;       ///< px
  double kernel = 0.0;     ///< px: the part of it that all edges of the plate have
  double left_over = 0.0;  ///< what its drawing leaves over near the edge, against the noise
  bool turned = false;     ///< against the others; found here
  bool tells = false;      ///< which way up it is
  double cut = 0.0;        ///< share of the edge that lies clearly within: hidden by the barrel
  double agrees = 0.0;     ///< share of it that lies on the common outline
  /// By how much better (χ², what is far off tamed) the common outline explains it than the same
  /// turned by half a blade; 0 for a round one.
  double votes = 0.0;
};

struct PooledIris {
  PlateIris iris{};
  BladeShape shape{};
};

/// How high a disc must be to tell the iris's shape, px: where hardly any is large, many small ones
/// do it together.
double shape_from_px(const std::vector<double>& heights);

/// Whether an edge is a tile's or a window's rather than an iris's: its fourth harmonic leads.
bool has_four_sides(const EdgeProfile& profile);

/// The outline that explains the edges: how many blades, by evidence (Schwarz 1978), their
/// curvature and rotation. Marks discs that show it upside down, and how much of each is cut off.
PooledIris pooled_iris(std::vector<PooledDisc>& discs);

/// The same where the outline is known from another frame: which way up each disc shows it, and how
/// much of it is cut off.
void pool_as_known(std::vector<PooledDisc>& discs, const PooledIris& known);

}  // namespace jolly_iris::measuring
