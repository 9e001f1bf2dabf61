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

// Whether some lights are brighter than that for all their breadth: what overshoots beside an edge
// is narrow.
bool is_outshone(const Picture& plate, float value) {
  const float from = value * (1.0F + clip::beside);
  std::vector<long> in_row(static_cast<std::size_t>(plate.height()), 0);
  parallel_for(clip::band, plate.height() - clip::band, [&](int y) {
    for (int x = clip::band; x < plate.width() - clip::band; ++x) {
      bool all = brightest(plate.at(x, y)) > from;
      for (const int by : {-clip::band, clip::band}) {
        all = all && brightest(plate.at(x + by, y)) > from && brightest(plate.at(x, y + by)) > from;
      }
      in_row[static_cast<std::size_t>(y)] += all ? 1 : 0;
    }
  });
  return std::accumulate(in_row.begin(), in_row.end(), 0L) >= clip::enough;
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
  // Where most values are alike: what worked on luma carries the other channels' noise there too.
  std::size_t first = 0;
  long most = 0;
  for (std::size_t low = 0, high = 0; low < all.size(); ++low) {
    while (high < all.size() && all[high] <= all[low] * (1.0F + clip::worked_on)) ++high;
    const auto count = static_cast<long>(high - low);
    if (count <= most) continue;
    most = count;
    first = low;
  }
  if (most < clip::enough) return std::nullopt;
  const float at = all[first + static_cast<std::size_t>(most) / 2];
  const long beside = count_near(all, at, clip::beside) - most;
  const long above = static_cast<long>(all.size() - first) - most;
  if (most < 3 * beside || 2 * most < above) return std::nullopt;
  // An even wall behind lamps is no clip.
  if (is_outshone(plate, at)) return std::nullopt;
  return at;
}

}  // namespace jolly_iris::measuring
