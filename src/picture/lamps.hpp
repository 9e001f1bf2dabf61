// Tells the light of lamps from the light of surfaces.
#pragma once

#include <vector>

#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::blur {

/// For each pixel the share of its light that a lamp brings, 0 … 1: what it has beyond the median
/// of its surroundings, if it is at least `times` as bright as that.
std::vector<float> lamp_fraction(const Picture& picture, float times = 6.0F);

}  // namespace jolly_iris::blur
