// Where a pixel of the sharp picture shows two things at once, a nearer one and what is behind it.
//
// A renderer's edge pixel is a mean of two colours, but it has one depth. Blurred as it is, the
// nearer thing's colour would be spread with the farther one's disc: a seam along every outline.
// Such pixels are taken apart: both colours are known from the pixels beside the edge, and how much
// of either the pixel shows follows from its own colour.
#pragma once

#include <cstdint>
#include <vector>

#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::blur {

/// What is left of an edge's pixel.
struct PartedPixel {
  int x = 0;
  std::int16_t step = 0;  ///< of the surface it belongs to
  float coc = 0.0F;       ///< px, of that surface
  float fraction = 1.0F;  ///< how much of the pixel that surface covers, 0 … 1
  Rgba light{};           ///< what it shows of that surface: its colour × share
};

/// What parts the pixels at steps of depth, row by row and from left to right. Nothing is parted
/// where the two colours are alike, where they do not explain the pixel, or where a side of the
/// edge is too narrow to say what its colour is.
///
/// Of a nearer thing that is sharp, the share is kept, and what is behind is left to filling. Of
/// one that is blurred, every pixel is given wholly to the side that its depth says.
/// @param coc signed diameters, px; @param lamp_fraction those of 0 take part
std::vector<std::vector<PartedPixel>> part_edges(const Picture& picture,
                                                 const std::vector<float>& coc,
                                                 const std::vector<std::int16_t>& step,
                                                 const std::vector<float>& lamp_fraction);

}  // namespace jolly_iris::blur
