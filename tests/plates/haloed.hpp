// Plates with a known halo: lamps of many sizes on uneven ground, their light and the ground's
// spread by sums over places, not by transforms; as half floats, or through a JPEG file.
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

struct HaloedPlate {
  Picture picture{};
  Picture clean{};  ///< without halo and grain
  Rgb fraction{};
  double reach_px = 0.0;
  double power = 0.0;
  bool jpeg = false;
  int unclipped = 0;     ///< lamps
  double texture = 0.0;  ///< of the ground
};

namespace haloed {

using std::numbers::pi;

struct Spreading {
  double reach = 4.0;
  double power = 3.0;
  double all = 1.0;  // its sum over the plate's reach
  double at(double r) const {
    return (power - 2.0) / (2.0 * pi * reach * reach) *
           std::pow(1.0 + r * r / (reach * reach), -0.5 * power) / all;
  }
};

// A disc of light 1 seen through the kernel, by distance from its centre: summed over rings and
// angles of the disc.
inline std::vector<double> skirt(const Spreading& k, double radius, int upto) {
  std::vector<double> out;
  std::vector<double> cosines_near;
  std::vector<double> cosines_far;
  for (int i = 0; i <= 2 * upto; ++i) {
    const double r = 0.5 * i;
    // Where light falls steeply over the disc, places lie close.
    const bool near = std::abs(r - radius) < 15.0;
    const int rings = near ? 40 : 12;
    const int turns = near ? 24 + static_cast<int>(10.0 * radius) : 24;
    // Both sides of the line through the centre are the same.
    std::vector<double>& cosines = near ? cosines_near : cosines_far;
    for (int b = static_cast<int>(cosines.size()); b < turns / 2; ++b) {
      cosines.push_back(std::cos(2.0 * pi * (b + 0.5) / turns));
    }
    double sum = 0.0;
    for (int a = 0; a < rings; ++a) {
      const double from = radius * std::sqrt((a + 0.5) / rings);
      for (const double cosine : cosines) {
        sum += k.at(std::sqrt(std::max(0.0, r * r + from * from - 2.0 * r * from * cosine)));
      }
    }
    out.push_back(sum / (rings * (turns / 2)));
  }
  return out;
}

struct Shining {
  double x, y, radius, edge;
  Rgb value;
};

}  // namespace haloed

inline HaloedPlate haloed_plate(std::uint32_t seed, bool jpeg, PixelSize size = {720, 408}) {
  using namespace haloed;
  PlateDice dice{std::mt19937(seed * 2246822519U + 5U)};
  const auto uniform = [&](double low, double high) { return dice.uniform(low, high); };
  const auto log_uniform = [&](double low, double high) { return dice.log_uniform(low, high); };
  HaloedPlate out;
  out.jpeg = jpeg;
  Spreading k{log_uniform(2.0, 14.0), uniform(2.4, 4.0), 1.0};
  const double far = 1.13 * std::hypot(size.width, size.height);
  k.all = 1.0 - std::pow(1.0 + far * far / (k.reach * k.reach), 1.0 - 0.5 * k.power);
  const double share = log_uniform(0.01, 0.12);
  for (double& f : out.fraction) f = share * uniform(0.7, 1.3);
  out.reach_px = k.reach;
  out.power = k.power;
  // The ground: a ramp with bumps.
  const double ground = log_uniform(0.004, 0.03);
  out.texture = uniform(0.0, 1.0) < 0.4 ? 0.0 : log_uniform(0.02, 0.4);
  Rgb tint{};
  for (double& t : tint) t = uniform(0.6, 1.4);
  const double ramp_x = uniform(-0.6, 0.6);
  const double ramp_y = uniform(-0.6, 0.6);
  Picture clean(size, {0, 0, 0, 1});
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const double bump = out.texture > 0.0 ? out.texture * grained::texture(x, y, seed) : 0.0;
      const double slope = 1.0 + ramp_x * (x / static_cast<double>(size.width) - 0.5) +
                           ramp_y * (y / static_cast<double>(size.height) - 0.5);
      for (std::size_t c = 0; c < 3; ++c) {
        clean.at(x, y)[c] =
            static_cast<float>(std::max(0.001, ground * tint[c] * slope * (1.0 + bump)));
      }
    }
  }
  out.clean = clean;
  // Lamps that mostly stand by themselves.
  std::vector<Shining> lamps;
  const int count = 4 + static_cast<int>(dice.random() % 14U);
  for (int tries = 0; static_cast<int>(lamps.size()) < count && tries < 400; ++tries) {
    Shining l{uniform(0.03, 0.97) * size.width,
              uniform(0.05, 0.95) * size.height,
              log_uniform(2.5, 20.0),
              uniform(0.4, 1.2),
              {}};
    const bool alone = std::none_of(lamps.begin(), lamps.end(), [&](const Shining& o) {
      return std::hypot(l.x - o.x, l.y - o.y) < 2.5 * (l.radius + o.radius) + 12.0;
    });
    if (!alone) continue;
    // In a file of eight bits most lamps are clipped, and some are not.
    const double value =
        jpeg && uniform(0.0, 1.0) < 0.6 ? uniform(0.45, 0.85) : log_uniform(1.5, 60.0);
    for (double& v : l.value) v = value * uniform(0.7, 1.1);
    if (!jpeg || std::max({l.value[0], l.value[1], l.value[2]}) < 0.95) ++out.unclipped;
    lamps.push_back(l);
  }
  // What the ground spreads it nearly gets back: it is smooth over a halo's reach.
  const int upto = static_cast<int>(std::hypot(size.width, size.height)) + 2;
  for (const Shining& l : lamps) {
    // A soft edge is a mixture of discs whose radii are spread by a Gaussian: five of them stand
    // for all (Gauss and Hermite).
    std::vector<double> around(2 * static_cast<std::size_t>(upto) + 1, 0.0);
    for (const auto& [away, weight] : {std::pair{-2.857, 0.011257},
                                       {-1.3556, 0.222076},
                                       {0.0, 0.533333},
                                       {1.3556, 0.222076},
                                       {2.857, 0.011257}}) {
      const double radius = std::max(0.1, l.radius + away * l.edge);
      const std::vector<double> one = skirt(k, radius, upto);
      for (std::size_t i = 0; i < around.size(); ++i) {
        around[i] += weight * pi * radius * radius * one[i];
      }
    }
    for (int y = 0; y < size.height; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const double r = std::hypot(x + 0.5 - l.x, y + 0.5 - l.y);
        const double direct = 0.5 * std::erfc((r - l.radius) / (std::numbers::sqrt2 * l.edge));
        const auto i = static_cast<std::size_t>(2.0 * r);
        const double t = 2.0 * r - static_cast<double>(i);
        const double spread = (1.0 - t) * around[i] + t * around[i + 1];
        for (std::size_t c = 0; c < 3; ++c) {
          clean.at(x, y)[c] += static_cast<float>(
              l.value[c] * ((1.0 - out.fraction[c]) * direct + out.fraction[c] * spread));
          out.clean.at(x, y)[c] += static_cast<float>(l.value[c] * direct);
        }
      }
    }
  }
  const double grain = log_uniform(0.0003, 0.003);
  out.picture = through_file(std::move(clean), grain, jpeg, "haloed", seed, dice.random);
  return out;
}

}  // namespace jolly_iris::plates
