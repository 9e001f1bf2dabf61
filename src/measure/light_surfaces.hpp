// Even surfaces of a picture: squares whose light changes slowly, joined as long as one curve of
// light goes through them.
#pragma once

#include <vector>

#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

struct LightSquare {
  int column = 0;
  int row = 0;
  double x = 0.0;  ///< from the picture's middle, of its half diagonal; right and down
  double y = 0.0;
  double stops = 0.0;   ///< of its light
  double sigma = 0.02;  ///< of it
  bool even = false;    ///< smooth, light enough, nowhere clipped
  int surface = -1;     ///< that it belongs to; −1: none
};

struct LightSurfaces {
  int side = 0;  ///< of a square, px; even
  int columns = 0;
  int rows = 0;
  int count = 0;  ///< of surfaces
  std::vector<LightSquare> squares{};
};

/// @param clips_at from here on a channel is no witness
LightSurfaces light_surfaces(const Picture& plate, double clips_at);

}  // namespace jolly_iris::measuring
