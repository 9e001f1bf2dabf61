// Each colour's picture at its own size.
#pragma once

#include <array>

#include "disc_table.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::blur {

/// Red, green and blue drawn out about the axis by their factors; alpha goes with green. Cubic
/// (Catmull and Rom) between pixels; the frame's edge goes on beyond it.
Picture magnified(Picture picture, const std::array<double, 3>& factors, const GateMap& map);

}  // namespace jolly_iris::blur
