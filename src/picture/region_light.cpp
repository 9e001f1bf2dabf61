#include "jolly_iris/picture/region_light.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "luminance.hpp"

namespace jolly_iris {

RegionLight light_of_region(const Picture& picture, const Box& box, Primaries primaries,
                            double clips_at) {
  require_within(box, picture.size());
  const Weights weights(primaries);
  RegionLight light;
  double n = 0.0;
  double lit = 0.0;
  double log_sum = 0.0;
  double log_squares = 0.0;
  for (int y = box.y; y < box.y + box.height; ++y) {
    for (int x = box.x; x < box.x + box.width; ++x) {
      const Rgba& p = picture.at(x, y);
      if (!finite(p)) {
        light.non_finite += 1.0;
        continue;
      }
      n += 1.0;
      for (std::size_t c = 0; c < 3; ++c) light.mean[c] += static_cast<double>(p[c]);
      light.clipped += static_cast<double>(brightest(p)) >= clips_at ? 1.0 : 0.0;
      const auto luminance = static_cast<double>(weights.of(p));
      if (!(luminance > 0.0)) continue;
      lit += 1.0;
      log_sum += std::log2(luminance);
      log_squares += std::log2(luminance) * std::log2(luminance);
    }
  }
  const double all = n + light.non_finite;
  if (n == 0.0) {
    throw PictureError(fmt::format("has no finite pixel in the box {},{},{},{}", box.x, box.y,
                                   box.width, box.height));
  }
  for (double& v : light.mean) v /= n;
  const Rgb w = luminance_weights(primaries);
  light.luminance = w[0] * light.mean[0] + w[1] * light.mean[1] + w[2] * light.mean[2];
  light.clipped /= all;
  light.non_finite /= all;
  if (lit > 1.0) {
    const double mean = log_sum / lit;
    light.spread_stops = std::sqrt(std::max(0.0, log_squares / lit - mean * mean));
  }
  return light;
}

Box box_in_picture(const std::array<double, 4>& box, PixelSize delivered, PixelSize picture) {
  if (!(box[2] > 0.0) || !(box[3] > 0.0)) {
    throw UsageError(
        fmt::format("the box {:g},{:g},{:g},{:g} has no area: x, y, width, height; the "
                    "last two are more than 0",
                    box[0], box[1], box[2], box[3]));
  }
  const double right = box[0] + box[2];
  const double bottom = box[1] + box[3];
  const bool within =
      box[0] >= 0.0 && box[1] >= 0.0 && right <= delivered.width && bottom <= delivered.height;
  if (!within) {
    throw UsageError(
        fmt::format("the box {:g},{:g},{:g},{:g} does not lie within the picture of {} "
                    "x {}",
                    box[0], box[1], box[2], box[3], delivered.width, delivered.height));
  }
  const double width = static_cast<double>(picture.width) / delivered.width;
  const double height = static_cast<double>(picture.height) / delivered.height;
  // Pixels that lie wholly within, so that an edge beside the region does not count.
  const int x0 = std::min(static_cast<int>(std::ceil(box[0] * width - 1e-9)), picture.width - 1);
  const int y0 = std::min(static_cast<int>(std::ceil(box[1] * height - 1e-9)), picture.height - 1);
  const int x1 = static_cast<int>(std::floor(right * width + 1e-9));
  const int y1 = static_cast<int>(std::floor(bottom * height + 1e-9));
  return {x0, y0, std::max(1, x1 - x0), std::max(1, y1 - y0)};
}

}  // namespace jolly_iris
