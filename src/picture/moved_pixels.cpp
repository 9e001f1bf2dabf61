#include "moved_pixels.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <bit>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "parallel.hpp"
#include "require_finite.hpp"
#include "to_size.hpp"

namespace jolly_iris::smearing {

namespace {

constexpr int block_px = 16;
constexpr int tile_px = 64;
constexpr std::uint64_t nothing = ~0ULL;
// Things that part by less than this while the shutter is open are drawn as one.
constexpr float together_px = 0.5F;
// One depth is clearly behind another from this ratio on.
constexpr float behind_ratio = 1.03F;
// A vector this many frames long is rubbish that a renderer left where it knew none.
constexpr double longest_in_frames = 4.0;

using V4 = float __attribute__((vector_size(16), aligned(4)));

// The library's floor would be most of the work.
inline int floored(float v) {
  const int i = static_cast<int>(v);
  return i - static_cast<int>(v < static_cast<float>(i));
}

// Four pixels that weigh as (wx, wy) says.
inline V4 between_four(const Rgba* above, const Rgba* below, float wx, float wy) {
  const auto* a = reinterpret_cast<const V4*>(above);
  const auto* b = reinterpret_cast<const V4*>(below);
  const V4 top = a[0] + wx * (a[1] - a[0]);
  const V4 bottom = b[0] + wx * (b[1] - b[0]);
  return top + wy * (bottom - top);
}

// Runs f(x, y) for each pixel of a block.
template <class F>
void in_block(int column, int row, PixelSize size, const F& f) {
  const int x1 = std::min(size.width, (column + 1) * block_px);
  const int y1 = std::min(size.height, (row + 1) * block_px);
  for (int y = row * block_px; y < y1; ++y) {
    for (int x = column * block_px; x < x1; ++x) f(x, y);
  }
}

}  // namespace

// One part of the picture that is shown.
struct MovedPixels::Tile {
  int x0 = 0, y0 = 0, width = 0, height = 0;
  std::array<std::uint64_t, tile_px * tile_px> nearest{};  // depth above, pixel below
  std::array<Rgba, tile_px * tile_px> sum{};
};

MovedPixels::MovedPixels(const Frame& frame, const MotionVectors& vectors, const ShutterSpan& span)
    : frame_(frame),
      depth_(frame.has_depth() ? frame.depth : vectors.depth),
      size_(frame.colour.size()),
      v_(vectors.px_a_frame) {
  require_finite(frame.colour);
  if (vectors.size != size_ || v_.size() != frame.colour.pixels().size()) {
    throw PictureError(fmt::format("the vectors are {} x {} px, but the picture is {} x {}",
                                   vectors.size.width, vectors.size.height, size_.width,
                                   size_.height));
  }
  if (!depth_.empty()) {
    if (depth_.size() != v_.size()) {
      throw PictureError("the depth picture has another size than the colour");
    }
    const std::size_t i =
        first_of(depth_.size(), [&](std::size_t k) { return !(depth_[k] > 0.0F); });
    if (i < depth_.size()) {
      refuse_pixel(
          frame.colour, i,
          fmt::format("the depth is {:g}, which is not in front of the camera,", depth_[i]));
    }
  }
  columns_ = (size_.width + block_px - 1) / block_px;
  rows_ = (size_.height + block_px - 1) / block_px;
  farthest_t_ = std::max(std::abs(span.opens), std::abs(span.closes));
  clean(span);
  bound_blocks();
  find_hidden(span);
}

void MovedPixels::clean(const ShutterSpan& span) {
  const double time = span.closes - span.opens;
  const double most = longest_in_frames * (size_.width + size_.height) / time;
  std::vector<double> longest(to_size(size_.height), 0.0);
  std::atomic<std::size_t> unusable{0};
  parallel_for(0, size_.height, [&](int y) {
    std::size_t here = 0;
    double squared = 0.0;
    for (int x = 0; x < size_.width; ++x) {
      auto& v = v_[to_size(y) * to_size(size_.width) + to_size(x)];
      const double length = std::hypot(static_cast<double>(v[0]), static_cast<double>(v[1]));
      if (!(length <= most)) {  // NaN too
        v = {0.0F, 0.0F};
        ++here;
        continue;
      }
      squared = std::max(squared, length);
    }
    longest[to_size(y)] = squared;
    unusable.fetch_add(here);
  });
  longest_ = *std::max_element(longest.begin(), longest.end()) * time;
  unusable_ = unusable;
}

void MovedPixels::bound_blocks() {
  bounds_.resize(to_size(columns_) * to_size(rows_));
  parallel_for(0, rows_, [&](int row) {
    for (int column = 0; column < columns_; ++column) {
      constexpr float far = std::numeric_limits<float>::max();
      Bounds b{far, -far, far, -far};
      in_block(column, row, size_, [&](int x, int y) {
        const auto& v = v_[to_size(y) * to_size(size_.width) + to_size(x)];
        b = {std::min(b.x0, v[0]), std::max(b.x1, v[0]), std::min(b.y0, v[1]),
             std::max(b.y1, v[1])};
      });
      bounds_[to_size(row) * to_size(columns_) + to_size(column)] = b;
    }
  });
  find_outlines();
  for (const Bounds& b : bounds_) {
    longest_x_ = std::max({longest_x_, std::abs(b.x0), std::abs(b.x1)});
    longest_y_ = std::max({longest_y_, std::abs(b.y0), std::abs(b.y1)});
  }
}

// Pixels with a neighbour that goes another way: only there who is who has to be asked.
void MovedPixels::find_outlines() {
  outline_.assign(v_.size(), 0);
  const float most = together_px / static_cast<float>(farthest_t_);
  parallel_for(0, rows_, [&](int row) {
    for (int column = 0; column < columns_; ++column) {
      const Bounds b = bounds_within(column - 1, column + 1, row - 1, row + 1);
      if (b.x1 - b.x0 <= most && b.y1 - b.y0 <= most) continue;
      in_block(column, row, size_, [&](int x, int y) {
        const auto i = to_size(y) * to_size(size_.width) + to_size(x);
        for (int ny = std::max(0, y - 1); ny <= std::min(size_.height - 1, y + 1); ++ny) {
          for (int nx = std::max(0, x - 1); nx <= std::min(size_.width - 1, x + 1); ++nx) {
            const auto n = to_size(ny) * to_size(size_.width) + to_size(nx);
            if (!alike(static_cast<std::uint32_t>(i), static_cast<std::uint32_t>(n)))
              outline_[i] = 1;
          }
        }
      });
    }
  });
}

MovedPixels::Bounds MovedPixels::bounds_within(int column0, int column1, int row0, int row1) const {
  Bounds all = bounds_[to_size(std::clamp(row0, 0, rows_ - 1)) * to_size(columns_) +
                       to_size(std::clamp(column0, 0, columns_ - 1))];
  for (int row = std::max(0, row0); row <= std::min(rows_ - 1, row1); ++row) {
    for (int column = std::max(0, column0); column <= std::min(columns_ - 1, column1); ++column) {
      const Bounds& b = bounds_[to_size(row) * to_size(columns_) + to_size(column)];
      all = {std::min(all.x0, b.x0), std::max(all.x1, b.x1), std::min(all.y0, b.y0),
             std::max(all.y1, b.y1)};
    }
  }
  return all;
}

std::uint32_t MovedPixels::key(std::uint32_t i) const {
  // Floats above zero count as their bits do.
  if (!depth_.empty()) return std::bit_cast<std::uint32_t>(depth_[i]);
  const auto& v = v_[i];
  return ~std::bit_cast<std::uint32_t>(v[0] * v[0] + v[1] * v[1]);
}

bool MovedPixels::alike(std::uint32_t a, std::uint32_t b) const {
  const float most = together_px / static_cast<float>(farthest_t_);
  return std::abs(v_[a][0] - v_[b][0]) <= most && std::abs(v_[a][1] - v_[b][1]) <= most;
}

// Behind every outline that parts from what is behind it: the background goes on inward along the
// way they part, as a mirror image of what is seen outside.
void MovedPixels::find_hidden(const ShutterSpan& span) {
  const auto time = static_cast<float>(span.closes - span.opens);
  const auto width = static_cast<std::uint32_t>(size_.width);
  const auto index = [&](int x, int y) {
    return static_cast<std::uint32_t>(y) * width + static_cast<std::uint32_t>(x);
  };
  const auto behind = [&](std::uint32_t far, std::uint32_t near) {
    if (depth_.empty()) return key(far) > key(near);
    return depth_[far] > behind_ratio * depth_[near];
  };
  struct Found {
    HiddenPixel pixel;
    int distance = 0;
  };
  // Rows of edges on all cores; put together in order, so that nobody's luck counts.
  std::vector<std::vector<Found>> found(to_size(size_.height));
  const auto from_edge = [&](int x, int y, int dx, int dy, std::vector<Found>& out) {
    const std::uint32_t near = index(x, y);
    const std::uint32_t far = index(x + dx, y + dy);
    if (alike(near, far) || !behind(far, near)) return;
    const float ux = (v_[near][0] - v_[far][0]) * time;
    const float uy = (v_[near][1] - v_[far][1]) * time;
    const float length = std::hypot(ux, uy);
    if (length < together_px) return;
    const float sign =
        ux * static_cast<float>(dx) + uy * static_cast<float>(dy) > 0.0F ? -1.0F : 1.0F;
    const float sx = sign * ux / length;  // inward
    const float sy = sign * uy / length;
    const int steps = static_cast<int>(std::ceil(length)) + 1;
    for (int k = 0; k < steps; ++k) {
      const float px = static_cast<float>(x) + sx * static_cast<float>(k);
      const float py = static_cast<float>(y) + sy * static_cast<float>(k);
      // The pixel beside the edge is a mixture of both: the next one tells the colour.
      const int mx = x + dx - static_cast<int>(std::lround(sx * static_cast<float>(k + 1)));
      const int my = y + dy - static_cast<int>(std::lround(sy * static_cast<float>(k + 1)));
      std::uint32_t colour = far;
      if (mx >= 0 && my >= 0 && mx < size_.width && my < size_.height &&
          alike(index(mx, my), far)) {
        colour = index(mx, my);
      }
      for (int side = 0; side < 2; ++side) {  // two wide, so that lines leave no gaps
        const bool level = std::abs(sx) >= std::abs(sy);
        const int hx =
            static_cast<int>(level ? std::lround(px) : std::lround(std::floor(px)) + side);
        const int hy =
            static_cast<int>(level ? std::lround(std::floor(py)) + side : std::lround(py));
        if (hx < 0 || hy < 0 || hx >= size_.width || hy >= size_.height) continue;
        if (behind(far, index(hx, hy))) out.push_back({{index(hx, hy), far, colour}, k});
      }
    }
  };
  parallel_for(0, size_.height, [&](int y) {
    for (int x = 0; x < size_.width; ++x) {
      constexpr std::array<std::array<int, 2>, 4> sides{{{1, 0}, {-1, 0}, {0, 1}, {0, -1}}};
      for (const auto& [dx, dy] : sides) {
        if (x + dx < 0 || y + dy < 0 || x + dx >= size_.width || y + dy >= size_.height) continue;
        from_edge(x, y, dx, dy, found[to_size(y)]);
      }
    }
  });
  std::size_t count = 0;
  for (const auto& row : found) count += row.size();
  if (count == 0) {
    hidden_begin_.assign(bounds_.size() + 1, 0);
    return;
  }
  // Of several for one place the nearest edge's.
  std::vector<std::uint32_t> slot(v_.size(), 0);
  std::vector<Found> best;
  for (const auto& row : found) {
    for (const Found& f : row) {
      std::uint32_t& s = slot[f.pixel.at];
      if (s == 0) {
        best.push_back(f);
        s = static_cast<std::uint32_t>(best.size());
      } else if (f.distance < best[s - 1].distance) {
        best[s - 1] = f;
      }
    }
  }
  const auto block_of = [&](const HiddenPixel& h) {
    return (h.at / width / block_px) * static_cast<std::uint32_t>(columns_) +
           (h.at % width) / block_px;
  };
  std::stable_sort(best.begin(), best.end(), [&](const Found& a, const Found& b) {
    return block_of(a.pixel) < block_of(b.pixel);
  });
  hidden_begin_.assign(bounds_.size() + 1, 0);
  for (const Found& f : best) {
    hidden_.push_back(f.pixel);
    ++hidden_begin_[block_of(f.pixel) + 1];
    Bounds& b = bounds_[block_of(f.pixel)];
    const auto& v = v_[f.pixel.like];
    b = {std::min(b.x0, v[0]), std::max(b.x1, v[0]), std::min(b.y0, v[1]), std::max(b.y1, v[1])};
  }
  for (std::size_t i = 1; i < hidden_begin_.size(); ++i) hidden_begin_[i] += hidden_begin_[i - 1];
}

// Which pixel each place of the tile shows at a moment.
void MovedPixels::show(Tile& tile, double t) const {
  constexpr auto side = static_cast<float>(block_px);
  const auto ft = static_cast<float>(t);
  std::fill_n(tile.nearest.begin(), tile.width * tile.height, nothing);
  const auto width = static_cast<std::uint32_t>(size_.width);
  const auto put = [&](float x, float y, std::uint32_t depth, std::uint32_t who) {
    const int tx = floored(x) - tile.x0;
    const int ty = floored(y) - tile.y0;
    if (static_cast<unsigned>(tx) >= static_cast<unsigned>(tile.width) ||
        static_cast<unsigned>(ty) >= static_cast<unsigned>(tile.height)) {
      return;
    }
    std::uint64_t& best = tile.nearest[to_size(ty) * tile_px + to_size(tx)];
    best = std::min(best, (std::uint64_t{depth} << 32U) | who);
  };
  const int beside = static_cast<int>(std::ceil(std::abs(ft) * longest_x_)) + 1;
  const int above = static_cast<int>(std::ceil(std::abs(ft) * longest_y_)) + 1;
  const int c0 = std::max(0, tile.x0 - beside) / block_px;
  const int c1 = std::min(size_.width - 1, tile.x0 + tile.width + beside) / block_px;
  const int r0 = std::max(0, tile.y0 - above) / block_px;
  const int r1 = std::min(size_.height - 1, tile.y0 + tile.height + above) / block_px;
  for (int row = r0; row <= r1; ++row) {
    for (int column = c0; column <= c1; ++column) {
      const std::size_t block = to_size(row) * to_size(columns_) + to_size(column);
      const Bounds& b = bounds_[block];
      const auto [x_low, x_high] = std::minmax(b.x0 * ft, b.x1 * ft);
      const auto [y_low, y_high] = std::minmax(b.y0 * ft, b.y1 * ft);
      const auto x0 = static_cast<float>(column * block_px);
      const auto y0 = static_cast<float>(row * block_px);
      if (x0 + x_low > static_cast<float>(tile.x0 + tile.width) ||
          x0 + side + x_high < static_cast<float>(tile.x0) ||
          y0 + y_low > static_cast<float>(tile.y0 + tile.height) ||
          y0 + side + y_high < static_cast<float>(tile.y0)) {
        continue;
      }
      in_block(column, row, size_, [&](int x, int y) {
        const std::uint32_t i =
            static_cast<std::uint32_t>(y) * width + static_cast<std::uint32_t>(x);
        put(static_cast<float>(x) + 0.5F + v_[i][0] * ft,
            static_cast<float>(y) + 0.5F + v_[i][1] * ft, key(i), i);
      });
      for (std::uint32_t h = hidden_begin_[block]; h < hidden_begin_[block + 1]; ++h) {
        const HiddenPixel& p = hidden_[h];
        const auto& v = v_[p.like];
        put(static_cast<float>(p.at % width) + 0.5F + v[0] * ft,
            static_cast<float>(static_cast<int>(p.at / width)) + 0.5F + v[1] * ft, key(p.like),
            static_cast<std::uint32_t>(v_.size()) + h);
      }
    }
  }
}

// The light of a moment: of each place's pixel where it came from, among those that move alike.
void MovedPixels::add(Tile& tile, double t) const {
  const auto ft = static_cast<float>(t);
  const auto width = static_cast<std::uint32_t>(size_.width);
  const Rgba* colours = frame_.colour.pixels().data();
  const auto pixels = static_cast<std::uint32_t>(v_.size());
  for (int ty = 0; ty < tile.height; ++ty) {
    for (int tx = 0; tx < tile.width; ++tx) {
      const std::size_t at = to_size(ty) * tile_px + to_size(tx);
      auto& to = reinterpret_cast<V4&>(tile.sum[at]);
      const int x = tile.x0 + tx;
      const int y = tile.y0 + ty;
      const std::uint64_t found = tile.nearest[at];
      auto who = static_cast<std::uint32_t>(found);
      if (found == nothing) {  // came from beyond the frame, or between two that part
        who = static_cast<std::uint32_t>(y) * width + static_cast<std::uint32_t>(x);
      } else if (who >= pixels) {
        to += reinterpret_cast<const V4&>(colours[hidden_[who - pixels].colour]);
        continue;
      }
      const float vx = v_[who][0];
      const float vy = v_[who][1];
      const float fx = static_cast<float>(x) - vx * ft;
      const float fy = static_cast<float>(y) - vy * ft;
      const int ix = floored(fx);
      const int iy = floored(fy);
      const float wx = fx - static_cast<float>(ix);
      const float wy = fy - static_cast<float>(iy);
      if (found != nothing && outline_[who] == 0 && ix >= 0 && iy >= 0 && ix + 1 < size_.width &&
          iy + 1 < size_.height) {
        const Rgba* above = colours + to_size(iy) * width + to_size(ix);
        to += between_four(above, above + width, wx, wy);
        continue;
      }
      const auto own = reinterpret_cast<const V4&>(colours[who]);
      V4 sum{};
      const std::array<int, 2> xs{std::clamp(ix, 0, size_.width - 1),
                                  std::clamp(ix + 1, 0, size_.width - 1)};
      const std::array<int, 2> ys{std::clamp(iy, 0, size_.height - 1),
                                  std::clamp(iy + 1, 0, size_.height - 1)};
      for (std::size_t j = 0; j < 2; ++j) {
        for (std::size_t i = 0; i < 2; ++i) {
          const float w = (i == 0 ? 1.0F - wx : wx) * (j == 0 ? 1.0F - wy : wy);
          const std::uint32_t tap =
              static_cast<std::uint32_t>(ys[j]) * width + static_cast<std::uint32_t>(xs[i]);
          sum += w * (alike(tap, who) ? reinterpret_cast<const V4&>(colours[tap]) : own);
        }
      }
      to += sum;
    }
  }
}

// How everything goes that could reach a tile.
MovedPixels::Bounds MovedPixels::reaching(const Tile& tile) const {
  const auto ft = static_cast<float>(farthest_t_);
  const int beside = static_cast<int>(std::ceil(ft * longest_x_)) + 1;
  const int above = static_cast<int>(std::ceil(ft * longest_y_)) + 1;
  return bounds_within(
      std::max(0, tile.x0 - beside) / block_px, (tile.x0 + tile.width + beside) / block_px,
      std::max(0, tile.y0 - above) / block_px, (tile.y0 + tile.height + above) / block_px);
}

// Where all go alike each place's own vector tells where its light came from at every moment.
void MovedPixels::add_all(Tile& tile, const std::vector<float>& times) const {
  const Rgba* colours = frame_.colour.pixels().data();
  const auto width = to_size(size_.width);
  for (int ty = 0; ty < tile.height; ++ty) {
    for (int tx = 0; tx < tile.width; ++tx) {
      const int x = tile.x0 + tx;
      const int y = tile.y0 + ty;
      const auto [vx, vy] = v_[to_size(y) * width + to_size(x)];
      V4 sum{};
      for (const float t : times) {
        const float fx = static_cast<float>(x) - vx * t;
        const float fy = static_cast<float>(y) - vy * t;
        const int ix = floored(fx);
        const int iy = floored(fy);
        const float wx = fx - static_cast<float>(ix);
        const float wy = fy - static_cast<float>(iy);
        if (static_cast<unsigned>(ix) < static_cast<unsigned>(size_.width - 1) &&
            static_cast<unsigned>(iy) < static_cast<unsigned>(size_.height - 1)) {
          const Rgba* above = colours + to_size(iy) * width + to_size(ix);
          sum += between_four(above, above + width, wx, wy);
          continue;
        }
        const auto pixel = [&](int px, int py) {
          return reinterpret_cast<const V4&>(
              colours[to_size(std::clamp(py, 0, size_.height - 1)) * width +
                      to_size(std::clamp(px, 0, size_.width - 1))]);
        };
        const V4 top = pixel(ix, iy) + wx * (pixel(ix + 1, iy) - pixel(ix, iy));
        const V4 low = pixel(ix, iy + 1) + wx * (pixel(ix + 1, iy + 1) - pixel(ix, iy + 1));
        sum += top + wy * (low - top);
      }
      reinterpret_cast<V4&>(tile.sum[to_size(ty) * tile_px + to_size(tx)]) = sum;
    }
  }
}

Shown MovedPixels::between(double opens, double closes, int moments, int taps, bool from,
                           const Execution& execution) const {
  Shown out{Picture(size_), {}};
  const auto pixels = static_cast<std::uint32_t>(v_.size());
  if (from) out.from.resize(v_.size());
  const int across = (size_.width + tile_px - 1) / tile_px;
  const int down = (size_.height + tile_px - 1) / tile_px;
  std::vector<float> times;
  for (int k = 0; k < moments * taps; ++k) {
    times.push_back(static_cast<float>(opens + (k + 0.5) / (moments * taps) * (closes - opens)));
  }
  std::atomic<int> done{0};
  parallel_for(0, across * down, [&](int number) {
    const auto tile = std::make_unique<Tile>();
    tile->x0 = number % across * tile_px;
    tile->y0 = number / across * tile_px;
    tile->width = std::min(tile_px, size_.width - tile->x0);
    tile->height = std::min(tile_px, size_.height - tile->y0);
    const Bounds all = reaching(*tile);
    const float swiftest =
        std::max({std::abs(all.x0), std::abs(all.x1), std::abs(all.y0), std::abs(all.y1)});
    const auto ft = static_cast<float>(farthest_t_);
    constexpr float least = 1e-3F;  // px
    const bool moves = ft * swiftest > least;
    const bool together =
        ft * (all.x1 - all.x0) <= together_px && ft * (all.y1 - all.y0) <= together_px;
    if (moves && together) {
      add_all(*tile, times);
    } else if (moves) {
      for (int k = 0; k < moments; ++k) {
        const double step = (closes - opens) / moments;
        show(*tile, opens + (k + 0.5) * step);
        for (int j = 0; j < taps; ++j) add(*tile, opens + (k + (j + 0.5) / taps) * step);
      }
    }
    if (from && moves) show(*tile, 0.5 * (opens + closes));
    const float fraction = 1.0F / static_cast<float>(moments * taps);
    for (int y = 0; y < tile->height; ++y) {
      for (int x = 0; x < tile->width; ++x) {
        const std::size_t in = to_size(y) * tile_px + to_size(x);
        const std::size_t at = to_size(tile->y0 + y) * to_size(size_.width) + to_size(tile->x0 + x);
        Rgba& p = out.picture.pixels()[at];
        p = frame_.colour.pixels()[at];
        if (moves) {
          for (std::size_t c = 0; c < 4; ++c) p[c] = tile->sum[in][c] * fraction;
        }
        if (!from) continue;
        out.from[at] = static_cast<std::uint32_t>(at);
        if (!moves || tile->nearest[in] == nothing) continue;
        const auto who = static_cast<std::uint32_t>(tile->nearest[in]);
        out.from[at] = who < pixels ? who : hidden_[who - pixels].like;
      }
    }
    execution.tell(static_cast<double>(done.fetch_add(1) + 1) / (across * down));
  });
  return out;
}

}  // namespace jolly_iris::smearing
