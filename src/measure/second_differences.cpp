#include "second_differences.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include "jolly_iris/measure/grain_in_plate.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr int separations[] = {1, 2, 8};

// Correlation of pixels d apart, of white noise softened by a Gaussian that is read off at pixels.
double correlation(double size_px, int d) {
  if (size_px <= 0.0) return d == 0 ? 1.0 : 0.0;
  const int reach = static_cast<int>(std::ceil(5.0 * size_px)) + d;
  double own = 0.0;
  double apart = 0.0;
  const auto w = [&](int i) { return std::exp(-0.5 * i * i / (size_px * size_px)); };
  for (int i = -reach; i <= reach; ++i) {
    own += w(i) * w(i);
    apart += w(i) * w(i + d);
  }
  return apart / own;
}

double mean_square(double size_px, int k) {
  return 6.0 - 8.0 * correlation(size_px, k) + 2.0 * correlation(size_px, 2 * k);
}

// How far chance takes a square's mean square, as a share: Σ covariance² over pairs of differences,
// those of a row with each other, of neighbouring rows, and of rows with columns (Isserlis).
double chance(double size_px, int k) {
  constexpr int n = grain_square;
  std::array<double, 2 * grain_square + 20> rho{};
  for (std::size_t d = 0; d < rho.size(); ++d) rho[d] = correlation(size_px, static_cast<int>(d));
  const auto r = [&](int dx, int dy) {
    const auto x = static_cast<std::size_t>(std::abs(dx));
    const auto y = static_cast<std::size_t>(std::abs(dy));
    return rho[x] * rho[y];
  };
  constexpr double filter[] = {1.0, -2.0, 1.0};
  const int along = n - 2 * k;
  double sum = 0.0;
  // Rows with rows (and columns with columns), by their distance.
  for (int dy = -(n - 1); dy <= n - 1; ++dy) {
    for (int dx = -(along - 1); dx <= along - 1; ++dx) {
      double cov = 0.0;
      for (int i = 0; i < 3; ++i) {
        for (int j = 0; j < 3; ++j) cov += filter[i] * filter[j] * r(dx + (j - i) * k, dy);
      }
      sum += 2.0 * cov * cov * (along - std::abs(dx)) * (n - std::abs(dy));
    }
  }
  // Rows with columns: centres (x, y) with x inside, y anywhere, and the other way round.
  for (int y = 0; y < n; y += 3) {
    for (int x = k; x < n - k; x += 3) {
      for (int v = k; v < n - k; ++v) {
        for (int u = 0; u < n; ++u) {
          double cov = 0.0;
          for (int i = 0; i < 3; ++i) {
            for (int j = 0; j < 3; ++j) {
              cov += filter[i] * filter[j] * r(u - x - (i - 1) * k, v - y + (j - 1) * k);
            }
          }
          sum += 2.0 * 9.0 * cov * cov;
        }
      }
    }
  }
  const double count = 2.0 * n * along;
  return std::sqrt(2.0 * sum) / count / mean_square(size_px, k);
}

// The share of grain's variance that a ramp of three numbers takes along: each as much as a sum
// over the square has, Σ ρ.
double ramp_share(double size_px) {
  double sum = 0.0;
  for (int d = -12; d <= 12; ++d) sum += correlation(size_px, std::abs(d));
  return 3.0 * sum * sum / (grain_square * grain_square);
}

constexpr double table_step = 0.25;

}  // namespace

ChannelDifferences second_differences(const Picture& picture, const Box& square) {
  ChannelDifferences out;
  for (std::size_t s = 0; s < 3; ++s) {
    const int k = separations[s];
    std::array<double, 3> squares{};
    std::array<double, 3> products{};
    int count = 0;
    const auto add = [&](const Rgba& a, const Rgba& m, const Rgba& b) {
      std::array<double, 3> d{};
      for (std::size_t c = 0; c < 3; ++c) {
        d[c] =
            static_cast<double>(a[c]) - 2.0 * static_cast<double>(m[c]) + static_cast<double>(b[c]);
        squares[c] += d[c] * d[c];
      }
      for (std::size_t c = 0; c < 3; ++c) products[c] += d[c] * d[(c + 1) % 3];
      ++count;
    };
    for (int y = square.y; y < square.y + square.height; ++y) {
      for (int x = square.x + k; x < square.x + square.width - k; ++x) {
        add(picture.at(x - k, y), picture.at(x, y), picture.at(x + k, y));
      }
    }
    for (int y = square.y + k; y < square.y + square.height - k; ++y) {
      for (int x = square.x; x < square.x + square.width; ++x) {
        add(picture.at(x, y - k), picture.at(x, y), picture.at(x, y + k));
      }
    }
    for (std::size_t c = 0; c < 3; ++c) {
      const double mean = squares[c] / count;
      (s == 0 ? out.of[c].near : s == 1 ? out.of[c].middle : out.of[c].far) = mean;
      if (s == 1) out.across[c] = products[c] / count;
    }
  }
  const double n = square.width * square.height;
  const double mid_x = square.x + 0.5 * (square.width - 1);
  const double mid_y = square.y + 0.5 * (square.height - 1);
  std::array<double, 3> sum{};
  std::array<double, 3> along{};
  std::array<double, 3> down{};
  std::array<double, 3> all{};
  double xx = 0.0;
  double yy = 0.0;
  for (int y = square.y; y < square.y + square.height; ++y) {
    for (int x = square.x; x < square.x + square.width; ++x) {
      xx += (x - mid_x) * (x - mid_x);
      yy += (y - mid_y) * (y - mid_y);
      for (std::size_t c = 0; c < 3; ++c) {
        const auto v = static_cast<double>(picture.at(x, y)[c]);
        sum[c] += v;
        along[c] += v * (x - mid_x);
        down[c] += v * (y - mid_y);
        all[c] += v * v;
      }
    }
  }
  for (std::size_t c = 0; c < 3; ++c) {
    const double left =
        all[c] - sum[c] * sum[c] / n - along[c] * along[c] / xx - down[c] * down[c] / yy;
    out.of[c].whole = std::max(0.0, left) / n;
  }
  return out;
}

DifferenceLaw difference_law(double size_px) {
  // Chance is dear to compute and changes slowly.
  static const std::vector<double> table = [] {
    std::vector<double> out;
    for (double s = 0.0; s <= 2.5 + 1e-9; s += table_step) out.push_back(chance(s, 2));
    return out;
  }();
  const double at =
      std::clamp(size_px / table_step, 0.0, static_cast<double>(table.size()) - 1.001);
  const auto i = static_cast<std::size_t>(at);
  const double part = at - static_cast<double>(i);
  return {mean_square(size_px, 1), mean_square(size_px, 2), mean_square(size_px, 8),
          1.0 - ramp_share(size_px), (1.0 - part) * table[i] + part * table[i + 1]};
}

}  // namespace jolly_iris::measuring
