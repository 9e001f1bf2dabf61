#include "plate_clip.hpp"

#include <algorithm>
#include <numeric>
#include <vector>

#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr long enough = 24;  // px: about the smallest disc that is measured, or a few hot pixels

}  // namespace

std::optional<float> plate_clip(const Picture& plate) {
  const auto brightest = [&](int x, int y) {
    const Rgba& p = plate.at(x, y);
    return std::max({p[0], p[1], p[2]});
  };
  const auto rows = static_cast<std::size_t>(plate.height());
  std::vector<float> row_max(rows, 0.0F);
  parallel_for(0, plate.height(), [&](int y) {
    float& max = row_max[static_cast<std::size_t>(y)];
    for (int x = 0; x < plate.width(); ++x) max = std::max(max, brightest(x, y));
  });
  const float max = *std::max_element(row_max.begin(), row_max.end());
  if (!(max > 0.0F)) return std::nullopt;
  std::vector<int> row_count(rows, 0);
  parallel_for(0, plate.height(), [&](int y) {
    int& count = row_count[static_cast<std::size_t>(y)];
    for (int x = 0; x < plate.width(); ++x) count += brightest(x, y) >= max * 0.9999F ? 1 : 0;
  });
  if (std::accumulate(row_count.begin(), row_count.end(), 0L) < enough) return std::nullopt;
  return max;
}

}  // namespace jolly_iris::measuring
