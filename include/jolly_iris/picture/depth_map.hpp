// Depth pictures as programs write them → one axial distance a pixel.
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/depth_code.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A depth picture (its Z, or else its red channel) decoded and brought to another size: every
/// pixel takes the depth of the one it falls on, since the mean of two depths is neither.
/// @param camera whose picture it shows: radial distances become axial
/// @return axial metres, row by row; infinity is sky
/// @throws PictureError naming the pixel for a number the code does not know
std::vector<float> axial_depth(const Frame& picture, const DepthCode& code,
                               const VirtualCamera& camera, PixelSize size);

/// Depth whose edges were averaged (by filtering, or by scaling the picture): a pixel between two
/// surfaces that is as far as neither would be blurred like something that is not there. Each such
/// pixel takes the depth of the surface it is nearer to.
/// @return how many pixels were mended
int mend_edges(std::vector<float>& depth, PixelSize size);

/// A frame made smaller: colour averaged over each pixel's area, depth that of the nearest in it.
/// Half of it is half_of.
/// @throws UsageError for a size that is larger, or without pixels
Frame reduced(const Frame& frame, PixelSize size);

/// Half the width and height: colour averaged, depth that of the nearest of four.
Frame half_of(const Frame& frame);

}  // namespace jolly_iris
