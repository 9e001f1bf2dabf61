// Where a plate clips.
#pragma once

#include <optional>

#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

/// The brightest value of any channel that so many pixels share that it is where the picture clips;
/// none if there is no such value.
std::optional<float> plate_clip(const Picture& plate);

}  // namespace jolly_iris::measuring
