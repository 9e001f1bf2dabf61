#include "require_finite.hpp"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_reduce.h>

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

std::size_t first_bad(
    std::size_t count,
    const std::function<std::size_t(std::size_t from, std::size_t to)>& first_in) {
  return tbb::parallel_reduce(
      tbb::blocked_range<std::size_t>(0, count, 65536), count,
      [&](const tbb::blocked_range<std::size_t>& range, std::size_t found) {
        if (found < range.begin()) return found;
        const std::size_t first = first_in(range.begin(), range.end());
        return first < range.end() ? std::min(first, found) : found;
      },
      [](std::size_t a, std::size_t b) { return std::min(a, b); });
}

void refuse_pixel(const Picture& picture, std::size_t i, const std::string& what) {
  const auto width = static_cast<std::size_t>(picture.width());
  throw PictureError(fmt::format("{} at pixel {}, {}", what, i % width, i / width));
}

void require_margin(const Margin& m, PixelSize size) {
  if (m.beside >= 0 && m.above >= 0 && 2 * std::int64_t{m.beside} < size.width &&
      2 * std::int64_t{m.above} < size.height) {
    return;
  }
  throw PictureError(fmt::format("a margin of {} and {} px leaves nothing of a picture of {} x {}",
                                 m.beside, m.above, size.width, size.height));
}

void require_finite(const Picture& picture) {
  if (picture.empty()) throw PictureError("the picture has no pixels");
  const auto dark = [&](std::size_t i) {
    const Rgba& p = picture.pixels()[i];
    return !std::isfinite(p[0] + p[1] + p[2] + p[3]);
  };
  for (std::size_t i = first_of(picture.pixels().size(), dark); i < picture.pixels().size(); ++i) {
    for (const float v : picture.pixels()[i]) {
      if (!std::isfinite(v)) {
        refuse_pixel(picture, i, fmt::format("the colour is {}, which is no light,", v));
      }
    }
  }
}

}  // namespace jolly_iris
