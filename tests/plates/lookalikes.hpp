// Pictures of things that look a little like lamps out of focus and are none: windows, tiles,
// flower heads, letters, wet stones. No iris may be told of them.
#pragma once

#include <array>
#include <cmath>
#include <cstdint>
#include <numbers>
#include <random>
#include <vector>

#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::plates {

enum class Lookalike { windows, tiles, flowers, letters, stones };
inline constexpr std::array all_lookalikes{Lookalike::windows, Lookalike::tiles, Lookalike::flowers,
                                           Lookalike::letters, Lookalike::stones};
inline const char* name_of(Lookalike what) {
  constexpr std::array names{"windows", "tiles", "flowers", "letters", "stones"};
  return names[static_cast<std::size_t>(what)];
}

namespace lookalikes {

class Random {
 public:
  explicit Random(std::uint32_t seed) : engine_(seed * 2246822519U + 11U) {}
  double uniform(double low, double high) {
    return low + (high - low) * (static_cast<double>(engine_()) / 4294967296.0);
  }
  int among(int count) { return static_cast<int>(engine_() % static_cast<unsigned>(count)); }

 private:
  std::mt19937 engine_;
};

struct Colour {
  double red = 0.0, green = 0.0, blue = 0.0;
};
inline Colour operator*(double times, const Colour& c) {
  return {times * c.red, times * c.green, times * c.blue};
}

/// Something with an outline: what it covers of a place (0 or 1), and its light there.
struct Thing {
  double x = 0.0, y = 0.0, size = 10.0, turn = 0.0;
  int kind = 0, count = 6;
  double deep = 0.3;
  Colour colour{};
};

inline bool covers(const Thing& t, Lookalike what, double px, double py, double& shade) {
  const double c = std::cos(t.turn);
  const double s = std::sin(t.turn);
  const double x = (c * (px - t.x) + s * (py - t.y)) / t.size;
  const double y = (-s * (px - t.x) + c * (py - t.y)) / t.size;
  const double r = std::hypot(x, y);
  shade = 1.0;
  if (r > 1.8) return false;
  const double a = std::atan2(y, x);
  switch (what) {
    case Lookalike::windows: {  // panes with bars between, some arched, some round with a cross
      if (t.kind == 2) return r < 1.0 && std::abs(x) > 0.06 && std::abs(y) > 0.06;
      const bool arch = t.kind == 1 && y < -0.6 && std::hypot(x / 0.7, y + 0.6) > 1.0;
      return std::abs(x) < 0.7 && std::abs(y) < 1.2 && !arch && std::abs(x) > 0.05 &&
             std::abs(std::abs(y) - 0.4) > 0.04;
    }
    case Lookalike::tiles:  // squares and hexagons with rounded corners
      if (t.kind == 0) return std::pow(std::abs(x), 8.0) + std::pow(std::abs(y), 8.0) < 1.0;
      return r * std::cos(std::remainder(a, std::numbers::pi / 3.0)) < 0.95;
    case Lookalike::flowers: {
      if (t.kind == 2) {  // a clock of seeds
        const double spoke = std::abs(std::remainder(a * t.count / (2.0 * std::numbers::pi), 1.0));
        shade = 0.5 + 0.5 * std::cos(9.0 * r);
        return r < 1.1 && (spoke < 0.22 || r < 0.2);
      }
      const double petal = 1.0 - t.deep * std::abs(std::sin(0.5 * t.count * a));
      shade = t.kind == 1 && r < 0.3 ? 0.25 : 0.7 + 0.3 * r;
      return r < petal;
    }
    case Lookalike::letters: {  // rings, bowls and strokes
      const bool ring = r < 1.0 && std::hypot(x / 0.6, y / 0.7) > 1.0;
      if (t.kind == 0) return ring;
      if (t.kind == 1) return (ring && x > -0.2) || (std::abs(x + 0.7) < 0.18 && std::abs(y) < 1.0);
      if (t.kind == 2)
        return (std::abs(x) < 0.18 && std::abs(y) < 1.0) ||
               (std::abs(y + 0.85) < 0.15 && std::abs(x) < 0.8);
      return std::hypot(x / 0.8, (y - 0.45) / 0.55) < 1.0
                 ? std::hypot(x / 0.4, (y - 0.45) / 0.25) > 1.0
                 : std::hypot(x / 0.6, (y + 0.5) / 0.5) < 1.0 &&
                       std::hypot(x / 0.3, (y + 0.5) / 0.2) > 1.0;
    }
    case Lookalike::stones: {  // rounded lumps, lit from above, with a wet highlight
      const double lump = 1.0 + 0.12 * std::sin(2.0 * a + t.deep * 9.0) +
                          0.07 * std::sin(3.0 * a + t.deep * 23.0) + 0.04 * std::sin(5.0 * a);
      if (r > lump) return false;
      const double q = r / lump;
      shade = 0.25 + 0.5 * std::sqrt(1.0 - q * q) * (0.7 - 0.5 * y);
      const double wet = std::hypot((x + 0.25) / 0.28, (y + 0.35) / 0.16);
      if (wet < 1.6) shade += (3.0 + 3.0 * t.deep) * std::exp(-2.5 * wet * wet);
      return true;
    }
  }
  return false;
}

}  // namespace lookalikes

