// A linear picture as a viewer shows it.
#pragma once

#include "canvas.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::drawing {

/// sRGB, what is above 1 clipped; it adds to the night behind it.
Raster raster_of(const Picture& picture);

}  // namespace jolly_iris::drawing
