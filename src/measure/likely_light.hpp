// How bright a clipped lamp was, from fits that each held another brightness.
#pragma once

#include <vector>

#include "drawn_disc.hpp"

namespace jolly_iris::measuring {

struct LightTry {
  DrawnDisc disc{};
  double cost = 0.0;  ///< −log of its likelihood
};

struct LikelyLight {
  double contrast = 1.0;
  double size_sigma = 0.0;  ///< of the logarithm of the height: what the brightness leaves open
};

/// What the tries say together: each by its likelihood, straight lines between them.
LikelyLight likely_light(std::vector<LightTry> tries);

}  // namespace jolly_iris::measuring
