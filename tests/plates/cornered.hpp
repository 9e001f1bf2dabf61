// Plates with a known darkening of their corners: surfaces that light falls on unevenly, with
// things on them, seen through a lens that takes light towards the corners.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <random>
#include <utility>
#include <vector>

#include "jolly_iris/picture/picture.hpp"
#include "made_lamps.hpp"

namespace jolly_iris::plates {

struct CorneredPlate {
  Picture picture{};
  Picture clean{};     ///< without darker corners and grain
  double stops = 0.0;  ///< at the corner
  double power = 2.0;  ///< of the distance, by which they fall
  int surfaces = 0;
  bool pool = false;  ///< a pool of light lies on it, somewhere
  bool jpeg = false;
};

/// @param pool whether a round pool of light falls on all, away from the middle
inline CorneredPlate cornered_plate(std::uint32_t seed, bool jpeg, bool pool,
                                    PixelSize size = {720, 408}) {
  PlateDice dice{std::mt19937(seed * 2246822519U + 31U)};
  const auto uniform = [&](double low, double high) { return dice.uniform(low, high); };
  CorneredPlate out;
  out.jpeg = jpeg;
  out.pool = pool;
  out.stops = uniform(0.0, 1.0) < 0.15 ? 0.0 : uniform(0.3, 2.5);
  out.surfaces = 1 + static_cast<int>(dice.random() % 4U);
  // Surfaces side by side, each with its own light and slope (stops over the width), and a few
  // things in front of them.
  std::vector<std::array<double, 4>> of;  // where it ends, stops, slopes
  for (int k = 0; k < out.surfaces; ++k) {
    of.push_back({(k + uniform(0.8, 1.2)) / out.surfaces, uniform(-4.5, -0.8), uniform(-1.0, 1.0),
                  uniform(-1.0, 1.0)});
  }
  of.back()[0] = 2.0;
  struct ThingBefore {
    double x, y, w, h, stops;
  };
  std::vector<ThingBefore> things;
  const int count = static_cast<int>(dice.random() % 6U);
  for (int k = 0; k < count; ++k) {
    things.push_back({uniform(0.0, 1.0), uniform(0.0, 1.0), uniform(0.02, 0.12), uniform(0.03, 0.2),
                      uniform(-5.0, -0.5)});
  }
  // Off the middle: a lamp beside the frame.
  const double pool_x = uniform(0.25, 0.6) * (uniform(0.0, 1.0) < 0.5 ? -1.0 : 1.0);
  const double pool_y = uniform(-0.5, 0.5);
  const double pool_bend = uniform(0.5, 3.0);
  out.power = uniform(0.0, 1.0) < 0.5 ? 2.0 : uniform(1.8, 2.4);
  const double grain = dice.log_uniform(0.0003, 0.004);
  Picture made(size, {0, 0, 0, 1});
  out.clean = made;
  const double half = 0.5 * std::hypot(size.width, size.height);
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const double u = (x + 0.5) / size.width;
      const double v = (y + 0.5) / size.height;
      const double dx = (x + 0.5 - 0.5 * size.width) / half;
      const double dy = (y + 0.5 - 0.5 * size.height) / half;
      const auto& s = *std::find_if(of.begin(), of.end(), [&](const auto& o) { return u < o[0]; });
      double stops = s[1] + s[2] * (u - 0.5) + s[3] * (v - 0.5);
      for (const ThingBefore& t : things) {
        if (std::abs(u - t.x) < t.w && std::abs(v - t.y) < t.h) stops = t.stops;
      }
      if (pool) {
        const double px = dx - pool_x;
        const double py = dy - pool_y;
        // An inverse square from a lamp before the wall.
        stops -= 2.0 * std::log2(1.0 + pool_bend * (px * px + py * py));
      }
      const auto lit = static_cast<float>(std::exp2(stops));
      out.clean.at(x, y) = {lit, lit, lit, 1.0F};
      stops -= out.stops * std::pow(dx * dx + dy * dy, 0.5 * out.power);
      const auto left = static_cast<float>(std::exp2(stops));
      made.at(x, y) = {left, left, left, 1.0F};
    }
  }
  out.picture = through_file(std::move(made), grain, jpeg, "cornered", seed, dice.random);
  return out;
}

}  // namespace jolly_iris::plates
