#include "glass_disc.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/glass/point_light.hpp"
#include "light_raster.hpp"

namespace jolly_iris::blur {

namespace {

// Cells of the lattice along a side: one for two px of the disc, within these.
constexpr double px_a_cell = 2.0;
constexpr int least_side = 6;
constexpr int most_side = 64;
// Rays that a strong surface throws far aside bring no light to speak of: so many px beyond twice
// the disc it ends.
constexpr double farthest_px = 256.0;
// Less than this part of the brightest pixel is a rounding of the raster's sums.
constexpr double rounding = 3e-6;

thread_local AreaRaster glass_raster;

}  // namespace

Disc GlassDiscs::make(const PupilPlace& from, double coc) const {
  const PointLight light(*camera_, from);
  const double coc_px = coc / std::min(pixel_width_, pixel_height_);
  const int side = std::clamp(static_cast<int>(4.0 + coc_px / px_a_cell), least_side, most_side);
  thread_local std::array<std::vector<LightPiece>, 3> pieces;
  double far_x = 0.5;
  double far_y = 0.5;
  for (std::size_t c = 0; c < 3; ++c) {
    light.pieces(c, side, pieces[c]);
    for (const LightPiece& p : pieces[c]) {
      for (std::size_t i = 0; i < p.count; ++i) {
        far_x = std::max(far_x, std::abs(p.corners[i].x) / pixel_width_);
        far_y = std::max(far_y, std::abs(p.corners[i].y) / pixel_height_);
      }
    }
    if (pieces[c].empty()) return point_disc(false);  // its light is 0
  }
  const double farthest = 2.0 * coc_px + farthest_px;
  const int reach_x = static_cast<int>(std::ceil(std::min(far_x, farthest) + 0.5));
  const int reach_y = static_cast<int>(std::ceil(std::min(far_y, farthest) + 0.5));
  const int width = 2 * reach_x + 1;
  const int height = 2 * reach_y + 1;
  std::vector<std::array<double, 3>> weights(static_cast<std::size_t>(width) *
                                             static_cast<std::size_t>(height));
  const auto place = [&](Point2 p) {
    return Point2{reach_x + 0.5 + p.x / pixel_width_, reach_y + 0.5 - p.y / pixel_height_};
  };
  for (std::size_t c = 0; c < 3; ++c) {
    glass_raster.start(width, height);
    for (const LightPiece& p : pieces[c]) draw_light(p, place, glass_raster);
    double all = 0.0;
    double most = 0.0;
    for (int y = 0; y < height; ++y) {
      const float* row = glass_raster.row(y);
      double sum = 0.0;
      auto* to = weights.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(width);
      for (int x = 0; x < width; ++x) {
        sum += static_cast<double>(row[x]);
        to[x][c] = sum;
        most = std::max(most, sum);
      }
    }
    for (auto& w : weights) {
      if (!(w[c] > rounding * most)) w[c] = 0.0;
      all += w[c];
    }
    if (!(all > 0.0)) return point_disc(false);
    for (auto& w : weights) w[c] /= all;
  }
  return disc_of(reach_x, reach_y, weights);
}

double GlassDiscs::light(const PupilPlace& from) const {
  return PointLight(*camera_, from).light();
}

}  // namespace jolly_iris::blur
