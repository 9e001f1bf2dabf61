// How strongly blur is shaded, the same in every drawing and page.
#pragma once

#include <algorithm>
#include <cmath>

namespace jolly_iris::drawing {

/// 0 at the limit of what is called sharp, 1 from 32 times that on, even in stops of blur between.
/// @param coc_px of any sign @param limit_px > 0
inline double blur_strength(double coc_px, double limit_px) {
  constexpr double doublings = 5.0;  // from sharp to a disc that fills a good part of the picture
  const double limit = std::max(limit_px, 1e-3);
  return std::clamp(std::log2(std::abs(coc_px) / limit) / doublings, 0.0, 1.0);
}

}  // namespace jolly_iris::drawing
