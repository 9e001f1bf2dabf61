// One number a pixel: what discs are looked for in.
#pragma once

#include <algorithm>
#include <cstddef>
#include <vector>

#include "optics/quantile.hpp"

namespace jolly_iris::measuring {

struct GreyImage {
  int width = 0;
  int height = 0;
  std::vector<float> values{};

  GreyImage() = default;
  GreyImage(int w, int h)
      : width(w), height(h), values(static_cast<std::size_t>(w) * static_cast<std::size_t>(h)) {}
  float& at(int x, int y) { return values[index(x, y)]; }
  float at(int x, int y) const { return values[index(x, y)]; }
  const float* row(int y) const { return values.data() + index(0, y); }
  float* row(int y) { return values.data() + index(0, y); }
  /// Between the four pixels around a place (centres at +0.5); the edge goes on beyond the frame.
  float between(double x, double y) const {
    const double u = std::clamp(x - 0.5, 0.0, width - 1.001);
    const double v = std::clamp(y - 0.5, 0.0, height - 1.001);
    const int i = static_cast<int>(u);
    const int j = static_cast<int>(v);
    const auto fx = static_cast<float>(u - i);
    const auto fy = static_cast<float>(v - j);
    const float* a = row(j) + i;
    const float* b = a + width;
    const float top = a[0] + fx * (a[1] - a[0]);
    const float bottom = b[0] + fx * (b[1] - b[0]);
    return top + fy * (bottom - top);
  }

 private:
  std::size_t index(int x, int y) const {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
           static_cast<std::size_t>(x);
  }
};

/// Half the size: means of two by two.
GreyImage halved(const GreyImage& fine);

}  // namespace jolly_iris::measuring
