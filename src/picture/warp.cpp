#include "jolly_iris/picture/warp.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "parallel.hpp"

namespace jolly_iris {

namespace {

using Place = std::array<double, 2>;

// Catmull and Rom's weights of the four pixels around a place, `t` past the second one's centre.
std::array<float, 4> weights(double t) {
  const double t2 = t * t;
  const double t3 = t2 * t;
  return {static_cast<float>(0.5 * (-t + 2.0 * t2 - t3)),
          static_cast<float>(0.5 * (2.0 - 5.0 * t2 + 3.0 * t3)),
          static_cast<float>(0.5 * (t + 4.0 * t2 - 3.0 * t3)), static_cast<float>(0.5 * (t3 - t2))};
}

Rgba sample(const Picture& picture, const Place& p) {
  const double x = p[0] - 0.5;
  const double y = p[1] - 0.5;
  const auto left = static_cast<int>(std::floor(x));
  const auto top = static_cast<int>(std::floor(y));
  const auto across = weights(x - left);
  const auto down = weights(y - top);
  constexpr float huge = std::numeric_limits<float>::max();
  Rgba sum{};
  Rgba min{huge, huge, huge, huge};
  Rgba max{-huge, -huge, -huge, -huge};
  for (int j = 0; j < 4; ++j) {
    const int row = std::clamp(top - 1 + j, 0, picture.height() - 1);
    for (int i = 0; i < 4; ++i) {
      const Rgba& v = picture.at(std::clamp(left - 1 + i, 0, picture.width() - 1), row);
      const float weight = across[static_cast<std::size_t>(i)] * down[static_cast<std::size_t>(j)];
      for (std::size_t c = 0; c < 4; ++c) {
        sum[c] += weight * v[c];
        min[c] = std::min(min[c], v[c]);
        max[c] = std::max(max[c], v[c]);
      }
    }
  }
  for (std::size_t c = 0; c < 4; ++c) sum[c] = std::clamp(sum[c], min[c], max[c]);
  return sum;
}

// Margins are whole pixels, so places just outside the border are asked for. A picture is continued
// by a little more than a filter reaches, so that its border meets no emptiness on the way back.
constexpr double map_slack = 0.5;
constexpr double picture_slack = 3.0;
bool within(const Place& p, PixelSize size, double slack) {
  return p[0] >= -slack && p[1] >= -slack && p[0] <= size.width + slack &&
         p[1] <= size.height + slack;
}

struct Sizes {
  double scale = 1.0;  // of the picture against the map
  PixelSize size{};
};

// Pictures of half or twice the plate's size are as good; another shape is a mistake.
std::optional<double> scale_of(PixelSize picture, PixelSize wanted) {
  const double scale = static_cast<double>(picture.width) / wanted.width;
  if (std::abs(scale * wanted.height - picture.height) > 1.0) return std::nullopt;
  return scale;
}

PixelSize with_margin(PixelSize size, const Margin& m) {
  return {size.width + 2 * m.beside, size.height + 2 * m.above};
}

PixelSize scaled(PixelSize size, double scale) {
  return {std::max(1, static_cast<int>(std::lround(size.width * scale))),
          std::max(1, static_cast<int>(std::lround(size.height * scale)))};
}

}  // namespace

Frame warp(const Frame& frame, PixelSize size, const PlaceMap& from) {
  // What is read, what is made of it, and what a writer keeps of that; measured.
  require_memory(
      20.0 * static_cast<double>(frame.colour.pixels().size()) + 44.0 * size.width * size.height,
      fmt::format("bending a picture of {} x {} pixels to one of {} x {}", frame.colour.width(),
                  frame.colour.height(), size.width, size.height));
  Frame out{Picture(size), {}};
  if (frame.has_depth()) {
    out.depth.assign(out.colour.pixels().size(), std::numeric_limits<float>::infinity());
  }
  const PixelSize old = frame.colour.size();
  parallel_for(0, size.height, [&](int y) {
    for (int x = 0; x < size.width; ++x) {
      const auto p = from({x + 0.5, y + 0.5});
      if (!p || !within(*p, old, picture_slack)) continue;
      out.colour.at(x, y) = sample(frame.colour, *p);
      if (!frame.has_depth()) continue;
      const int sx = std::clamp(static_cast<int>(std::floor((*p)[0])), 0, old.width - 1);
      const int sy = std::clamp(static_cast<int>(std::floor((*p)[1])), 0, old.height - 1);
      out.depth[static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) +
                static_cast<std::size_t>(x)] =
          frame.depth[static_cast<std::size_t>(sy) * static_cast<std::size_t>(old.width) +
                      static_cast<std::size_t>(sx)];
    }
  });
  return out;
}

