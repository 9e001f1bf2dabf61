// How noisy somebody's render is, place by place, from the picture itself.
//
// Rays of a pixel are independent, so its variance falls as one over their number: whoever wants
// half of the noise needs four times the rays. What a lens has blurred holds no detail as fine as a
// pixel, so what is left there of the finest detail is noise:
//
//   one picture   where all is blurred by 4 px or more: mean square of a second difference that
//                 straight and bent surfaces do not stir (Immerkær, "Fast noise variance
//                 estimation", 1996), at two sizes. White noise is a quarter as strong at twice the
//                 size, edges of discs are not: what holds more of them than noise is not told
//   two pictures  of one frame with other random numbers: half the mean square of their difference,
//                 also where there is detail
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/geometry.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A square of the picture.
struct NoisePlace {
  Box box{};            ///< px
  double coc_px = 0.0;  ///< of its middle pixel by size, not signed
  double level = 0.0;   ///< mean luminance
  double noise = 0.0;   ///< standard deviation of a pixel's luminance
  bool told = false;    ///< not: too sharp, or its detail cannot be told from noise
};

struct RenderNoise {
  std::vector<NoisePlace> places{};  ///< row by row
  int across = 0;                    ///< places in a row
  int down = 0;
};

/// The squares' side, px: enough pixels for a variance within a tenth or two.
inline constexpr int noise_block = 32;

/// @param coc_px of each pixel, signed px (see blur_map), @param primaries of the picture
/// @throws PictureError for sizes that differ, fewer than one square, or a pixel that is no number
RenderNoise render_noise(const Picture& picture, const std::vector<float>& coc_px,
                         Primaries primaries = Primaries::rec709);

/// @param again the same frame, rendered with other random numbers
/// @throws the same; also where the two are equal: then their random numbers were
RenderNoise render_noise(const Picture& picture, const Picture& again,
                         const std::vector<float>& coc_px, Primaries primaries = Primaries::rec709);

/// How many times the rays a place needs for a noise that is `wanted` of its level.
/// @param darkest a darker level counts as this one: nobody sees the noise of black
double times_the_rays(const NoisePlace& place, double wanted, double darkest);

}  // namespace jolly_iris
