// Where discs may be: places that edges point at from all around.
//
// At every level of a pyramid only discs of 10 to 20 px are looked for, so large ones cost no more
// than small ones. Each edge pixel votes for the middles of all discs it could belong to, on the
// bright side of it; places with votes from most of a circumference are candidates.
// Source: Loy and Zelinsky, Fast radial symmetry for detecting points of interest, 2003; for ovals
// the votes go along the oval's normal.
#pragma once

#include <cstdint>
#include <vector>

#include "grey_image.hpp"
#include "jolly_iris/optics/units.hpp"

namespace jolly_iris::measuring {

/// A place that may be a disc's middle, px of the plane that was searched.
struct Candidate {
  double x = 0.0;
  double y = 0.0;
  double radius = 0.0;  ///< half its height
  double aspect = 1.0;  ///< width / height
  double score = 0.0;   ///< share of a circumference that votes for it
};

/// An edge pixel and the direction towards its bright side.
struct EdgePixel {
  std::int16_t x, y;
  float nx, ny;
};

/// All edge pixels of a plane, row by row.
struct EdgePixels {
  PixelSize size{};
  std::vector<EdgePixel> all{};
  std::vector<std::size_t> first_of_row{};  ///< and one more; empty: the plane is too small
};

/// @param plane its values are such that noise is about the same everywhere
EdgePixels edges_of(const GreyImage& plane);

/// Candidates of 10 to 20 px height, the best first.
std::vector<Candidate> search(const EdgePixels& edges, double aspect);

}  // namespace jolly_iris::measuring
