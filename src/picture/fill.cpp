// What was hidden in the sharp picture and shows in the blurred one, guessed from what is around.

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>

#include "spread.hpp"

#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris::blur {

namespace {

// What a surface weighs for filling where there is none of the right kind.
constexpr float last_resort = 1e-7F;

using Cell = std::array<float, 5>;  // colour × weight, alpha × weight, weight

// Four at a time: compilers do not see them in five. Cells are not aligned to four.
void add(Cell& sum, float times, const Cell& cell) {
  using V4 = float __attribute__((vector_size(16)));
  V4 all;
  V4 one;
  std::memcpy(&all, sum.data(), sizeof(V4));
  std::memcpy(&one, cell.data(), sizeof(V4));
  all += times * one;
  std::memcpy(sum.data(), &all, sizeof(V4));
  sum[4] += times * cell[4];
}

// The two cells on either side of a pixel along one axis, and how much of the second.
struct Beside {
  std::size_t first = 0;
  std::size_t second = 0;
  float part = 0.0F;
};

// Of every pixel along an axis of `count`, with `scale` pixels to each of `cells` cells.
std::vector<Beside> cells_beside(int count, int cells, int scale) {
  std::vector<Beside> out(to_size(count));
  for (int x = 0; x < count; ++x) {
    const double u = (x + 0.5) / scale - 0.5;
    const int first = static_cast<int>(std::floor(u));
    out[to_size(x)] = {to_size(std::clamp(first, 0, cells - 1)),
                       to_size(std::clamp(first + 1, 0, cells - 1)), static_cast<float>(u - first)};
  }
  return out;
}

FillSums halved(const FillSums& fine) {
  FillSums half{(fine.width + 1) / 2, (fine.height + 1) / 2, {}};
  half.cells = LargeArray<Cell>(to_size(half.width) * to_size(half.height));
  const auto fine_row = [&](int y) {
    return fine.cells.get() + to_size(std::min(y, fine.height - 1)) * to_size(fine.width);
  };
  parallel_for(0, half.height, [&](int y) {
    const Cell* above = fine_row(2 * y);
    const Cell* below = fine_row(2 * y + 1);
    Cell* cells = half.cells.get() + to_size(y) * to_size(half.width);
    for (int x = 0; x < half.width; ++x) {
      const std::size_t left = to_size(2 * x);
      const std::size_t right = to_size(std::min(2 * x + 1, fine.width - 1));
      for (std::size_t c = 0; c < 5; ++c) {
        cells[x][c] = 0.25F * (above[left][c] + above[right][c] + below[left][c] + below[right][c]);
      }
    }
  });
  return half;
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

// What the sums say around each pixel; the farther around, the less it says about here.
class Surroundings {
 public:
  Surroundings(std::vector<FillSums> levels, PixelSize size) : levels_(std::move(levels)) {
    int scale = 2;
    for (const FillSums& level : levels_) {
      along_.push_back(cells_beside(size.width, level.width, scale));
      down_.push_back(cells_beside(size.height, level.height, scale));
      scale *= 2;
    }
  }

  Cell around(int x, int y) const {
    Cell sum{};
    float trust = 1.0F;
    for (std::size_t k = 0; k < levels_.size(); ++k, trust *= 0.25F) {
      const Beside& u = along_[k][to_size(x)];
      const Beside& v = down_[k][to_size(y)];
      const Cell* above = levels_[k].cells.get() + v.first * to_size(levels_[k].width);
      const Cell* below = levels_[k].cells.get() + v.second * to_size(levels_[k].width);
      const float down = trust * v.part;
      const float up = trust - down;
      add(sum, up * (1.0F - u.part), above[u.first]);
      add(sum, up * u.part, above[u.second]);
      add(sum, down * (1.0F - u.part), below[u.first]);
      add(sum, down * u.part, below[u.second]);
    }
    return sum;
  }

 private:
  std::vector<FillSums> levels_;
  std::vector<std::vector<Beside>> along_{};  // of each level, each pixel of a row
  std::vector<std::vector<Beside>> down_{};
};

}  // namespace

Picture fill_open(std::unique_ptr<Composite> joined, int reach) {
  Picture out = std::move(joined->covered);
  if (!joined->holes) return out;
  const Surroundings from_focus(
      pyramid(mixed({&joined->focus, &joined->behind, &joined->front}, {1.0F, 1.0F, last_resort}),
              reach),
      out.size());
  const Surroundings from_behind(pyramid(mixed({&joined->behind, &joined->focus, &joined->front},
                                               {1.0F, last_resort, last_resort}),
                                         reach),
                                 out.size());
  parallel_for(0, out.height(), [&](int y) {
    for (int x = 0; x < out.width(); ++x) {
      const std::size_t i = to_size(y) * to_size(out.width()) + to_size(x);
      if (joined->open[i] <= 1e-6F) continue;
      const Cell sum = (joined->beside_front[i] ? from_focus : from_behind).around(x, y);
      if (!(sum[4] > 0.0F)) continue;
      for (std::size_t c = 0; c < 4; ++c) {
        out.pixels()[i][c] += joined->open[i] * sum[c] / sum[4];
      }
    }
  });
  return out;
}

}  // namespace jolly_iris::blur
