#include "grain_bands.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "optics/quantile.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr int n_px = grain_square;
constexpr int grain_frequencies = n_px / 2;
// Bands of one octave each, but for the coarsest: below 2 cycles a square, its slope is the rest.
constexpr std::array<std::array<int, 2>, 4> band_bins{{{2, 4}, {4, 7}, {7, 11}, {11, 17}}};
constexpr std::size_t least_flat = 12;  // squares

struct Waves {
  std::array<std::array<double, n_px>, grain_frequencies + 1> cosines{};
  std::array<std::array<double, n_px>, grain_frequencies + 1> sines{};
  std::array<double, n_px> window{};
};

// A Hann window: a square's borders are no steps.
Waves make_waves() {
  Waves w;
  for (std::size_t i = 0; i < n_px; ++i) {
    const double x = (static_cast<double>(i) + 0.5) / n_px;
    w.window[i] = 0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * x);
    for (std::size_t f = 0; f <= grain_frequencies; ++f) {
      const double a = 2.0 * std::numbers::pi * static_cast<double>(f) * x;
      w.cosines[f][i] = std::cos(a);
      w.sines[f][i] = std::sin(a);
    }
  }
  return w;
}

// Power of one line by frequency, its straight slope taken off.
void add_line(const Waves& waves, const std::array<double, n_px>& line,
              std::array<double, grain_frequencies + 1>& power) {
  double mean = 0.0;
  double slope = 0.0;
  constexpr double middle = 0.5 * (n_px - 1);
  constexpr double squares = n_px * (n_px * n_px - 1.0) / 12.0;
  for (std::size_t i = 0; i < n_px; ++i) {
    mean += line[i] / n_px;
    slope += line[i] * (static_cast<double>(i) - middle) / squares;
  }
  for (std::size_t f = 1; f <= grain_frequencies; ++f) {
    double c = 0.0;
    double s = 0.0;
    for (std::size_t i = 0; i < n_px; ++i) {
      const double v =
          waves.window[i] * (line[i] - mean - slope * (static_cast<double>(i) - middle));
      c += v * waves.cosines[f][i];
      s += v * waves.sines[f][i];
    }
    power[f] += c * c + s * s;
  }
}

// Of green, along rows and columns.
std::array<double, grain_frequencies + 1> power_of(const Waves& waves, const Picture& p,
                                                   const Box& box) {
  std::array<double, grain_frequencies + 1> power{};
  for (int k = 0; k < n_px; ++k) {
    std::array<double, n_px> row{};
    std::array<double, n_px> column{};
    for (int i = 0; i < n_px; ++i) {
      row[static_cast<std::size_t>(i)] = static_cast<double>(p.at(box.x + i, box.y + k)[1]);
      column[static_cast<std::size_t>(i)] = static_cast<double>(p.at(box.x + k, box.y + i)[1]);
    }
    add_line(waves, row, power);
    add_line(waves, column, power);
  }
  return power;
}

}  // namespace

std::vector<GrainBand> grain_bands(const Picture& plate, const Picture& cg,
                                   const std::vector<GrainPlace>& squares) {
  std::vector<GrainBand> out;
  if (squares.size() < least_flat) return out;
  const Waves waves = make_waves();
  std::vector<std::array<std::array<double, 2>, band_bins.size()>> each;
  for (const GrainPlace& place : squares) {
    const auto a = power_of(waves, plate, place.box);
    const auto b = power_of(waves, cg, place.box);
    std::array<std::array<double, 2>, band_bins.size()> sums{};
    for (std::size_t band = 0; band < band_bins.size(); ++band) {
      for (int f = band_bins[band][0]; f < band_bins[band][1]; ++f) {
        sums[band][0] += a[static_cast<std::size_t>(f)];
        sums[band][1] += b[static_cast<std::size_t>(f)];
      }
    }
    each.push_back(sums);
  }
  for (std::size_t band = 0; band < band_bins.size(); ++band) {
    // Squares count by what they have, so that bright ones, with more grain, do not rule: each by
    // the plate's.
    std::vector<double> logs;
    for (const auto& s : each) {
      if (s[band][0] > 0.0 && s[band][1] > 0.0) {
        logs.push_back(10.0 * std::log10(s[band][1] / s[band][0]));
      }
    }
    if (logs.size() < least_flat) return {};
    const double middle = quantile(std::vector<double>(logs), 0.5);
    std::vector<double> off;
    for (const double l : logs) off.push_back(std::abs(l - middle));
    const double sigma = 1.48 * quantile(off, 0.5);
    // The mean of those that go together; a median's own noise is a quarter more.
    double sum = 0.0;
    double count = 0.0;
    for (const double l : logs) {
      if (std::abs(l - middle) > 3.0 * sigma + 1e-9) continue;
      sum += l;
      count += 1.0;
    }
    out.push_back({static_cast<double>(band_bins[band][0]) / n_px,
                   std::min(0.5, static_cast<double>(band_bins[band][1]) / n_px),
                   {sum / count, 2.0 * sigma / std::sqrt(count)}});
  }
  return out;
}

}  // namespace jolly_iris::measuring
