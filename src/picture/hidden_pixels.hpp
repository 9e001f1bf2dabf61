// What a nearer thing hides and may leave while the shutter is open.
#pragma once

#include <cstdint>
#include <vector>

#include "pixel_ways.hpp"

namespace jolly_iris::smearing {

/// A pixel of a background behind something nearer.
struct HiddenPixel {
  std::uint32_t at = 0;      ///< where it is at the frame's moment
  std::uint32_t like = 0;    ///< the pixel whose vector and depth it has
  std::uint32_t colour = 0;  ///< the pixel whose colour it has
};

/// Behind every outline that parts from what is behind it the background goes on inward, along the
/// way they part, as a mirror image of what is seen outside. Sorted by blocks.
std::vector<HiddenPixel> hidden_pixels(const PixelWays& ways);

}  // namespace jolly_iris::smearing
