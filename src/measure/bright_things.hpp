// Things in a plate that are far brighter than what is around them.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

struct BrightThing {
  std::array<double, 2> at{};  ///< its light's centre, px
  double radius_px = 0.0;      ///< of a disc of its area
  double reach_px = 0.0;       ///< from the centre to its farthest pixel
  float peak = 0.0F;           ///< mean of channels
  bool clipped = false;
  bool at_edge = false;  ///< the frame cuts it
  std::vector<std::uint32_t>
      pixels{};  ///< all that it may shine in directly, its soft edge included
};

/// Of a lamp: so many times the light of what is around it. A bright patch of a wall has less.
inline constexpr double lamp_against_ground = 4.0;

struct BrightThings {
  std::vector<BrightThing> things{};  ///< the largest light first
  std::vector<int> owner{};           ///< by pixel: number of its thing, −1: none
  float threshold = 0.0F;             ///< mean of channels from which something is bright
};

/// @param clips_at from here on a channel is clipped; 0: nowhere
BrightThings bright_things_in(const Picture& plate, double clips_at);

}  // namespace jolly_iris::measuring
