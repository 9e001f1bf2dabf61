#include "area_raster.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

namespace jolly_iris::blur {

template <class Cell>
void BasicAreaRaster<Cell>::start(int width, int height) {
  width_ = width;
  height_ = height;
  cells_.assign(static_cast<std::size_t>(width + 2) * static_cast<std::size_t>(height), Cell{0});
}

template <class Cell>
void BasicAreaRaster<Cell>::edge(Point2 a, Point2 b, double weight) {
  if (a.y == b.y) return;
  double sign = weight;
  if (a.y > b.y) {
    sign = -weight;
    std::swap(a, b);
  }
  const double slope = (b.x - a.x) / (b.y - a.y);
  const int last = std::min(height_ - 1, static_cast<int>(std::ceil(b.y)) - 1);
  for (int row = std::max(0, static_cast<int>(std::floor(a.y))); row <= last; ++row) {
    const double y0 = std::max(a.y, static_cast<double>(row));
    const double y1 = std::min(b.y, static_cast<double>(row + 1));
    if (y1 <= y0) continue;
    in_row(row, a.x + (y0 - a.y) * slope, a.x + (y1 - a.y) * slope, sign * (y1 - y0));
  }
}

// A piece of an edge within one row, of signed height `h`.
template <class Cell>
void BasicAreaRaster<Cell>::in_row(int row, double xa, double xb, double h) {
  if (xa > xb) std::swap(xa, xb);
  // Left of the raster all of it is to the right; right of it nothing is.
  if (xa < 0.0) {
    const double left = xb > 0.0 ? -xa / (xb - xa) : 1.0;
    cells_[index(0, row)] += static_cast<Cell>(h * left);
    if (xb <= 0.0) return;
    h *= 1.0 - left;
    xa = 0.0;
  }
  const double end = width_;
  if (xa >= end) return;
  if (xb > end) {
    h *= (end - xa) / (xb - xa);
    xb = end;
  }
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
template <class Cell>
void BasicAreaRaster<Cell>::cover(int row, int x, double h, double middle) {
  if (x < 0 || x >= width_) return;
  cells_[index(x, row)] += static_cast<Cell>(h * (1.0 - middle));
  cells_[index(x + 1, row)] += static_cast<Cell>(h * middle);
}

template class BasicAreaRaster<float>;
template class BasicAreaRaster<double>;

}  // namespace jolly_iris::blur
