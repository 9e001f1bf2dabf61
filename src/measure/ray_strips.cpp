#include "ray_strips.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "optics/quantile.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

constexpr double largest_radius_px = 14.0;  // larger things have no rays that are seen as such
constexpr double past_edge_px = 2.0;        // of a thing's own soft edge
constexpr double longer_each = 0.08;        // parts grow with the distance
constexpr double farthest_share = 0.3;      // of the picture's longer side
constexpr std::size_t least_parts = 6;
constexpr double no_more = 1.15;      // than outside: ground is not even
constexpr double most_covered = 0.4;  // of a strip's part

}  // namespace

double strip_half_width(double radius_px) { return radius_px + 1.5; }

std::optional<RayStrips> strips_around(const Picture& plate, const BrightThings& bright,
                                       std::size_t thing, int spoiled_px, std::string& why) {
  const BrightThing& t = bright.things[thing];
  if (t.at_edge) {
    why = "the frame cuts it";
    return std::nullopt;
  }
  if (t.radius_px > largest_radius_px) {
    why = "it is too large for a lamp with rays";
    return std::nullopt;
  }
  const double half = strip_half_width(t.radius_px);
  const double first = t.reach_px + past_edge_px + spoiled_px + half;
  const double last = farthest_share * std::max(plate.width(), plate.height());
  RayStrips out;
  out.thing = thing;
  out.half_width = half;
  for (double u = first; u < last;) {
    const double length = std::max(2.0, longer_each * u);
    out.distance.push_back(u + 0.5 * length);
    out.length.push_back(length);
    u += length;
  }
  if (out.parts() < least_parts) {
    why = "the picture is too small for rays of it";
    return std::nullopt;
  }
  const std::size_t all = static_cast<std::size_t>(ray_directions) * out.parts();
  out.excess.resize(all);
  out.seen.assign(all, 0);
  const int width = plate.width();
  const int height = plate.height();
  // Half a pixel apart across, between pixels, for a thin ray, which falls between whole ones.
  const int steps = static_cast<int>(std::ceil(std::min(2.0 * half, std::max(9.0, half))));
  parallel_for(0, ray_directions, [&](int d) {
    const double angle = 2.0 * pi * d / ray_directions;
    const double cos = std::cos(angle);
    const double sin = std::sin(angle);
    for (std::size_t k = 0; k < out.parts(); ++k) {
      std::array<double, 3> middle{};
      std::array<double, 3> beside{};
      int middles = 0;
      int sides = 0;
      int places = 0;
      // Farther out they are long enough at every other pixel.
      const int along =
          static_cast<int>(std::ceil(out.length[k] / (out.length[k] > 3.0 ? 2.0 : 1.0)));
      const auto take = [&](double u, double v, std::array<double, 3>& sum, int& count) {
        const double px = t.at[0] + u * cos - v * sin - 0.5;
        const double py = t.at[1] - u * sin - v * cos - 0.5;
        if (!(px >= 0.0 && py >= 0.0)) return;
        const int x = static_cast<int>(px);
        const int y = static_cast<int>(py);
        if (x + 1 >= width || y + 1 >= height) return;
        const std::size_t i = static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
                              static_cast<std::size_t>(x);
        if (bright.owner[i] >= 0) return;
        const auto fx = static_cast<float>(px - x);
        const auto fy = static_cast<float>(py - y);
        const Rgba* above = plate.pixels().data() + i;
        const Rgba* below = above + width;
        for (std::size_t c = 0; c < 3; ++c) {
          const float top = above[0][c] + fx * (above[1][c] - above[0][c]);
          const float bottom = below[0][c] + fx * (below[1][c] - below[0][c]);
          sum[c] += static_cast<double>(top + fy * (bottom - top));
        }
        ++count;
      };
      for (int s = 0; s < along; ++s) {
        const double u = out.distance[k] + out.length[k] * ((s + 0.5) / along - 0.5);
        for (int j = 0; j < 2 * steps; ++j) {
          const double v = half * ((j + 0.5) / steps - 1.0);
          take(u, v, middle, middles);
          take(u, v < 0.0 ? v - 1.2 * half : v + 1.2 * half, beside, sides);
          ++places;
        }
      }
      const double least = (1.0 - most_covered) * places;
      if (middles < least || sides < least) continue;
      const std::size_t i = out.at(d, k);
      out.seen[i] = 1;
      for (std::size_t c = 0; c < 3; ++c) {
        out.excess[i][c] =
            static_cast<float>((middle[c] / middles - beside[c] / sides) * 2.0 * half);
      }
    }
  });
  // What is alike in all directions is a halo's curve, no ray; how directions differ is chance.
  out.sigma.assign(out.parts(), 0.0);
  for (std::size_t k = 0; k < out.parts(); ++k) {
    std::array<float, 3> middle{};
    for (std::size_t c = 0; c < 3; ++c) {
      std::vector<float> values;
      for (int d = 0; d < ray_directions; ++d) {
        if (out.seen[out.at(d, k)] != 0) values.push_back(out.excess[out.at(d, k)][c]);
      }
      if (values.size() >= ray_directions / 4) middle[c] = upper_median(values);
    }
    std::vector<double> off;
    for (int d = 0; d < ray_directions; ++d) {
      const std::size_t i = out.at(d, k);
      if (out.seen[i] == 0) continue;
      for (std::size_t c = 0; c < 3; ++c) out.excess[i][c] -= middle[c];
      off.push_back(std::abs(out.mean(d, k)));
    }
    // Too few directions tell nothing of chance.
    if (off.size() < ray_directions / 4) {
      for (int d = 0; d < ray_directions; ++d) out.seen[out.at(d, k)] = 0;
      continue;
    }
    out.sigma[k] = 1.48 * quantile(off, 0.5) + 1e-9;
  }
  // Near a lamp it is its rays that differ: chance there is what it is farther out, and the longer
  // a part the less.
  for (std::size_t k = out.parts() - 1; k-- > 0;) {
    if (!(out.sigma[k] > 0.0) || !(out.sigma[k + 1] > 0.0)) continue;
    const double as_outside = out.sigma[k + 1] * std::sqrt(out.length[k + 1] / out.length[k]);
    out.sigma[k] = std::min(out.sigma[k], no_more * as_outside);
  }
  const auto seen =
      std::count_if(out.sigma.begin(), out.sigma.end(), [](double s) { return s > 0.0; });
  if (static_cast<std::size_t>(seen) < least_parts) {
    why = "other bright things or the frame are too near";
    return std::nullopt;
  }
  // Its own light: above what lies just beside it.
  std::array<std::vector<float>, 3> ground;
  const double ring = t.reach_px + 4.0 + spoiled_px;
  for (int d = 0; d < ray_directions; d += 4) {
    const double angle = 2.0 * pi * d / ray_directions;
    const int x = static_cast<int>(std::floor(t.at[0] + ring * std::cos(angle)));
    const int y = static_cast<int>(std::floor(t.at[1] - ring * std::sin(angle)));
    if (x < 0 || y < 0 || x >= width || y >= height) continue;
    const Rgba& p = plate.at(x, y);
    for (std::size_t c = 0; c < 3; ++c) ground[c].push_back(p[c]);
  }
  double around = 0.0;
  for (std::size_t c = 0; c < 3; ++c) {
    const double dark = ground[c].empty() ? 0.0 : static_cast<double>(upper_median(ground[c]));
    around += dark / 3.0;
    for (const std::uint32_t i : t.pixels) {
      out.light[c] += static_cast<double>(plate.pixels()[i][c]) - dark;
    }
    out.light[c] = std::max(out.light[c], 1e-9);
  }
  if (static_cast<double>(t.peak) < lamp_against_ground * around) {
    why = "it hardly stands out of what is around it";
    return std::nullopt;
  }
  return out;
}

}  // namespace jolly_iris::measuring
