#include "magnify.hpp"

#include <algorithm>
#include <cmath>

#include "parallel.hpp"

namespace jolly_iris::blur {

namespace {

// Where a line of pixels comes from: four neighbours and their weights.
struct Source {
  std::array<int, 4> from{};
  std::array<float, 4> weight{};
};

std::vector<Source> sources(int count, double axis, double factor) {
  std::vector<Source> out;
  for (int i = 0; i < count; ++i) {
    const double at = axis + (i + 0.5 - axis) / factor - 0.5;
    const int k = static_cast<int>(std::floor(at));
    const double t = at - k;
    const std::array<double, 4> w{0.5 * t * (-1.0 + t * (2.0 - t)),
                                  1.0 + 0.5 * t * t * (-5.0 + 3.0 * t),
                                  0.5 * t * (1.0 + t * (4.0 - 3.0 * t)), 0.5 * t * t * (t - 1.0)};
    Source s;
    for (int j = 0; j < 4; ++j) {
      s.from[static_cast<std::size_t>(j)] = std::clamp(k - 1 + j, 0, count - 1);
      s.weight[static_cast<std::size_t>(j)] = static_cast<float>(w[static_cast<std::size_t>(j)]);
    }
    out.push_back(s);
  }
  return out;
}

void draw_out(const Picture& from, Picture& to, std::size_t channel, double factor,
              const GateMap& map) {
  const std::vector<Source> columns = sources(from.width(), map.axis_x, factor);
  const std::vector<Source> rows = sources(from.height(), map.axis_y, factor);
  parallel_for(0, from.height(), [&](int y) {
    const Source& row = rows[static_cast<std::size_t>(y)];
    for (int x = 0; x < from.width(); ++x) {
      const Source& column = columns[static_cast<std::size_t>(x)];
      float sum = 0.0F;
      float low = from.at(column.from[1], row.from[1])[channel];
      float high = low;
      for (std::size_t j = 0; j < 4; ++j) {
        for (std::size_t i = 0; i < 4; ++i) {
          const float v = from.at(column.from[i], row.from[j])[channel];
          sum += row.weight[j] * column.weight[i] * v;
          if (i == 0 || i == 3 || j == 0 || j == 3) continue;
          low = std::min(low, v);
          high = std::max(high, v);
        }
      }
      // Beside a lamp a cubic would swing below zero.
      to.at(x, y)[channel] = std::clamp(sum, low, high);
    }
  });
}

}  // namespace

Picture magnified(Picture picture, const std::array<double, 3>& factors, const GateMap& map) {
  if (factors == std::array<double, 3>{1.0, 1.0, 1.0}) return picture;
  Picture out = picture;
  for (std::size_t c = 0; c < 3; ++c) {
    if (factors[c] != 1.0) draw_out(picture, out, c, factors[c], map);
  }
  if (factors[1] != 1.0) draw_out(picture, out, 3, factors[1], map);
  return out;
}

}  // namespace jolly_iris::blur