/// One such picture, linear light.
inline Picture lookalike(Lookalike what, std::uint32_t seed, PixelSize size = {960, 540}) {
  using namespace lookalikes;
  Random random(seed * 5U + static_cast<std::uint32_t>(what));
  std::vector<Thing> things;
  const double step = random.uniform(26.0, 90.0);
  const int kind = random.among(3);
  const double loose = what == Lookalike::flowers || what == Lookalike::stones ? 0.35 : 0.04;
  const Colour one{random.uniform(0.3, 1.0), random.uniform(0.3, 1.0), random.uniform(0.2, 1.0)};
  const double turn = random.uniform(-0.2, 0.2);
  const int count = 5 + random.among(9);
  for (double y = 0.5 * step; y < size.height; y += step) {
    for (double x = 0.5 * step; x < size.width; x += step) {
      if (random.uniform(0.0, 1.0) < 0.25) continue;
      Thing t;
      t.x = x + step * random.uniform(-loose, loose);
      t.y = y + step * random.uniform(-loose, loose);
      t.size = step * random.uniform(0.36, 0.42);
      t.turn = turn + (loose > 0.1 ? random.uniform(-3.0, 3.0) : 0.0);
      t.kind = what == Lookalike::letters ? random.among(4) : kind;
      t.count = count;
      t.deep = random.uniform(0.1, 0.5);
      t.colour = random.uniform(0.25, 1.3) * one;
      things.push_back(t);
    }
  }
  const double ground = random.uniform(0.01, 0.12);
  const double reach = 1.8 * 0.42 * step;
  Picture out(size, {0.0F, 0.0F, 0.0F, 1.0F});
  std::vector<std::array<double, 3>> light(out.pixels().size(), {ground, ground, ground});
  constexpr int within = 3;  // places a pixel, each way
  for (const Thing& t : things) {
    for (int y = std::max(0, static_cast<int>(t.y - reach));
         y < std::min(size.height, static_cast<int>(t.y + reach)); ++y) {
      for (int x = std::max(0, static_cast<int>(t.x - reach));
           x < std::min(size.width, static_cast<int>(t.x + reach)); ++x) {
        double cover = 0.0;
        double bright = 0.0;
        for (int k = 0; k < within * within; ++k) {
          double shade = 0.0;
          if (!covers(t, what, x + (k % within + 0.5) / within, y + (k / within + 0.5) / within,
                      shade)) {
            continue;
          }
          cover += 1.0 / (within * within);
          bright += shade / (within * within);
        }
        auto& p = light[static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) +
                        static_cast<std::size_t>(x)];
        p[0] = (1.0 - cover) * p[0] + bright * t.colour.red;
        p[1] = (1.0 - cover) * p[1] + bright * t.colour.green;
        p[2] = (1.0 - cover) * p[2] + bright * t.colour.blue;
      }
    }
  }
  for (std::size_t i = 0; i < light.size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) out.pixels()[i][c] = static_cast<float>(light[i][c]);
  }
  return out;
}

}  // namespace jolly_iris::plates
