#include "disc_weights.hpp"

#include <algorithm>
#include <cmath>

namespace jolly_iris::blur {

Disc point_disc(bool changes) {
  if (!changes) return {0, {{0, 1}}, {{0, 1.0F}}, false, {}};
  return {0, {{0, 2}}, {{0, 1.0F}, {1, -1.0F}}, true, {}};
}

int Disc::reach() const {
  int max = std::max(-top, bottom());
  for (const Tap& t : taps) max = std::max(max, std::abs(t.x));
  return max;
}

int weights_of_row(const Disc& disc, std::size_t row, std::vector<float>& weights) {
  weights.clear();
  const Disc::Row& r = disc.rows[row];
  if (r.count == 0) return 0;
  const Disc::Tap* t = disc.taps.data() + r.first;
  const int first = t[0].x;
  double sum = 0.0;
  for (int i = 0; i < r.count; ++i) {
    if (!disc.changes) {
      weights.resize(static_cast<std::size_t>(t[i].x - first), 0.0F);
      weights.push_back(t[i].step);
      continue;
    }
    sum += static_cast<double>(t[i].step);
    const int next = i + 1 < r.count ? t[i + 1].x : t[i].x;
    weights.insert(weights.end(), static_cast<std::size_t>(next - t[i].x), static_cast<float>(sum));
  }
  return first;
}

Disc disc_of(int reach_x, int reach_y, const std::vector<std::array<double, 3>>& light) {
  const int width = 2 * reach_x + 1;
  const int height = 2 * reach_y + 1;
  double total = 0.0;
  bool tinted = false;
  for (const auto& l : light) {
    total += (l[0] + l[1] + l[2]) / 3.0;
    const double spread = std::max({l[0], l[1], l[2]}) - std::min({l[0], l[1], l[2]});
    tinted = tinted || spread > 1e-6 * (l[0] + l[1] + l[2]);
  }
  if (!(total > 0.0)) return point_disc(false);
  Disc disc;
  disc.changes = false;
  disc.top = -reach_y;
  for (int y = 0; y < height; ++y) {
    Disc::Row row{static_cast<int>(disc.taps.size()), 0};
    for (int x = 0; x < width; ++x) {
      const auto& l = light[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                            static_cast<std::size_t>(x)];
      const double mean = (l[0] + l[1] + l[2]) / 3.0;
      if (!(mean > 1e-9 * total)) continue;
      disc.taps.push_back({x - reach_x, static_cast<float>(mean / total)});
      if (tinted) {
        disc.tint.push_back({static_cast<float>(l[0] / mean), static_cast<float>(l[1] / mean),
                             static_cast<float>(l[2] / mean)});
      }
    }
    row.count = static_cast<int>(disc.taps.size()) - row.first;
    disc.rows.push_back(row);
  }
  return disc;
}

}  // namespace jolly_iris::blur
