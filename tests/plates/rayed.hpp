// Plates whose lamps have rays: spikes that are spread evenly around, a streak, or none; each drawn
// in closed form, as half floats or through a JPEG file.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <random>
#include <utility>
#include <vector>

#include "jolly_iris/picture/picture.hpp"
#include "made_lamps.hpp"

namespace jolly_iris::plates {

struct RayedPlate {
  Picture picture{};
  Picture clean{};         ///< without rays and grain
  int rays = 0;            ///< of spikes; 0: none
  double first_deg = 0.0;  ///< 0 … 360 / rays
  bool has_streak = false;
  double direction_deg = 0.0;  ///< of the streak, −90 … 90
  Rgb fraction{};              ///< of the streak
  double reach_px = 0.0;
  double power = 0.0;
  bool jpeg = false;
  int lamps = 0;
  int unclipped = 0;
  double texture = 0.0;  ///< of the ground
  double seen = 0.0;     ///< the least light of a ray beside a lamp, in deviations of a pixel
};

namespace rayed {

using std::numbers::pi;

// A line of light 1 a px along u, from a disc of that radius with a soft edge, at v beside it.
inline double line_at(double v, double radius, double edge) {
  // The disc's chord at v, softened by three of its neighbours (Gauss and Hermite).
  double sum = 0.0;
  for (const auto& [away, weight] :
       {std::pair{-1.7320508, 1.0 / 6.0}, {0.0, 2.0 / 3.0}, {1.7320508, 1.0 / 6.0}}) {
    const double w = v + away * edge;
    if (std::abs(w) < radius) sum += weight * 2.0 * std::sqrt(radius * radius - w * w);
  }
  return sum / (pi * radius * radius);
}

}  // namespace rayed

/// @param kind 0: spikes, 1: a streak, 2: both, 3: none
inline RayedPlate rayed_plate(std::uint32_t seed, bool jpeg, int kind,
                              PixelSize size = {720, 408}) {
  using namespace rayed;
  PlateDice dice{std::mt19937(seed * 2654435769U + 7U)};
  const auto uniform = [&](double low, double high) { return dice.uniform(low, high); };
  const auto log_uniform = [&](double low, double high) { return dice.log_uniform(low, high); };
  RayedPlate out;
  out.jpeg = jpeg;
  constexpr std::array counts{4, 6, 8, 10, 12, 14, 18};
  const bool spikes = kind == 0 || kind == 2;
  out.has_streak = kind == 1 || kind == 2;
  out.rays = spikes ? counts[dice.random() % counts.size()] : 0;
  out.first_deg = spikes ? uniform(0.0, 360.0 / out.rays) : 0.0;
  out.direction_deg = uniform(-90.0, 90.0);
  const double streak_share = log_uniform(0.02, 0.2);
  for (double& f : out.fraction) f = streak_share * uniform(0.5, 1.2);
  out.reach_px = log_uniform(6.0, 40.0);
  out.power = uniform(1.5, 2.6);
  const double spike_share = log_uniform(0.005, 0.05);
  const double ground = log_uniform(0.003, 0.03);
  out.texture = uniform(0.0, 1.0) < 0.4 ? 0.0 : log_uniform(0.02, 0.3);
  const double ramp = uniform(-0.6, 0.6);
  Picture clean = dark_ground(size, ground, out.texture, ramp, seed);
  out.clean = clean;
  struct RayLampMade {
    double x, y, radius, edge;
    Rgb value;
  };
  std::vector<RayLampMade> lamps;
  const int count = 2 + static_cast<int>(dice.random() % 10U);
  for (int tries = 0; static_cast<int>(lamps.size()) < count && tries < 400; ++tries) {
    RayLampMade l{uniform(0.05, 0.95) * size.width,
                  uniform(0.08, 0.92) * size.height,
                  log_uniform(1.0, 6.0),
                  uniform(0.45, 1.0),
                  {}};
    const bool alone = std::none_of(lamps.begin(), lamps.end(), [&](const RayLampMade& o) {
      return std::hypot(l.x - o.x, l.y - o.y) < 3.0 * (l.radius + o.radius) + 30.0;
    });
    if (!alone) continue;
    // Rays of an iris share little light: only bright lamps show them.
    const double value = spikes ? log_uniform(10.0, 3000.0)
                                : (jpeg ? log_uniform(0.6, 60.0) : log_uniform(1.0, 60.0));
    for (double& v : l.value) v = value * uniform(0.7, 1.1);
    if (!jpeg || std::max({l.value[0], l.value[1], l.value[2]}) < 0.95) ++out.unclipped;
    lamps.push_back(l);
  }
  out.lamps = static_cast<int>(lamps.size());
  const double c = std::cos(out.direction_deg * pi / 180.0);
  const double s = std::sin(out.direction_deg * pi / 180.0);
  // All of a streak along one px of its line: its sum over both sides, by steps.
  double whole = 0.0;
  const double largest = std::hypot(size.width, size.height);
  for (double u = 0.05; u < largest; u += 0.1) {
    whole += 0.2 * std::pow(1.0 + u * u / (out.reach_px * out.reach_px), -0.5 * out.power);
  }
  std::vector<std::pair<double, double>> ray_ways;
  for (int k = 0; k < out.rays; ++k) {
    const double a = (out.first_deg + 360.0 * k / out.rays) * pi / 180.0;
    ray_ways.emplace_back(std::cos(a), std::sin(a));
  }
  const double grain = log_uniform(0.0003, 0.003);
  double least_seen = 1e9;
  for (const RayLampMade& l : lamps) {
    // A disc whose edge is softened outward and inward has a little more light than its area.
    const double area = pi * (l.radius * l.radius + l.edge * l.edge);
    for (int y = 0; y < size.height; ++y) {
      for (int x = 0; x < size.width; ++x) {
        const double right = x + 0.5 - l.x;
        const double up = l.y - y - 0.5;
        const double r = std::hypot(right, up);
        const double direct = 0.5 * std::erfc((r - l.radius) / (std::numbers::sqrt2 * l.edge));
        double ray = 0.0;
        if (spikes && r > 0.5) {
          // Each falls by the square of the distance; in all they have their share of the light.
          const double soft = l.radius + 1.0;
          for (const auto& [cosine, sine] : ray_ways) {
            const double along = right * cosine + up * sine;
            const double across = -right * sine + up * cosine;
            if (along <= 0.0 || std::abs(across) > l.radius + 3.0 * l.edge) continue;
            ray += spike_share / out.rays * 2.0 / pi * soft / (along * along + soft * soft) *
                   line_at(across, l.radius, l.edge);
          }
        }
        double line = 0.0;
        if (out.has_streak) {
          const double along = right * c + up * s;
          const double across = -right * s + up * c;
          line = std::pow(1.0 + along * along / (out.reach_px * out.reach_px), -0.5 * out.power) /
                 whole * line_at(across, l.radius, l.edge);
        }
        for (std::size_t k = 0; k < 3; ++k) {
          const double taken =
              (spikes ? spike_share : 0.0) + (out.has_streak ? out.fraction[k] : 0.0);
          clean.at(x, y)[k] += static_cast<float>(
              l.value[k] * ((1.0 - taken) * direct + area * (ray + out.fraction[k] * line)));
          out.clean.at(x, y)[k] += static_cast<float>(l.value[k] * direct);
        }
      }
    }
    if (spikes) {
      const double at = 3.0 * l.radius + 6.0;
      const double soft = l.radius + 1.0;
      const double beside = l.value[1] * area * spike_share / out.rays * 2.0 / pi * soft /
                            (at * at + soft * soft) * line_at(0.0, l.radius, l.edge);
      least_seen = std::min(least_seen, beside / (grain * std::sqrt(0.2 + ground / 0.18)));
    }
    if (out.has_streak) {
      const double beside =
          l.value[1] * area * out.fraction[1] / whole * line_at(0.0, l.radius, l.edge);
      least_seen = std::min(least_seen, beside / (grain * std::sqrt(0.2 + ground / 0.18)));
    }
  }
  out.seen = lamps.empty() ? 0.0 : least_seen;
  out.picture = through_file(std::move(clean), grain, jpeg, "rayed", seed, dice.random);
  return out;
}

}  // namespace jolly_iris::plates
