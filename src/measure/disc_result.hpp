// What a disc tells once it is fitted: where its edge is in every direction, and its light.
#pragma once

#include <vector>

#include "disc_fit.hpp"
#include "disc_pixels.hpp"

namespace jolly_iris::measuring {

/// Profile and what is left over near the edge, from residuals: one near the edge is the edge's
/// place times the slope of the light there.
/// @param samples weighed by the last fit; `fitted` holds its disc and noise
/// @return whether its edge shows at all: where all of it is cut off, the disc's edge is elsewhere
[[nodiscard]] bool tell_edge(const std::vector<Sample>& samples, const BladeShape& shape,
                             const LumaModel& look, FittedDisc& fitted);

/// By channel: the lamp's light, its share of the contrast, and fringes.
void tell_light(const Picture& plate, const std::vector<Sample>& samples, const BladeShape& shape,
                const LumaModel& look, FittedDisc& fitted);

}  // namespace jolly_iris::measuring
