#include "plate_clip.hpp"

#include <algorithm>
#include <numeric>
#include <vector>

#include "codec_step.hpp"
#include "measure/constants.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

float brightest(const Rgba& p) { return std::max({p[0], p[1], p[2]}); }

// How many of sorted values lie within a share of one.
long count_near(const std::vector<float>& sorted, float value, float share) {
  const auto from = std::lower_bound(sorted.begin(), sorted.end(), value * (1.0F - share));
  const auto to = std::upper_bound(from, sorted.end(), value * (1.0F + share));
  return to - from;
}

}  // namespace

// What worked on a picture after it was clipped (demosaicing, sharpening) has some pixels beside
// edges brighter than the clip, yet within lights all of them still are at it.
std::optional<float> plate_clip(const Picture& plate) {
  const auto rows = static_cast<std::size_t>(plate.height());
  std::vector<float> row_max(rows, 0.0F);
  parallel_for(0, plate.height(), [&](int y) {
    float& max = row_max[static_cast<std::size_t>(y)];
    for (int x = 0; x < plate.width(); ++x) max = std::max(max, brightest(plate.at(x, y)));
  });
  const float max = *std::max_element(row_max.begin(), row_max.end());
  if (!(max > 0.0F)) return std::nullopt;
  std::vector<std::vector<float>> bright(rows);
  parallel_for(0, plate.height(), [&](int y) {
    for (int x = 0; x < plate.width(); ++x) {
      const float v = brightest(plate.at(x, y));
      if (v >= clip::lowest * max) bright[static_cast<std::size_t>(y)].push_back(v);
    }
  });
  std::vector<float> all;
  for (const auto& row : bright) all.insert(all.end(), row.begin(), row.end());
  std::sort(all.begin(), all.end());
  const long at_max = count_near(all, max, clip::same);
  // Few bits make steps, and the highest of them is shared as well: less than those below it.
  if (at_max >= clip::enough && 2 * at_max >= count_near(all, max, clip::beside)) return max;
  // A codec makes lights even that are not clipped.
  if (codec_step(plate) > 0.0) return std::nullopt;
  // Where most values are alike.
  float at = 0.0F;
  long most = 0;
  for (std::size_t i = 0; i < all.size();) {
    const auto end = std::upper_bound(all.begin() + static_cast<std::ptrdiff_t>(i), all.end(),
                                      all[i] * (1.0F + clip::same));
    const long count = end - all.begin() - static_cast<std::ptrdiff_t>(i);
    if (count > most) {
      most = count;
      at = all[i];
    }
    i = static_cast<std::size_t>(end - all.begin());
  }
  const long beside = count_near(all, at, clip::beside) - most;
  const long above = all.end() - std::upper_bound(all.begin(), all.end(), at * (1.0F + clip::same));
  if (most < clip::enough || most < 3 * beside || 2 * most < above) return std::nullopt;
  return at;
}

}  // namespace jolly_iris::measuring
