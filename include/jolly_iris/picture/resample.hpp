// A picture with another number of pixels across or down: squeezed, desqueezed, smaller, larger.
//
// Along each side the picture is rebuilt as parabolas whose mean over every old pixel is that
// pixel, and every new pixel is the mean of what it covers. So no light is gained or lost, a lamp
// gets no dark ring, and a picture made larger and small again by a whole number is the same one.
// What gets smaller is averaged as wider photosites would collect it.
//
// Source: Colella and Woodward, The Piecewise Parabolic Method, J. Comput. Phys. 54 (1984), section
// 1, with its limiter.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// @param size ≥ 1 × 1
/// @return depth, where there is one, from the nearest pixel: a mean of two distances is a place
///         where nothing is
/// @throws UsageError for a size below 1 × 1
Frame resampled(const Frame& frame, PixelSize size);

}  // namespace jolly_iris
