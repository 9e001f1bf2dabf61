// Focus from a depth picture: what lies under a pixel, or in the picture's middle.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// @param picture its depth channel, or where it has none its red, linear
/// @param delivered size of the shot's delivered picture: pixels are counted in that, whatever size
///        the depth picture has
/// @param focus with a pixel or an area; the area is the middle ninth
/// @return the distance, with its pixel, and a sentence: "pixel 960, 540 of depth.exr: 2.351 m"
/// @throws PictureError for a pixel outside the picture, nothing but sky in the area, and numbers
///         that stand for no distance
Picked pick_depth(const Frame& picture, const DepthEntry& entry, PixelSize delivered,
                  const Focus& focus);

}  // namespace jolly_iris
