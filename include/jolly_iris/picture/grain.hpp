// Grain: noise whose variance goes with the light, softened over neighbours, another in each frame.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/finish.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Adds grain in linear light, before a file rounds it to its steps. The same for any number of
/// threads, and for a part of the picture as for the whole.
///
/// In each channel the variance at light L is a + b L, a = black², b = (grey² − black²) / 0.18:
/// readout noise and the noise of counting photons (e.g. EMVA 1288, release 4, § 2). Below zero
/// light has the variance of none.
/// @param size_px standard deviation of the Gaussian over which it is softened; the variance above
///        is that of what comes out
/// @param origin where this picture's top left corner is in the whole one
/// @throws OpticsError (finish.grain…) for values out of their ranges; PictureError for colour that
///         is not finite
Picture with_grain(Picture picture, const Grain& grain, double size_px, double frame,
                   std::array<int, 2> origin = {0, 0});

}  // namespace jolly_iris
