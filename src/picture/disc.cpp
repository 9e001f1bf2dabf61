#include "disc.hpp"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace jolly_iris::blur {

namespace {

// Adds polygons edge by edge; afterwards each cell holds the area of the polygon within that pixel.
// An edge changes the covered area of its own pixels and of everything to their right, so cells
// keep differences along a row until they are summed.
class AreaRaster {
 public:
  AreaRaster(int width, int height)
      : width_(width),
        height_(height),
        cells_(static_cast<std::size_t>(width + 2) * static_cast<std::size_t>(height), 0.0) {}

  void edge(Point2 a, Point2 b) {
    if (a.y == b.y) return;
    const double sign = a.y < b.y ? 1.0 : -1.0;
    if (sign < 0.0) std::swap(a, b);
    const double slope = (b.x - a.x) / (b.y - a.y);
    const int last = std::min(height_ - 1, static_cast<int>(std::ceil(b.y)) - 1);
    for (int row = std::max(0, static_cast<int>(std::floor(a.y))); row <= last; ++row) {
      const double y0 = std::max(a.y, static_cast<double>(row));
      const double y1 = std::min(b.y, static_cast<double>(row + 1));
      if (y1 <= y0) continue;
      in_row(row, a.x + (y0 - a.y) * slope, a.x + (y1 - a.y) * slope, sign * (y1 - y0));
    }
  }

  // Area of the polygon in each pixel of a row.
  std::vector<double> row(int y) const {
    std::vector<double> areas(static_cast<std::size_t>(width_));
    double sum = 0.0;
    for (int x = 0; x < width_; ++x) {
      sum += cells_[index(x, y)];
      areas[static_cast<std::size_t>(x)] = sum;
    }
    return areas;
  }

 private:
  std::size_t index(int x, int y) const {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(width_ + 2) +
           static_cast<std::size_t>(x);
  }

  // A piece of an edge within one row, of signed height `h`.
  void in_row(int row, double xa, double xb, double h) {
    if (xa > xb) std::swap(xa, xb);
    const int first = static_cast<int>(std::floor(xa));
    const int last = static_cast<int>(std::floor(xb));
    if (first == last || xb == xa) {
      cover(row, first, h, 0.5 * (xa + xb) - first);
      return;
    }
    for (int x = first; x <= last; ++x) {
      const double x0 = std::max(xa, static_cast<double>(x));
      const double x1 = std::min(xb, static_cast<double>(x + 1));
      if (x1 > x0) cover(row, x, h * (x1 - x0) / (xb - xa), 0.5 * (x0 + x1) - x);
    }
  }

  // The piece lies at `middle` (0 … 1) of the pixel on average: right of it all is inside.
  void cover(int row, int x, double h, double middle) {
    if (x < 0 || x >= width_) return;
    cells_[index(x, row)] += h * (1.0 - middle);
    cells_[index(x + 1, row)] += h * middle;
  }

  int width_;
  int height_;
  std::vector<double> cells_;
};

Disc point_disc() { return {0, {{0, 0, 1}}, {1.0F}}; }

}  // namespace

Disc make_disc(const Opening& opening, double coc_px, double aspect) {
  const double scale = 0.5 * std::abs(coc_px);
  if (scale * opening.corner_radius() < 1e-3) return point_disc();
  // A chord within 1/100 px of its arc cannot be told from it.
  std::vector<Point2> outline = opening.outline(std::min(0.05, 0.01 / scale));
  const int reach = static_cast<int>(std::ceil(scale * opening.corner_radius() + 0.5));
  const int side = 2 * reach + 1;
  for (Point2& p : outline) {
    // In the picture y runs down; the signed CoC turns the shape.
    p = {reach + 0.5 + 0.5 * coc_px * aspect * p.x, reach + 0.5 - 0.5 * coc_px * p.y};
  }
  AreaRaster raster(side, side);
  for (std::size_t i = 0; i < outline.size(); ++i) {
    raster.edge(outline[i], outline[(i + 1) % outline.size()]);
  }
  std::vector<std::vector<double>> areas;
  double total = 0.0;
  for (int y = 0; y < side; ++y) {
    areas.push_back(raster.row(y));
    for (const double a : areas.back()) total += a;
  }
  Disc disc;
  disc.top = -reach;
  for (const std::vector<double>& row : areas) {
    int first = 0;
    int end = side;
    const auto empty = [&](int x) {
      return std::abs(row[static_cast<std::size_t>(x)]) < 1e-9;  // rounding of the sums
    };
    while (first < end && empty(first)) ++first;
    while (end > first && empty(end - 1)) --end;
    disc.rows.push_back({first - reach, static_cast<int>(disc.weights.size()), end - first});
    for (int x = first; x < end; ++x) {
      disc.weights.push_back(static_cast<float>(row[static_cast<std::size_t>(x)] / total));
    }
  }
  return disc;
}

int DiscSet::step(double coc_px) {
  const double s = std::log1p(std::abs(coc_px) / 2.0) / 0.008;
  return static_cast<int>(std::lround(std::copysign(s, coc_px)));
}

double DiscSet::coc_of(int step) {
  return std::copysign(2.0 * std::expm1(0.008 * std::abs(step)), static_cast<double>(step));
}

void DiscSet::prepare(const std::vector<int>& steps) {
  if (steps.empty()) return;
  const auto [low, high] = std::minmax_element(steps.begin(), steps.end());
  first_ = *low;
  const auto count = static_cast<std::size_t>(*high - *low + 1);
  std::vector<char> wanted(count, 0);
  for (const int s : steps) wanted[static_cast<std::size_t>(s - first_)] = 1;
  discs_.resize(count);
  tbb::parallel_for(std::size_t{0}, count, [&](std::size_t i) {
    if (wanted[i] == 0) return;
    discs_[i] =
        std::make_unique<Disc>(make_disc(opening_, coc_of(first_ + static_cast<int>(i)), aspect_));
  });
  for (const auto& disc : discs_) {
    if (disc) reach_ = std::max(reach_, disc->bottom());
  }
}

}  // namespace jolly_iris::blur
