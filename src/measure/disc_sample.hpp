// One pixel that a disc is fitted to, or several that are looked at as one.
#pragma once

#include <array>

namespace jolly_iris::measuring {

struct Sample {
  double x, y;                   // middle of the pixel
  double value;                  // as LumaModel sees it
  std::array<double, 3> others;  // light of neighbours
  double weight;                 // root of it; in units of 1 / noise
  double slope;                  // of the values around, per px
  float fraction;                // pixels it stands for
  double doubt;                  // how far off its value may be whatever is drawn
};

}  // namespace jolly_iris::measuring