Frame undistorted(const Frame& plate, const DistortionMap& map, const Margin& margin) {
  const PixelSize whole = map.size();
  const auto scale = scale_of(plate.colour.size(), whole);
  if (!scale) {
    throw PictureError(fmt::format(
        "is {} x {} px; the shot's plate is {} x {} (body.pixels): another shape is bent otherwise",
        plate.colour.width(), plate.colour.height(), whole.width, whole.height));
  }
  return warp(
      plate, scaled(with_margin(whole, margin), *scale),
      [&](const Place& p) -> std::optional<Place> {
        const auto d = map.distorted({p[0] / *scale - margin.beside, p[1] / *scale - margin.above});
        if (!d) return std::nullopt;
        return Place{(*d)[0] * *scale, (*d)[1] * *scale};
      });
}

Frame redistorted(const Frame& cg, const DistortionMap& map) {
  const PixelSize whole = map.size();
  const Margin margin = map.margin();
  const PixelSize larger = with_margin(whole, margin);
  const PixelSize size = cg.colour.size();
  // With the margin only in full: at half size a margin and a crop could not be told apart.
  const bool full = size == larger;
  const auto scale = full ? std::optional(1.0) : scale_of(size, whole);
  if (!scale) {
    throw PictureError(fmt::format(
        "is {} x {} px; a CG picture to redistort is {} x {}, with the margin that fills the "
        "frame, or as large as the plate, {} x {}",
        size.width, size.height, larger.width, larger.height, whole.width, whole.height));
  }
  const Margin m = full ? margin : Margin{};
  return warp(cg, scaled(whole, *scale), [&](const Place& p) -> std::optional<Place> {
    const auto u = map.undistorted({p[0] / *scale, p[1] / *scale});
    return Place{(u[0] + m.beside) * *scale, (u[1] + m.above) * *scale};
  });
}

PositionMap undistorting_map(const DistortionMap& map, const Margin& margin) {
  PositionMap result{with_margin(map.size(), margin), map.size(), {}};
  result.from.assign(
      static_cast<std::size_t>(result.size.width) * static_cast<std::size_t>(result.size.height),
      {-1.0, -1.0});
  parallel_for(0, result.size.height, [&](int y) {
    for (int x = 0; x < result.size.width; ++x) {
      const auto d = map.distorted({x + 0.5 - margin.beside, y + 0.5 - margin.above});
      if (!d || !within(*d, map.size(), map_slack)) continue;
      result.from[static_cast<std::size_t>(y) * static_cast<std::size_t>(result.size.width) +
                  static_cast<std::size_t>(x)] = *d;
    }
  });
  return result;
}

PositionMap redistorting_map(const DistortionMap& map, const Margin& margin) {
  PositionMap result{map.size(), with_margin(map.size(), margin), {}};
  result.from.reserve(static_cast<std::size_t>(map.size().width) *
                      static_cast<std::size_t>(map.size().height));
  for (int y = 0; y < map.size().height; ++y) {
    for (int x = 0; x < map.size().width; ++x) {
      const auto u = map.undistorted({x + 0.5, y + 0.5});
      const Place from{u[0] + margin.beside, u[1] + margin.above};
      result.from.push_back(within(from, result.source, map_slack) ? from : Place{-1.0, -1.0});
    }
  }
  return result;
}

Picture shrunk(const Picture& picture, int width) {
  if (width < 1) throw UsageError(fmt::format("a picture {} px wide is none", width));
  if (width >= picture.width()) return picture;
  const double step = static_cast<double>(picture.width()) / width;
  const PixelSize size{width, std::max(1, static_cast<int>(std::lround(picture.height() / step)))};
  const double step_y = static_cast<double>(picture.height()) / size.height;
  Picture out(size);
  parallel_for(0, size.height, [&](int y) {
    const double top = y * step_y;
    const double bottom = std::min<double>(picture.height(), top + step_y);
    for (int x = 0; x < size.width; ++x) {
      const double left = x * step;
      const double right = std::min<double>(picture.width(), left + step);
      Rgba sum{};
      float area = 0.0F;
      for (int j = static_cast<int>(top); j < bottom; ++j) {
        const double rows = std::min(bottom, j + 1.0) - std::max<double>(top, j);
        for (int i = static_cast<int>(left); i < right; ++i) {
          const double columns = std::min(right, i + 1.0) - std::max<double>(left, i);
          const auto fraction = static_cast<float>(columns * rows);
          const Rgba& v = picture.at(i, j);
          for (std::size_t c = 0; c < 4; ++c) sum[c] += fraction * v[c];
          area += fraction;
        }
      }
      for (std::size_t c = 0; c < 4; ++c) sum[c] /= area;
      out.at(x, y) = sum;
    }
  });
  return out;
}

}  // namespace jolly_iris
