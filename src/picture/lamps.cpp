#include "lamps.hpp"

#include <algorithm>

#include "optics/quantile.hpp"
#include "parallel.hpp"

namespace jolly_iris::blur {

namespace {
// A lamp covers up to 3 × 3 pixels; in 7 × 7 it cannot be the median.
constexpr int surround = 3;

float brightness(const Rgba& p) { return (p[0] + p[1] + p[2]) / 3.0F; }
}  // namespace

std::vector<float> lamp_fraction(const Picture& picture, float times) {
  const int w = picture.width();
  const int h = picture.height();
  std::vector<float> fraction(picture.pixels().size(), 0.0F);
  parallel_for(0, h, [&](int y) {
    std::vector<float> near;
    for (int x = 0; x < w; ++x) {
      const float own = brightness(picture.at(x, y));
      if (!(own > 0.0F)) continue;
      // Most pixels are no lamp: their neighbours on both sides are about as bright.
      const float left = brightness(picture.at(std::max(0, x - surround), y));
      const float right = brightness(picture.at(std::min(w - 1, x + surround), y));
      if (own < times * std::min(left, right)) continue;
      near.clear();
      for (int v = std::max(0, y - surround); v <= std::min(h - 1, y + surround); ++v) {
        for (int u = std::max(0, x - surround); u <= std::min(w - 1, x + surround); ++u) {
          near.push_back(brightness(picture.at(u, v)));
        }
      }
      const float typical = std::max(0.0F, upper_median(near));
      if (own >= times * typical) {
        fraction[static_cast<std::size_t>(y) * static_cast<std::size_t>(w) +
                 static_cast<std::size_t>(x)] = 1.0F - typical / own;
      }
    }
  });
  return fraction;
}

}  // namespace jolly_iris::blur
