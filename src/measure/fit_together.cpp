#include "fit_together.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/execution.hpp"
#include "measure/constants.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

void fit_together(const Picture& plate, const GreyImage& seen, std::vector<DiscItem>& items,
                  const BladeShape& shape, const FitSettings& settings, const FitOrder& order) {
  const std::vector<DiscItem> before = items;
  parallel_for(std::size_t{0}, items.size(), [&](std::size_t i) {
    if (settings.stop.stop_requested()) throw Cancelled();
    std::vector<const DrawnDisc*> others;
    std::vector<std::array<double, 3>> by_channel;
    for (std::size_t k = 0; order.with_others && k < before.size(); ++k) {
      const FittedDisc& f = before[k].fit;
      if (k == i || !f.good || too_soft(f.disc)) continue;
      const double apart = std::hypot(f.disc.x - items[i].start.x, f.disc.y - items[i].start.y);
      if (apart > 1.6 * (0.5 * f.disc.height + 0.5 * items[i].start.height) + 8.0) continue;
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

namespace {

bool same_disc(const DrawnDisc& a, const DrawnDisc& b) {
  const double ratio = a.height / b.height;
  return std::hypot(a.x - b.x, a.y - b.y) < 0.2 * std::max(a.height, b.height) && ratio > 0.75 &&
         ratio < 1.33;
}

// Whether one lies within the other, and the plate is not as bright there as both would be.
bool one_disc_in_two(const Picture& plate, const LumaModel& look, const DrawnDisc& a,
                     const DrawnDisc& b) {
  const DrawnDisc& larger = a.height > b.height ? a : b;
  const DrawnDisc& smaller = a.height > b.height ? b : a;
  const double u = (smaller.x - larger.x) / (0.5 * larger.height * larger.aspect);
  const double v = (smaller.y - larger.y) / (0.5 * larger.height);
  if (u * u + v * v > 0.7 * 0.7) return false;
  const auto x = static_cast<int>(smaller.x);
  const auto y = static_cast<int>(smaller.y);
  if (x < 0 || y < 0 || x >= plate.width() || y >= plate.height()) return false;
  const Rgba& pixel = plate.at(x, y);
  const auto green = static_cast<double>(pixel[1]);
  if (look.clip() && green > one_disc::cut_from * *look.clip())
    return false;  // nothing is brighter
  const double ground = larger.ground * larger.ground_colour[1];
  return green < ground + larger.contrast + 0.5 * smaller.contrast;
}

}  // namespace

void merge_duplicates(const Picture& plate, const LumaModel& look, std::vector<DiscItem>& items) {
  std::sort(items.begin(), items.end(), [](const DiscItem& a, const DiscItem& b) {
    return a.name.empty() != b.name.empty() ? !a.name.empty() : a.fit.left_over < b.fit.left_over;
  });
  std::vector<DiscItem> kept;
  for (DiscItem& i : items) {
    const bool again =
        i.fit.good && std::any_of(kept.begin(), kept.end(), [&](const DiscItem& k) {
          return k.fit.good && (same_disc(i.fit.disc, k.fit.disc) ||
                                one_disc_in_two(plate, look, i.fit.disc, k.fit.disc));
        });
    if (!again) kept.push_back(std::move(i));
  }
  items = std::move(kept);
}

}  // namespace jolly_iris::measuring
