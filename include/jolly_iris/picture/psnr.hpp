// How alike two pictures are.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Peak signal-to-noise ratio in decibels of RGB clipped to 0 … 1 and sRGB-encoded, peak 1: how far
/// apart two pictures are to somebody who looks at them. Infinity for equal pictures.
/// @throws UsageError for pictures of different sizes
double psnr(const Picture& a, const Picture& b);

}  // namespace jolly_iris
