#include "hidden_pixels.hpp"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>

#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris::smearing {

namespace {

// Farther inward nothing is guessed; where half of the picture is edges (noise), much less, so that
// time is bounded.
constexpr int most_steps = 256;
constexpr double most_steps_in_all = 4e7;

constexpr std::array<std::array<int, 2>, 4> sides{{{1, 0}, {-1, 0}, {0, 1}, {0, -1}}};

// From a nearer pixel to a farther one beside it.
struct Edge {
  int x = 0;
  int y = 0;
  std::size_t side = 0;
  std::uint32_t near = 0;
  std::uint32_t far = 0;
  float inward_x = 0.0F;  // along the way they part, px a step
  float inward_y = 0.0F;
  int steps = 0;  // 0: it is none
};

Edge edge_at(const PixelWays& ways, int x, int y, std::size_t side) {
  Edge e{x, y, side, ways.index(x, y), 0, 0.0F, 0.0F, 0};
  const auto [dx, dy] = sides[side];
  if (!ways.within(x + dx, y + dy)) return e;
  e.far = ways.index(x + dx, y + dy);
  if (ways.alike(e.near, e.far) || !ways.behind(e.far, e.near)) return e;
  const auto time = static_cast<float>(ways.span().closes - ways.span().opens);
  const float ux = (ways.at(e.near)[0] - ways.at(e.far)[0]) * time;
  const float uy = (ways.at(e.near)[1] - ways.at(e.far)[1]) * time;
  const float length = std::hypot(ux, uy);
  if (length < together_px) return e;
  const bool outward = ux * static_cast<float>(dx) + uy * static_cast<float>(dy) > 0.0F;
  const float sign = outward ? -1.0F : 1.0F;
  e.inward_x = sign * ux / length;
  e.inward_y = sign * uy / length;
  e.steps = std::min(most_steps, static_cast<int>(std::ceil(length)) + 1);
  return e;
}

// Two pixels a step, so that the lines of neighbours leave no gaps.
template <class F>
void along(const PixelWays& ways, const Edge& e, int steps, const F& f) {
  const bool level = std::abs(e.inward_x) >= std::abs(e.inward_y);
  for (int k = 0; k < std::min(steps, e.steps); ++k) {
    const float px = static_cast<float>(e.x) + e.inward_x * static_cast<float>(k);
    const float py = static_cast<float>(e.y) + e.inward_y * static_cast<float>(k);
    for (int beside = 0; beside < 2; ++beside) {
      const int hx =
          static_cast<int>(level ? std::lround(px) : std::lround(std::floor(px)) + beside);
      const int hy =
          static_cast<int>(level ? std::lround(std::floor(py)) + beside : std::lround(py));
      if (ways.within(hx, hy) && ways.behind(e.far, ways.index(hx, hy))) f(ways.index(hx, hy), k);
    }
  }
}

// The pixel beside the edge is a mixture of both sides: the next one tells the colour.
std::uint32_t mirrored(const PixelWays& ways, const Edge& e, int step) {
  const auto [dx, dy] = sides[e.side];
  const auto away = static_cast<float>(step + 1);
  const int x = e.x + dx - static_cast<int>(std::lround(e.inward_x * away));
  const int y = e.y + dy - static_cast<int>(std::lround(e.inward_y * away));
  const bool there = ways.within(x, y) && ways.alike(ways.index(x, y), e.far);
  return there ? ways.index(x, y) : e.far;
}

// The nearest edge of a place, as one number: its distance above which edge it is. The least of all
// is the same whoever comes first.
using Nearest = std::atomic<std::uint64_t>;
constexpr std::uint64_t none = ~0ULL;
constexpr unsigned distance_shift = 40;

}  // namespace

std::vector<HiddenPixel> hidden_pixels(const PixelWays& ways) {
  const PixelSize size = ways.size();
  const auto each_edge = [&](int y, const auto& f) {
    for (int x = 0; x < size.width; ++x) {
      if (!ways.at_outline(ways.index(x, y))) continue;
      for (std::size_t side = 0; side < sides.size(); ++side) {
        const Edge e = edge_at(ways, x, y, side);
        if (e.steps > 0) f(e);
      }
    }
  };
  std::vector<double> steps_of_row(to_size(size.height), 0.0);
  parallel_for(0, size.height, [&](int y) {
    each_edge(y, [&](const Edge& e) { steps_of_row[to_size(y)] += e.steps; });
  });
  double all = 0.0;
  for (const double steps : steps_of_row) all += steps;
  if (all == 0.0) return {};
  const int most =
      std::max(1, static_cast<int>(most_steps * std::min(1.0, most_steps_in_all / all)));
  std::vector<Nearest> nearest(ways.count());
  for (Nearest& n : nearest) n.store(none, std::memory_order_relaxed);
  parallel_for(0, size.height, [&](int y) {
    each_edge(y, [&](const Edge& e) {
      const std::uint64_t who = std::uint64_t{e.near} * sides.size() + e.side;
      along(ways, e, most, [&](std::uint32_t at, int step) {
        keep_least(nearest[at], (static_cast<std::uint64_t>(step) << distance_shift) | who);
      });
    });
  });
  std::vector<HiddenPixel> out;
  const auto width = static_cast<std::uint32_t>(size.width);
  for (int row = 0; row < ways.rows(); ++row) {
    for (int column = 0; column < ways.columns(); ++column) {
      in_block(column, row, size, [&](int x, int y) {
        const std::uint64_t found = nearest[ways.index(x, y)].load(std::memory_order_relaxed);
        if (found == none) return;
        const std::uint64_t who = found & ((std::uint64_t{1} << distance_shift) - 1);
        const auto near = static_cast<std::uint32_t>(who / sides.size());
        const Edge e = edge_at(ways, static_cast<int>(near % width), static_cast<int>(near / width),
                               static_cast<std::size_t>(who % sides.size()));
        out.push_back({ways.index(x, y), e.far,
                       mirrored(ways, e, static_cast<int>(found >> distance_shift))});
      });
    }
  }
  return out;
}

}  // namespace jolly_iris::smearing
