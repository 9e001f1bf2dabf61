#include "fit_together.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/optics/execution.hpp"
#include "measure/constants.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

// What leaves so much over may have been led astray by where it began.
bool astray(const FittedDisc& f) { return f.good && f.left_over > together::max_left_over; }

// Fits that begin where the disc was seen, or a little larger or smaller: the one that leaves least
// over stays.
template <class Fitted>
void begin_elsewhere(DiscItem& item, const FitSettings& settings, const Fitted& fitted) {
  FitSettings first = settings;
  first.again = false;
  for (const double times : {1.0, 1.15, 0.87}) {
    DrawnDisc start = item.seen;
    start.height *= times;
    start.turned = item.start.turned;
    start.tube_at = item.start.tube_at;
    start.tube = item.start.tube;
    const FittedDisc near = fitted(start, first);
    if (!near.good) continue;
    const FittedDisc there = fitted(near.disc, settings);
    if (there.good && there.left_over < 0.7 * item.fit.left_over) item.fit = there;
    if (!astray(item.fit)) return;
  }
}

}  // namespace

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
    const auto fitted = [&](const DrawnDisc& start, const FitSettings& how) {
      return fit_disc(plate, seen, start, shape, others, by_channel, how);
    };
    items[i].fit = fitted(items[i].start, own);
    if (settings.again && !settings.quick && astray(items[i].fit)) {
      begin_elsewhere(items[i], settings, fitted);
    }
  });
}

namespace {

bool same_disc(const DrawnDisc& a, const DrawnDisc& b) {
  const double ratio = a.height / b.height;
  return std::hypot(a.x - b.x, a.y - b.y) < 0.2 * std::max(a.height, b.height) && ratio > 0.75 &&
         ratio < 1.33;
}

// Whether one lies within another that is cut off all over: nothing shows an edge there.
bool hidden_in(const Picture& plate, const LumaModel& look, const DrawnDisc& smaller,
               const DrawnDisc& larger) {
  if (!look.clip() || !(smaller.height * smaller.height * smaller.aspect <
                        larger.height * larger.height * larger.aspect)) {
    return false;
  }
  constexpr int around = 24;
  constexpr double beyond = 1.15;  // radii: as far as two fits of one edge differ
  for (int k = 0; k < around; ++k) {
    const double a = 2.0 * std::numbers::pi * k / around;
    const double x = smaller.x + 0.5 * smaller.height * smaller.aspect * std::cos(a);
    const double y = smaller.y + 0.5 * smaller.height * std::sin(a);
    const double u = (x - larger.x) / (0.5 * larger.height * larger.aspect);
    const double v = (y - larger.y) / (0.5 * larger.height);
    if (u * u + v * v > beyond * beyond) return false;
  }
  const auto x = static_cast<int>(larger.x);
  const auto y = static_cast<int>(larger.y);
  if (x < 0 || y < 0 || x >= plate.width() || y >= plate.height()) return false;
  return static_cast<double>(plate.at(x, y)[1]) > one_disc::cut_from * *look.clip();
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
  const std::vector<DiscItem> all = items;
  std::erase_if(items, [&](const DiscItem& i) {
    return i.fit.good && i.name.empty() &&
           std::any_of(all.begin(), all.end(), [&](const DiscItem& k) {
             return k.fit.good && hidden_in(plate, look, i.fit.disc, k.fit.disc);
           });
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
