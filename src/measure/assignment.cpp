#include "assignment.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace jolly_iris::measuring {

std::vector<std::optional<std::size_t>> cheapest_pairs(const std::vector<std::vector<double>>& cost,
                                                       double alone) {
  const std::size_t rows = cost.size();
  std::vector<std::optional<std::size_t>> out(rows);
  if (rows == 0) return out;
  // Each row may also take a column of its own at the price of being alone.
  const std::size_t real = cost.front().size();
  const std::size_t columns = real + rows;
  constexpr double never = 1e12;
  const auto price = [&](std::size_t r, std::size_t c) {
    if (c >= real) return c - real == r ? alone : never;
    return std::min(cost[r][c], never);
  };
  // Row and column 0 are nobody's: indices below count from 1.
  std::vector<double> of_row(rows + 1, 0.0);
  std::vector<double> of_column(columns + 1, 0.0);
  std::vector<std::size_t> owner(columns + 1, 0);
  std::vector<std::size_t> way(columns + 1, 0);
  for (std::size_t r = 1; r <= rows; ++r) {
    owner[0] = r;
    std::size_t at = 0;
    std::vector<double> least(columns + 1, std::numeric_limits<double>::infinity());
    std::vector<bool> used(columns + 1, false);
    do {
      used[at] = true;
      const std::size_t row = owner[at];
      double step = std::numeric_limits<double>::infinity();
      std::size_t next = 0;
      for (std::size_t c = 1; c <= columns; ++c) {
        if (used[c]) continue;
        const double reduced = price(row - 1, c - 1) - of_row[row] - of_column[c];
        if (reduced < least[c]) {
          least[c] = reduced;
          way[c] = at;
        }
        if (least[c] < step) {
          step = least[c];
          next = c;
        }
      }
      for (std::size_t c = 0; c <= columns; ++c) {
        if (used[c]) {
          of_row[owner[c]] += step;
          of_column[c] -= step;
        } else {
          least[c] -= step;
        }
      }
      at = next;
    } while (owner[at] != 0);
    while (at != 0) {
      owner[at] = owner[way[at]];
      at = way[at];
    }
  }
  for (std::size_t c = 1; c <= real; ++c) {
    if (owner[c] != 0 && cost[owner[c] - 1][c - 1] < never) out[owner[c] - 1] = c - 1;
  }
  return out;
}

}  // namespace jolly_iris::measuring
