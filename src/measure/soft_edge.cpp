#include "soft_edge.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <vector>

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;
constexpr double farthest = 5.0;  // deviations
constexpr int cells = 400;        // from −farthest to farthest
constexpr int shares = 24;        // of the lamp, 0 … 1
constexpr double step = 2.0 * farthest / cells;

double psf_sigma_below(double t) { return 0.5 * std::erfc(-t / std::numbers::sqrt2); }

// Of a tent with deviation 1: it reaches √6 to each side.
double tent_below(double t) {
  const double x = t / std::sqrt(6.0);
  if (x <= -1.0) return 0.0;
  if (x >= 1.0) return 1.0;
  return x < 0.0 ? 0.5 * (1.0 + x) * (1.0 + x) : 1.0 - 0.5 * (1.0 - x) * (1.0 - x);
}

struct Table {
  struct Cover {
    float psf_sigma, tent;
  };
  std::array<std::array<Cover, cells + 1>, shares + 1> cover{};

  Table() {
    for (int k = 0; k <= shares; ++k) {
      const double lamp = static_cast<double>(k) / shares;
      const double radius = 2.0 * std::sqrt(lamp);  // a round lamp's deviation is half its radius
      const double psf_sigma = std::sqrt(std::max(1.0 - lamp, 1e-4));
      for (int i = 0; i <= cells; ++i) {
        const double d = -farthest + i * step;
        // Strips of the lamp, each an edge of its own.
        constexpr int n = 64;
        double with_psf_sigma = 0.0;
        double with_tent = 0.0;
        double weight = 0.0;
        for (int j = 0; j < n; ++j) {
          const double at = -1.0 + (2.0 * j + 1.0) / n;
          const double w = std::sqrt(1.0 - at * at);
          with_psf_sigma += w * psf_sigma_below((d - radius * at) / psf_sigma);
          with_tent += w * tent_below((d - radius * at) / psf_sigma);
          weight += w;
        }
        cover[static_cast<std::size_t>(k)][static_cast<std::size_t>(i)] = {
            static_cast<float>(with_psf_sigma / weight), static_cast<float>(with_tent / weight)};
      }
    }
  }
};

const Table& table() {
  static const Table made;
  return made;
}

}  // namespace

double tent_fraction(double psf_sigma_px) {
  return std::min(1.0, 1.0 / (6.0 * psf_sigma_px * psf_sigma_px));
}

EdgeLight edge_light(double t, double lamp, double tent) {
  if (t >= farthest - 1e-6) return {1.0, 0.0};
  if (t <= -farthest + 1e-6) return {0.0, 0.0};
  const Table& all = table();
  const double x = (t + farthest) / step;
  const auto i = static_cast<std::size_t>(x);
  const double f = x - static_cast<double>(i);
  const double y = std::clamp(lamp, 0.0, 1.0) * shares;
  const auto k = std::min(static_cast<std::size_t>(y), static_cast<std::size_t>(shares - 1));
  const double g = y - static_cast<double>(k);
  const auto at = [&](std::size_t row, std::size_t cell) {
    const Table::Cover& c = all.cover[row][cell];
    return static_cast<double>(c.psf_sigma) + tent * static_cast<double>(c.tent - c.psf_sigma);
  };
  const double low = (1.0 - g) * at(k, i) + g * at(k + 1, i);
  const double high = (1.0 - g) * at(k, i + 1) + g * at(k + 1, i + 1);
  return {low + f * (high - low), (high - low) / step};
}

}  // namespace jolly_iris::measuring
