#include "fit_together.hpp"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace jolly_iris::measuring {

void fit_together(const Picture& plate, const Plane& seen, std::vector<DiscItem>& items,
                  const BladeShape& shape, const FitSettings& settings, const FitOrder& order) {
  const std::vector<DiscItem> before = items;
  tbb::parallel_for(std::size_t{0}, items.size(), [&](std::size_t i) {
    std::vector<const DrawnDisc*> others;
    std::vector<std::array<double, 3>> by_channel;
    for (std::size_t k = 0; order.with_others && k < before.size(); ++k) {
      const FittedDisc& f = before[k].fit;
      if (k == i || !f.good) continue;
      const double apart = std::hypot(f.disc.x - items[i].start.x, f.disc.y - items[i].start.y);
      if (apart > 1.6 * (0.5 * f.disc.high + 0.5 * items[i].start.high) + 8.0) continue;
      others.push_back(&f.disc);
      by_channel.push_back(f.shares);
    }
    if (order.alone_stay && others.empty() && items[i].fit.good)
      return;  // nothing has changed for it
    // What a neighbour's light has led astray begins once more where it was seen.
    FitSettings own = settings;
    if (order.afresh && !others.empty()) {
      const DrawnDisc was = items[i].start;
      items[i].start = items[i].seen;
      items[i].start.turned = was.turned;
      items[i].start.tube_at = was.tube_at;
      items[i].start.tube = was.tube;
      own.again = false;
    }
    items[i].fit = fit_disc(plate, seen, items[i].start, shape, others, by_channel, own);
  });
}

void drop_twins(std::vector<DiscItem>& items) {
  std::sort(items.begin(), items.end(), [](const DiscItem& a, const DiscItem& b) {
    return a.name.empty() != b.name.empty() ? !a.name.empty() : a.fit.left_over < b.fit.left_over;
  });
  std::vector<DiscItem> kept;
  for (DiscItem& i : items) {
    const DrawnDisc& d = i.fit.disc;
    const bool again = i.fit.good && std::any_of(kept.begin(), kept.end(), [&](const DiscItem& k) {
                         const DrawnDisc& o = k.fit.disc;
                         const double ratio = d.high / o.high;
                         return k.fit.good &&
                                std::hypot(d.x - o.x, d.y - o.y) < 0.2 * std::max(d.high, o.high) &&
                                ratio > 0.75 && ratio < 1.33;
                       });
    if (!again) kept.push_back(std::move(i));
  }
  items = std::move(kept);
}

}  // namespace jolly_iris::measuring
