#include "labels.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <set>
#include <utility>

namespace jolly_iris::drawing {

namespace {

constexpr double gap = 3.0;  // between two labels, px
// Words that would cost more than this make a drawing worse than their absence does.
constexpr double dearest = 1400.0;

bool overlap(const PlanBox& a, const PlanBox& b) {
  return a.x < b.x + b.width + gap && b.x < a.x + a.width + gap && a.y < b.y + b.height + gap &&
         b.y < a.y + a.height + gap;
}

bool within(const PlanBox& a, const PlanBox& panel) {
  return a.x >= panel.x + 2 && a.y >= panel.y + 2 && a.x + a.width <= panel.x + panel.width - 2 &&
         a.y + a.height <= panel.y + panel.height - 2;
}

bool covers(const PlanBox& box, const Spot& p, double around) {
  return p[0] > box.x - around && p[0] < box.x + box.width + around && p[1] > box.y - around &&
         p[1] < box.y + box.height + around;
}

double turn(const Spot& a, const Spot& b, const Spot& c) {
  return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
}

bool cross(const Spot& a, const Spot& b, const Spot& c, const Spot& d) {
  return turn(a, b, c) * turn(a, b, d) < 0.0 && turn(c, d, a) * turn(c, d, b) < 0.0;
}

bool runs_through(const Spot& a, const Spot& b, const PlanBox& box) {
  constexpr int steps = 12;
  for (int i = 1; i < steps; ++i) {
    const double t = static_cast<double>(i) / steps;
    if (covers(box, {a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])}, 0.0)) return true;
  }
  return false;
}

struct Leader {
  Spot from{};
  Spot to{};
};

// What is wrong with a place for words: how far away it is, what it covers, what its leader
// crosses. Counted up to `enough`.
double cost(const PlanBox& box, const Spot& anchor, double distance, const std::vector<Spot>& marks,
            const std::vector<PlanBox>& taken, const std::vector<Leader>& leaders, double enough) {
  constexpr double around = 4.0;
  double sum = distance;
  // Marks rise from left to right.
  auto mark = std::lower_bound(marks.begin(), marks.end(), box.x - around,
                               [](const Spot& m, double x) { return m[0] < x; });
  for (; mark != marks.end() && (*mark)[0] < box.x + box.width + around && sum < enough; ++mark) {
    if (*mark != anchor && covers(box, *mark, around)) sum += 500.0;
  }
  const Spot end = nearest_of(box, anchor);
  for (const Leader& leader : leaders) {
    if (sum >= enough) return sum;
    if (cross(anchor, end, leader.from, leader.to)) sum += 130.0;
    if (runs_through(leader.from, leader.to, box)) sum += 260.0;
  }
  for (const PlanBox& other : taken) {
    if (sum >= enough) return sum;
    if (runs_through(anchor, end, other)) sum += 260.0;
  }
  return sum;
}

}  // namespace

Spot nearest_of(const PlanBox& box, const Spot& to) {
  return {std::clamp(to[0], box.x, box.x + box.width),
          std::clamp(to[1], box.y, box.y + box.height)};
}

std::vector<PlanBox> placed(const std::vector<Wish>& wishes, const PlanBox& panel,
                            std::vector<Spot> marks, const std::vector<PlanBox>& blocked) {
  constexpr int directions = 24;
  // No drawing has room for more, and looking for it costs as much as finding it.
  constexpr std::size_t most = 300;
  std::sort(marks.begin(), marks.end());
  // Of thousands many fall into one pixel, and are one mark to the eye.
  constexpr std::size_t a_crowd = 1000;
  if (marks.size() > a_crowd) {
    std::set<std::pair<long, long>> taken_px;
    std::erase_if(marks, [&](const Spot& m) {
      return !taken_px.emplace(std::lround(m[0]), std::lround(m[1])).second;
    });
  }
  std::vector<PlanBox> taken = blocked;
  std::vector<Leader> leaders;
  std::vector<PlanBox> result;
  for (const Wish& wish : wishes) {
    PlanBox best{};
    double min = result.size() < most ? dearest : 0.0;
    for (double r = 9.0; r < 700.0 && r < min; r *= 1.17) {
      for (int i = 0; i < directions; ++i) {
        const double angle = 2.0 * std::numbers::pi * i / directions;
        const double dx = std::cos(angle);
        const double dy = std::sin(angle);
        // The side that faces the anchor stands `r` away from it.
        const PlanBox box{wish.anchor[0] + dx * r + (dx - 1.0) * 0.5 * wish.width,
                          wish.anchor[1] + dy * r + (dy - 1.0) * 0.5 * wish.height, wish.width,
                          wish.height};
        if (!within(box, panel)) continue;
        const bool free = std::none_of(taken.begin(), taken.end(),
                                       [&](const PlanBox& t) { return overlap(box, t); });
        if (!free) continue;
        const double price = cost(box, wish.anchor, r, marks, taken, leaders, min);
        if (price >= min) continue;
        min = price;
        best = box;
      }
    }
    result.push_back(best);
    if (best.width == 0.0) continue;
    taken.push_back(best);
    leaders.push_back({wish.anchor, nearest_of(best, wish.anchor)});
  }
  return result;
}

}  // namespace jolly_iris::drawing
