#include "jolly_iris/picture/depth_map.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "parallel.hpp"

namespace jolly_iris {

namespace {

std::size_t index(int x, int y, int width) {
  return static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
         static_cast<std::size_t>(x);
}

}  // namespace

std::vector<float> axial_depth(const Frame& picture, const DepthCode& code,
                               const VirtualCamera& camera, PixelSize size) {
  const PixelSize from = picture.colour.size();
  if (picture.colour.empty()) throw PictureError("the depth picture has no pixels");
  std::vector<float> depth;
  depth.reserve(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height));
  for (int y = 0; y < size.height; ++y) {
    const int row =
        std::min(from.height - 1, static_cast<int>((y + 0.5) * from.height / size.height));
    for (int x = 0; x < size.width; ++x) {
      const int column =
          std::min(from.width - 1, static_cast<int>((x + 0.5) * from.width / size.width));
      const float number = picture.has_depth() ? picture.depth[index(column, row, from.width)]
                                               : picture.colour.at(column, row)[0];
      double z = 0.0;
      try {
        z = decode_depth(code, static_cast<double>(number)).m();
      } catch (const PictureError& e) {
        throw PictureError(fmt::format("at pixel {}, {}: {}", column, row, e.what()));
      }
      if (code.kind == DepthCode::Kind::radial) {
        const auto d = direction_of_pixel(camera, (x + 0.5) * camera.pixels.width / size.width,
                                          (y + 0.5) * camera.pixels.height / size.height);
        z /= std::hypot(1.0, d[0], d[1]);
      }
      depth.push_back(static_cast<float>(z));
    }
  }
  return depth;
}

int mend_edges(std::vector<float>& depth, PixelSize size) {
  constexpr double edge = 0.05;   // of the nearer one's vergence: less is no edge
  constexpr double apart = 0.12;  // of the step: nearer to one side than that is that side
  const std::vector<float> before = depth;
  const auto at = [&](int x, int y) {
    return 1.0 / static_cast<double>(before[index(std::clamp(x, 0, size.width - 1),
                                                  std::clamp(y, 0, size.height - 1), size.width)]);
  };
  int mended = 0;
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const double here = at(x, y);
      for (const auto& [dx, dy] :
           {std::array{1, 0}, std::array{0, 1}, std::array{1, 1}, std::array{1, -1}}) {
        const double a = at(x - dx, y - dy);
        const double b = at(x + dx, y + dy);
        const double step = std::abs(a - b);
        if (step < edge * std::max(a, b)) continue;
        const double fraction = std::abs(here - a) / step;
        const bool between =
            (here - a) * (here - b) < 0.0 && std::abs(fraction - 0.5) < 0.5 - apart;
        // On both sides it must be level: a slope that goes on is no edge.
        const double before_a = std::abs(at(x - 2 * dx, y - 2 * dy) - a);
        const double behind_b = std::abs(at(x + 2 * dx, y + 2 * dy) - b);
        if (!between || before_a > 0.25 * step || behind_b > 0.25 * step) continue;
        depth[index(x, y, size.width)] = static_cast<float>(1.0 / (fraction < 0.5 ? a : b));
        ++mended;
        break;
      }
    }
  }
  return mended;
}

namespace {

// What one pixel of a smaller row or column covers of the larger.
struct Cover {
  int first = 0;
  std::vector<float> fraction{};  // of the pixel's own length, together 1
};

std::vector<Cover> covers(int from, int to) {
  std::vector<Cover> out(static_cast<std::size_t>(to));
  const double times = static_cast<double>(from) / to;
  for (int i = 0; i < to; ++i) {
    const double begin = i * times;
    const double end = (i + 1) * times;
    Cover& c = out[static_cast<std::size_t>(i)];
    c.first = static_cast<int>(begin);
    for (int k = c.first; k < from && k < end; ++k) {
      const double part = std::min(k + 1.0, end) - std::max<double>(k, begin);
      if (part > 1e-6 || c.fraction.empty()) c.fraction.push_back(static_cast<float>(part / times));
    }
  }
  return out;
}

}  // namespace

Frame reduced(const Frame& frame, PixelSize size) {
  const PixelSize from = frame.colour.size();
  if (size.width > from.width || size.height > from.height) {
    throw UsageError(fmt::format("a picture of {} x {} is not made smaller by {} x {}", from.width,
                                 from.height, size.width, size.height));
  }
  Frame out{Picture(size), {}, frame.notes};
  if (frame.has_depth()) out.depth.resize(out.colour.pixels().size());
  const std::vector<Cover> columns = covers(from.width, size.width);
  const std::vector<Cover> rows = covers(from.height, size.height);
  parallel_for(0, size.height, [&](int y) {
    const Cover& v = rows[static_cast<std::size_t>(y)];
    for (int x = 0; x < size.width; ++x) {
      const Cover& h = columns[static_cast<std::size_t>(x)];
      Rgba sum{};
      float nearest = std::numeric_limits<float>::infinity();
      for (std::size_t j = 0; j < v.fraction.size(); ++j) {
        for (std::size_t i = 0; i < h.fraction.size(); ++i) {
          const int u = h.first + static_cast<int>(i);
          const int w = v.first + static_cast<int>(j);
          const float weight = h.fraction[i] * v.fraction[j];
          const Rgba& p = frame.colour.at(u, w);
          for (std::size_t c = 0; c < 4; ++c) sum[c] += weight * p[c];
          if (frame.has_depth()) {
            const float z = frame.depth[index(u, w, from.width)];
            nearest = z < nearest || std::isnan(z) ? z : nearest;
          }
        }
      }
      out.colour.at(x, y) = sum;
      if (frame.has_depth()) out.depth[index(x, y, size.width)] = nearest;
    }
  });
  return out;
}

Frame half_of(const Frame& frame) {
  const PixelSize size = frame.colour.size();
  const PixelSize half{std::max(1, size.width / 2), std::max(1, size.height / 2)};
  Frame out{Picture(half), {}};
  for (int y = 0; y < half.height; ++y) {
    for (int x = 0; x < half.width; ++x) {
      Rgba sum{};
      float nearest = std::numeric_limits<float>::infinity();
      for (int k = 0; k < 4; ++k) {
        const int u = std::min(size.width - 1, 2 * x + (k & 1));
        const int v = std::min(size.height - 1, 2 * y + (k >> 1));
        for (std::size_t c = 0; c < 4; ++c) sum[c] += 0.25F * frame.colour.at(u, v)[c];
        if (frame.has_depth()) nearest = std::min(nearest, frame.depth[index(u, v, size.width)]);
      }
      out.colour.at(x, y) = sum;
      if (frame.has_depth()) out.depth.push_back(nearest);
    }
  }
  return out;
}

}  // namespace jolly_iris
