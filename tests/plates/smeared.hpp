// Plates with a known smear: lamps of many sizes, each drawn out along its way in closed form (a
// soft point) or by sums over its disc; as half floats, or through a JPEG file.
#pragma once

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>
#include <utility>
#include <vector>

#include "jolly_iris/picture/picture.hpp"
#include "made_lamps.hpp"

namespace jolly_iris::plates {

struct SmearedPlate {
  Picture picture{};
  Picture clean{};             ///< as it is when nothing moves, without grain
  double length_px = 0.0;      ///< 0: it is none
  double direction_deg = 0.0;  ///< counter-clockwise from level, −90 … 90
  bool jpeg = false;
  int lamps = 0;
  double texture = 0.0;  ///< of the ground
};

namespace smeared {

using std::numbers::pi;

// What a half plane lets through, softened.
inline double step(double at, double sigma) {
  return 0.5 * std::erfc(-at / (sigma * std::numbers::sqrt2));
}

// A disc of light 1 a px² whose edge is softened, drawn out along u by `length`, at (u, v) from its
// middle: over chords of the disc across the way, each in closed form.
inline double drawn_disc(double u, double v, double radius, double sigma, double length) {
  // Chords, weighed by how much of them the Gaussian brings to v.
  const int chords = 24 + static_cast<int>(10.0 * radius / sigma);
  double sum = 0.0;
  for (int k = 0; k < chords; ++k) {
    // Even in angle: chords lie close at the disc's sides, where they change most.
    const double a = pi * (k + 0.5) / chords;
    const double w = -radius * std::cos(a);
    const double width = pi / chords * radius * std::sin(a);
    const double half = radius * std::sin(a);
    const double off = (v - w) / sigma;
    if (std::abs(off) > 6.0) continue;
    const double across = std::exp(-0.5 * off * off) / (sigma * std::sqrt(2.0 * pi)) * width;
    // ∫ over the way of [step(u + half − t) − step(u − half − t)] dt / length, with G′ = step.
    const auto g = [&](double x) {
      return x * step(x, sigma) +
             sigma / std::sqrt(2.0 * pi) * std::exp(-0.5 * x * x / (sigma * sigma));
    };
    double chord = 0.0;
    if (length < 1e-6) {
      chord = step(u + half, sigma) - step(u - half, sigma);
    } else {
      const double l = 0.5 * length;
      chord = (g(u + half + l) - g(u + half - l) - g(u - half + l) + g(u - half - l)) / length;
    }
    sum += across * chord;
  }
  return sum;
}

}  // namespace smeared

/// @param still no smear at all
inline SmearedPlate smeared_plate(std::uint32_t seed, bool jpeg, bool still = false,
                                  PixelSize size = {720, 408}) {
  using namespace smeared;
  PlateDice dice{std::mt19937(seed * 2654435761U + 11U)};
  const auto uniform = [&](double low, double high) { return dice.uniform(low, high); };
  const auto log_uniform = [&](double low, double high) { return dice.log_uniform(low, high); };
  SmearedPlate out;
  out.jpeg = jpeg;
  out.length_px = still ? 0.0 : log_uniform(2.0, 40.0);
  out.direction_deg = uniform(-90.0, 90.0);
  const double c = std::cos(out.direction_deg * pi / 180.0);
  const double s = std::sin(out.direction_deg * pi / 180.0);
  const double ground = log_uniform(0.004, 0.05);
  out.texture = uniform(0.0, 1.0) < 0.4 ? 0.0 : log_uniform(0.02, 0.4);
  const double ramp = uniform(-0.6, 0.6);
  Picture clean = dark_ground(size, ground, out.texture, ramp, seed);
  out.clean = clean;
  struct DrawnLampMade {
    double x, y, radius, edge;
    Rgb value;
  };
  std::vector<DrawnLampMade> lamps;
  const int count = 3 + static_cast<int>(dice.random() % 12U);
  for (int tries = 0; static_cast<int>(lamps.size()) < count && tries < 400; ++tries) {
    DrawnLampMade l{uniform(0.03, 0.97) * size.width,
                    uniform(0.05, 0.95) * size.height,
                    log_uniform(0.6, 14.0),
                    uniform(0.45, 1.6),
                    {}};
    const double needs = l.radius + 0.5 * out.length_px + 14.0;
    const bool alone = std::none_of(lamps.begin(), lamps.end(), [&](const DrawnLampMade& o) {
      return std::hypot(l.x - o.x, l.y - o.y) < needs + o.radius + 0.5 * out.length_px;
    });
    if (!alone) continue;
    // How bright it is drawn out: in a file of eight bits, some are clipped.
    const double area = pi * l.radius * l.radius;
    const double spread = 1.0 + 2.0 * l.radius * out.length_px / area;
    const double value = (jpeg ? log_uniform(0.4, 6.0) : log_uniform(0.6, 30.0)) * spread;
    for (double& v : l.value) v = value * uniform(0.7, 1.1);
    lamps.push_back(l);
  }
  out.lamps = static_cast<int>(lamps.size());
  for (const DrawnLampMade& l : lamps) {
    const double reach = l.radius + 0.5 * out.length_px + 7.0 * l.edge;
    const int x0 = std::max(0, static_cast<int>(l.x - reach));
    const int x1 = std::min(size.width - 1, static_cast<int>(l.x + reach));
    const int y0 = std::max(0, static_cast<int>(l.y - reach));
    const int y1 = std::min(size.height - 1, static_cast<int>(l.y + reach));
    for (int y = y0; y <= y1; ++y) {
      for (int x = x0; x <= x1; ++x) {
        const double right = x + 0.5 - l.x;
        const double up = l.y - y - 0.5;
        const double shape =
            drawn_disc(right * c + up * s, -right * s + up * c, l.radius, l.edge, out.length_px);
        const bool near = std::hypot(right, up) < l.radius + 7.0 * l.edge;
        const double standing = near ? drawn_disc(right, up, l.radius, l.edge, 0.0) : 0.0;
        for (std::size_t k = 0; k < 3; ++k) {
          clean.at(x, y)[k] += static_cast<float>(l.value[k] * shape);
          out.clean.at(x, y)[k] += static_cast<float>(l.value[k] * standing);
        }
      }
    }
  }
  const double grain = log_uniform(0.0003, 0.004);
  out.picture = through_file(std::move(clean), grain, jpeg, "smeared", seed, dice.random);
  return out;
}

}  // namespace jolly_iris::plates
