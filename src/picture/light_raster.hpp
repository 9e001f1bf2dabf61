// Pieces of light onto pixels: each piece's light is spread evenly over its own area, however small
// or thin that is.
#pragma once

#include <algorithm>
#include <cmath>

#include "area_raster.hpp"
#include "jolly_iris/glass/point_light.hpp"

namespace jolly_iris::blur {

/// @param place from a piece's corner to px of the raster
template <class Place, class Raster>
void draw_light(const LightPiece& piece, const Place& place, Raster& on) {
  // Smaller than this a piece lies in one place, px; less area than this has no inside, px².
  constexpr double point = 0.5;
  constexpr double sliver = 1e-4;
  std::array<Point2, LightPiece::most> at{};
  Point2 low = at[0] = place(piece.corners[0]);
  Point2 high = low;
  Point2 sum = low;
  for (std::size_t i = 1; i < piece.count; ++i) {
    const Point2 p = at[i] = place(piece.corners[i]);
    low = {std::min(low.x, p.x), std::min(low.y, p.y)};
    high = {std::max(high.x, p.x), std::max(high.y, p.y)};
    sum = {sum.x + p.x, sum.y + p.y};
  }
  // Thrown so far aside that it is spread over nothing that could be seen.
  constexpr double nowhere = 1e7;
  if (!(std::max(high.x - low.x, high.y - low.y) < nowhere)) return;
  if (high.x < 0.0 || high.y < 0.0 || low.x > on.width() || low.y > on.height()) return;
  // Shared among the four pixels around it: what a pixel's own area there covers of each.
  const auto share = [&](Point2 p, double light) {
    const double x = std::floor(p.x - 0.5);
    const double y = std::floor(p.y - 0.5);
    const double fx = p.x - 0.5 - x;
    const double fy = p.y - 0.5 - y;
    const int ix = static_cast<int>(x);
    const int iy = static_cast<int>(y);
    on.point(ix, iy, light * (1.0 - fx) * (1.0 - fy));
    on.point(ix + 1, iy, light * fx * (1.0 - fy));
    on.point(ix, iy + 1, light * (1.0 - fx) * fy);
    on.point(ix + 1, iy + 1, light * fx * fy);
  };
  const auto n = static_cast<double>(piece.count);
  if (high.x - low.x < point && high.y - low.y < point) {
    share({sum.x / n, sum.y / n}, piece.light);
    return;
  }
  double twice = 0.0;
  for (std::size_t i = 0; i < piece.count; ++i) {
    const Point2& a = at[i];
    const Point2& b = at[(i + 1) % piece.count];
    twice += a.x * b.y - a.y * b.x;
  }
  if (std::abs(twice) < 2.0 * sliver) {
    for (std::size_t i = 0; i < piece.count; ++i) {
      const Point2& b = at[(i + 1) % piece.count];
      share({0.5 * (at[i].x + b.x), 0.5 * (at[i].y + b.y)}, piece.light / n);
    }
    return;
  }
  // The raster counts outlines that run with y down.
  const double weight = -2.0 * piece.light / twice;
  for (std::size_t i = 0; i < piece.count; ++i) on.edge(at[i], at[(i + 1) % piece.count], weight);
}

}  // namespace jolly_iris::blur
