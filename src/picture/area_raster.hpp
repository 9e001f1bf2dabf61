// Exact areas of polygons within pixels.
#pragma once

#include <cstddef>
#include <vector>

#include "jolly_iris/optics/lens_sampler.hpp"

namespace jolly_iris::blur {

/// Adds polygons edge by edge. An edge changes the covered area of its own pixels and of everything
/// to their right, so cells keep *differences along a row*: summed up from the left, each is the
/// area of the polygons within that pixel (below zero for clockwise ones).
template <class Cell>
class BasicAreaRaster {
 public:
  /// Clears it and makes it so large; memory is kept for the next.
  void start(int width, int height);
  void edge(Point2 a, Point2 b) { edge(a, b, 1.0); }
  /// @param weight what a covered pixel counts
  void edge(Point2 a, Point2 b, double weight);
  /// So much in one pixel.
  void point(int x, int y, double weight) {
    if (x < 0 || y < 0 || x >= width_ || y >= height_) return;
    cells_[index(x, y)] += static_cast<Cell>(weight);
    cells_[index(x + 1, y)] -= static_cast<Cell>(weight);
  }
  int width() const { return width_; }
  int height() const { return height_; }
  /// The differences of a row, width + 1 of them.
  const Cell* row(int y) const { return cells_.data() + index(0, y); }

 private:
  std::size_t index(int x, int y) const {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(width_ + 2) +
           static_cast<std::size_t>(x);
  }
  void in_row(int row, double xa, double xb, double h);
  void cover(int row, int x, double h, double middle);

  int width_ = 0;
  int height_ = 0;
  std::vector<Cell> cells_{};
};

extern template class BasicAreaRaster<float>;
extern template class BasicAreaRaster<double>;

/// One shape, or many of about the same weight.
using AreaRaster = BasicAreaRaster<float>;
/// Faint wide ones beside small bright ones: sums along a row must not leave the bright one's
/// roundings over the faint one.
using FineAreaRaster = BasicAreaRaster<double>;

}  // namespace jolly_iris::blur
