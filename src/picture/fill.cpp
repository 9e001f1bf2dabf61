// What was hidden in the sharp picture and shows in the blurred one, guessed from what is around.

#include <algorithm>
#include <array>
#include <cmath>

#include "spread.hpp"

#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris::blur {

namespace {

// What a surface weighs for filling where there is none of the right kind.
constexpr float last_resort = 1e-7F;

using Cell = std::array<float, 5>;  // colour × weight, alpha × weight, weight

const Cell& cell_at(const FillSums& level, int x, int y) {
  return level.cells[to_size(std::clamp(y, 0, level.height - 1)) * to_size(level.width) +
                     to_size(std::clamp(x, 0, level.width - 1))];
}

FillSums halved(const FillSums& fine) {
  FillSums half{(fine.width + 1) / 2, (fine.height + 1) / 2, {}};
  half.cells = LargeArray<Cell>(to_size(half.width) * to_size(half.height));
  parallel_for(0, half.height, [&](int y) {
    for (int x = 0; x < half.width; ++x) {
      Cell& cell = half.cells[to_size(y) * to_size(half.width) + to_size(x)];
      for (std::size_t c = 0; c < 5; ++c) {
        cell[c] =
            0.25F * (cell_at(fine, 2 * x, 2 * y)[c] + cell_at(fine, 2 * x + 1, 2 * y)[c] +
                     cell_at(fine, 2 * x, 2 * y + 1)[c] + cell_at(fine, 2 * x + 1, 2 * y + 1)[c]);
      }
    }
  });
  return half;
}

// Between the four cells around a pixel, `scale` pixels to a cell.
Cell between(const FillSums& level, int x, int y, int scale) {
  const double u = (x + 0.5) / scale - 0.5;
  const double v = (y + 0.5) / scale - 0.5;
  const int x0 = static_cast<int>(std::floor(u));
  const int y0 = static_cast<int>(std::floor(v));
  const auto fx = static_cast<float>(u - x0);
  const auto fy = static_cast<float>(v - y0);
  Cell out{};
  for (std::size_t c = 0; c < 5; ++c) {
    out[c] =
        (1 - fy) * ((1 - fx) * cell_at(level, x0, y0)[c] + fx * cell_at(level, x0 + 1, y0)[c]) +
        fy * ((1 - fx) * cell_at(level, x0, y0 + 1)[c] + fx * cell_at(level, x0 + 1, y0 + 1)[c]);
  }
  return out;
}

// The sums halved again and again.
std::vector<FillSums> pyramid(FillSums full, int reach) {
  std::vector<FillSums> levels;
  levels.push_back(std::move(full));
  for (int size = 2; size < reach && levels.size() < 12; size *= 2) {
    levels.push_back(halved(levels.back()));
  }
  return levels;
}

FillSums mixed(const std::array<const FillSums*, 3>& from, const std::array<float, 3>& weight) {
  FillSums out{from[0]->width, from[0]->height, {}};
  out.cells = LargeArray<Cell>(to_size(out.width) * to_size(out.height));
  parallel_for(0, out.height, [&](int y) {
    const std::size_t row = to_size(y) * to_size(out.width);
    for (std::size_t i = row; i < row + to_size(out.width); ++i) {
      for (std::size_t c = 0; c < 5; ++c) {
        out.cells[i][c] = weight[0] * from[0]->cells[i][c] + weight[1] * from[1]->cells[i][c] +
                          weight[2] * from[2]->cells[i][c];
      }
    }
  });
  return out;
}

// Colour and weight around a pixel; the farther around, the less it says about here.
Cell told_around(const std::vector<FillSums>& levels, int x, int y) {
  Cell sum{};
  float trust = 1.0F;
  for (std::size_t k = 0; k < levels.size(); ++k, trust *= 0.25F) {
    const Cell cell = between(levels[k], x, y, 2 << k);
    for (std::size_t c = 0; c < 5; ++c) sum[c] += trust * cell[c];
  }
  return sum;
}

}  // namespace

Picture fill_open(std::unique_ptr<Composite> joined, int reach) {
  Picture out = std::move(joined->covered);
  if (!joined->holes) return out;
  const std::vector<FillSums> from_focus = pyramid(
      mixed({&joined->focus, &joined->behind, &joined->front}, {1.0F, 1.0F, last_resort}), reach);
  const std::vector<FillSums> from_behind = pyramid(
      mixed({&joined->behind, &joined->focus, &joined->front}, {1.0F, last_resort, last_resort}),
      reach);
  parallel_for(0, out.height(), [&](int y) {
    for (int x = 0; x < out.width(); ++x) {
      const std::size_t i = to_size(y) * to_size(out.width()) + to_size(x);
      if (joined->open[i] <= 1e-6F) continue;
      const Cell sum = told_around(joined->beside_front[i] ? from_focus : from_behind, x, y);
      if (!(sum[4] > 0.0F)) continue;
      for (std::size_t c = 0; c < 4; ++c) {
        out.pixels()[i][c] += joined->open[i] * sum[c] / sum[4];
      }
    }
  });
  return out;
}

}  // namespace jolly_iris::blur
