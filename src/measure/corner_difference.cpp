#include "corner_difference.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "normal_equations.hpp"
#include "optics/quantile.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr int cells_across = 32;
constexpr double darkest_compared = 0.002;  // black levels rule below
constexpr std::size_t least_cells = 60;
// Neighbouring cells show one thing, and are off together.
constexpr double cells_alike = 2.0;

struct Ratio {
  std::array<double, 4> row{};  // 1, x, y, r²
  double stops = 0.0;
};

std::vector<Ratio> ratios_of(const Picture& plate, const Picture& cg, double plate_clip,
                             double cg_clip) {
  std::vector<Ratio> out;
  const int cell_px = std::max(4, plate.width() / cells_across);
  const double half = 0.5 * std::hypot(plate.width(), plate.height());
  for (int y0 = 0; y0 + cell_px <= plate.height(); y0 += cell_px) {
    for (int x0 = 0; x0 + cell_px <= plate.width(); x0 += cell_px) {
      double a = 0.0;
      double b = 0.0;
      bool cut = false;
      for (int y = y0; y < y0 + cell_px; ++y) {
        for (int x = x0; x < x0 + cell_px; ++x) {
          const Rgba& p = plate.at(x, y);
          const Rgba& q = cg.at(x, y);
          for (std::size_t c = 0; c < 3; ++c) {
            a += static_cast<double>(p[c]);
            b += static_cast<double>(q[c]);
            cut = cut || static_cast<double>(p[c]) >= plate_clip ||
                  static_cast<double>(q[c]) >= cg_clip;
          }
        }
      }
      const double n = 3.0 * cell_px * cell_px;
      if (cut || a / n < darkest_compared || b / n < darkest_compared) continue;
      const double x = (x0 + 0.5 * cell_px - 0.5 * plate.width()) / half;
      const double y = (y0 + 0.5 * cell_px - 0.5 * plate.height()) / half;
      out.push_back({{1.0, x, y, x * x + y * y}, std::log2(b / a)});
    }
  }
  return out;
}

// Stops that two ways of falling leave between them where each is the best for its own picture.
constexpr double of_another_law = 0.02;

}  // namespace

std::optional<Measured> corner_difference(const Picture& plate, const Picture& cg,
                                          double plate_clip, double cg_clip) {
  const std::vector<Ratio> ratios = ratios_of(plate, cg, plate_clip, cg_clip);
  if (ratios.size() < least_cells) return std::nullopt;
  std::vector<char> keep(ratios.size(), 1);
  Terms<4> solution{};
  NormalEquations<4> normal;
  double sigma = 0.0;
  for (int round = 0; round < 5; ++round) {
    normal = NormalEquations<4>();
    for (std::size_t i = 0; i < ratios.size(); ++i) {
      if (keep[i] != 0) normal.add(ratios[i].row, ratios[i].stops);
    }
    normal.damp(1.0, 1e-12);
    solution = normal.solve();
    std::vector<double> off;
    for (const Ratio& r : ratios) off.push_back(std::abs(r.stops - dot(r.row, solution)));
    sigma = std::max(1e-4, 1.48 * quantile(std::vector<double>(off), 0.5));
    for (std::size_t i = 0; i < ratios.size(); ++i) keep[i] = off[i] < 3.0 * sigma;
  }
  const double margin = 2.0 * cells_alike * sigma * std::sqrt(normal.variance(3));
  if (!std::isfinite(margin)) return std::nullopt;
  return Measured{-solution[3], std::hypot(margin, of_another_law)};
}

}  // namespace jolly_iris::measuring
