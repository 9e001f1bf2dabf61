#include "moved_pixels.hpp"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <memory>

#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris::smearing {

namespace {

constexpr int tile_px = 64;
constexpr std::uint64_t nothing = ~0ULL;
constexpr float moves_px = 1e-3F;  // less is standing still

using V4 = float __attribute__((vector_size(16), aligned(4)));

const V4& four(const Rgba& pixel) { return reinterpret_cast<const V4&>(pixel); }

// The library's floor would be most of the work.
int floored(float v) {
  const int i = static_cast<int>(v);
  return i - static_cast<int>(v < static_cast<float>(i));
}

// Where a pixel's light was at a moment: between four pixels.
struct Origin {
  int x = 0;
  int y = 0;
  float across = 0.0F;  // towards the pixel to the right, 0 … 1
  float down = 0.0F;

  Origin(int px, int py, const std::array<float, 2>& v, float t) {
    const float fx = static_cast<float>(px) - v[0] * t;
    const float fy = static_cast<float>(py) - v[1] * t;
    x = floored(fx);
    y = floored(fy);
    across = fx - static_cast<float>(x);
    down = fy - static_cast<float>(y);
  }
  bool inside(PixelSize size) const {
    return x >= 0 && y >= 0 && x + 1 < size.width && y + 1 < size.height;
  }
  /// @param at light of the pixel at (x, y)
  template <class At>
  V4 light(const At& at) const {
    const V4 top = at(x, y) + across * (at(x + 1, y) - at(x, y));
    const V4 bottom = at(x, y + 1) + across * (at(x + 1, y + 1) - at(x, y + 1));
    return top + down * (bottom - top);
  }
};

// Whether a block, moved as its bounds say between two times, touches a tile.
bool touches(const Bounds& b, int column, int row, float from, float to, const auto& tile) {
  constexpr auto side = static_cast<float>(block_px);
  const auto [x_low, x_high] = std::minmax({b.x0 * from, b.x1 * from, b.x0 * to, b.x1 * to});
  const auto [y_low, y_high] = std::minmax({b.y0 * from, b.y1 * from, b.y0 * to, b.y1 * to});
  const auto x0 = static_cast<float>(column * block_px);
  const auto y0 = static_cast<float>(row * block_px);
  return x0 + x_low <= static_cast<float>(tile.x0 + tile.width) &&
         x0 + side + x_high >= static_cast<float>(tile.x0) &&
         y0 + y_low <= static_cast<float>(tile.y0 + tile.height) &&
         y0 + side + y_high >= static_cast<float>(tile.y0);
}

}  // namespace

// One part of the picture that is shown.
struct MovedPixels::Tile {
  int x0 = 0, y0 = 0, width = 0, height = 0;
  std::vector<std::uint32_t> blocks{};  // that come here while the shutter is open
  bool moves = false;                   // any of them
  bool together = false;                // they go alike
  std::array<std::uint64_t, tile_px * tile_px> nearest{};  // depth above, pixel below
  std::array<Rgba, tile_px * tile_px> sum{};

  V4& sum_at(int x, int y) { return reinterpret_cast<V4&>(sum[to_size(y) * tile_px + to_size(x)]); }
};

MovedPixels::MovedPixels(const Frame& frame, const MotionVectors& vectors, const ShutterSpan& span)
    : ways_(frame, vectors, span), hidden_(hidden_pixels(ways_)) {
  const std::size_t blocks = to_size(ways_.columns()) * to_size(ways_.rows());
  for (std::size_t i = 0; i < blocks; ++i) bounds_.push_back(ways_.block(i));
  hidden_begin_.assign(blocks + 1, 0);
  for (const HiddenPixel& h : hidden_) {
    const std::size_t block = ways_.block_of(h.at);
    ++hidden_begin_[block + 1];
    bounds_[block].hold(ways_.at(h.like));
  }
  for (std::size_t i = 1; i <= blocks; ++i) hidden_begin_[i] += hidden_begin_[i - 1];
  for (const Bounds& b : bounds_) {
    longest_x_ = std::max({longest_x_, std::abs(b.x0), std::abs(b.x1)});
    longest_y_ = std::max({longest_y_, std::abs(b.y0), std::abs(b.y1)});
  }
}

// Which blocks come to a tile at all, and how they go.
void MovedPixels::find_blocks(Tile& tile) const {
  const auto opens = static_cast<float>(ways_.span().opens);
  const auto closes = static_cast<float>(ways_.span().closes);
  const float far = ways_.farthest();
  const int beside = static_cast<int>(std::ceil(far * longest_x_)) + 1;
  const int above = static_cast<int>(std::ceil(far * longest_y_)) + 1;
  const PixelSize size = ways_.size();
  const int c0 = std::max(0, tile.x0 - beside) / block_px;
  const int c1 = std::min(size.width - 1, tile.x0 + tile.width + beside) / block_px;
  const int r0 = std::max(0, tile.y0 - above) / block_px;
  const int r1 = std::min(size.height - 1, tile.y0 + tile.height + above) / block_px;
  tile.blocks.clear();
  Bounds all{};
  for (int row = r0; row <= r1; ++row) {
    for (int column = c0; column <= c1; ++column) {
      const auto number = to_size(row) * to_size(ways_.columns()) + to_size(column);
      const Bounds& b = bounds_[number];
      // A tile's own pixels tell where its light came from where nobody else does.
      const bool own = touches({}, column, row, 0.0F, 0.0F, tile);
      if (!own && !touches(b, column, row, opens, closes, tile)) continue;
      if (tile.blocks.empty()) all = b;
      all.hold(b);
      tile.blocks.push_back(static_cast<std::uint32_t>(number));
    }
  }
  const float swiftest =
      std::max({std::abs(all.x0), std::abs(all.x1), std::abs(all.y0), std::abs(all.y1)});
  tile.moves = far * swiftest > moves_px;
  tile.together = far * (all.x1 - all.x0) <= together_px && far * (all.y1 - all.y0) <= together_px;
}

// Which pixel each place of the tile shows at a moment.
void MovedPixels::show(Tile& tile, float t) const {
  std::fill_n(tile.nearest.begin(), tile.nearest.size(), nothing);
  const PixelSize size = ways_.size();
  const auto put = [&](int x, int y, const std::array<float, 2>& v, std::uint32_t depth,
                       std::uint32_t who) {
    const int tx = floored(static_cast<float>(x) + 0.5F + v[0] * t) - tile.x0;
    const int ty = floored(static_cast<float>(y) + 0.5F + v[1] * t) - tile.y0;
    if (static_cast<unsigned>(tx) >= static_cast<unsigned>(tile.width) ||
        static_cast<unsigned>(ty) >= static_cast<unsigned>(tile.height)) {
      return;
    }
    std::uint64_t& best = tile.nearest[to_size(ty) * tile_px + to_size(tx)];
    best = std::min(best, (std::uint64_t{depth} << 32U) | who);
  };
  for (const std::uint32_t block : tile.blocks) {
    const int column = static_cast<int>(block) % ways_.columns();
    const int row = static_cast<int>(block) / ways_.columns();
    if (!touches(bounds_[block], column, row, t, t, tile)) continue;
    in_block(column, row, size, [&](int x, int y) {
      const std::uint32_t i = ways_.index(x, y);
      put(x, y, ways_.at(i), ways_.key(i), i);
    });
    const auto width = static_cast<std::uint32_t>(size.width);
    for (std::uint32_t h = hidden_begin_[block]; h < hidden_begin_[block + 1]; ++h) {
      const HiddenPixel& p = hidden_[h];
      put(static_cast<int>(p.at % width), static_cast<int>(p.at / width), ways_.at(p.like),
          ways_.key(p.like), ways_.count() + h);
    }
  }
}

// The light of a moment: of each place's pixel where it came from, among those that move alike.
void MovedPixels::add(Tile& tile, float t) const {
  const PixelSize size = ways_.size();
  const Rgba* colours = ways_.frame().colour.pixels().data();
  for (int ty = 0; ty < tile.height; ++ty) {
    for (int tx = 0; tx < tile.width; ++tx) {
      const int x = tile.x0 + tx;
      const int y = tile.y0 + ty;
      const std::uint64_t found = tile.nearest[to_size(ty) * tile_px + to_size(tx)];
      // What came from beyond the frame, or between two that part, is like what is here.
      const std::uint32_t who =
          found == nothing ? ways_.index(x, y) : static_cast<std::uint32_t>(found);
      if (who >= ways_.count()) {
        tile.sum_at(tx, ty) += four(colours[hidden_[who - ways_.count()].colour]);
        continue;
      }
      const Origin from(x, y, ways_.at(who), t);
      if (found != nothing && !ways_.at_outline(who) && from.inside(size)) {
        tile.sum_at(tx, ty) +=
            from.light([&](int px, int py) { return four(colours[ways_.index(px, py)]); });
        continue;
      }
      tile.sum_at(tx, ty) += from.light([&](int px, int py) {
        const std::uint32_t tap =
            ways_.index(std::clamp(px, 0, size.width - 1), std::clamp(py, 0, size.height - 1));
        return four(colours[ways_.alike(tap, who) ? tap : who]);
      });
    }
  }
}

// Where all go alike each place's own vector tells where its light came from at every moment.
void MovedPixels::add_all(Tile& tile, const std::vector<float>& times) const {
  const PixelSize size = ways_.size();
  const Rgba* colours = ways_.frame().colour.pixels().data();
  for (int ty = 0; ty < tile.height; ++ty) {
    for (int tx = 0; tx < tile.width; ++tx) {
      const int x = tile.x0 + tx;
      const int y = tile.y0 + ty;
      const std::array<float, 2> v = ways_.at(ways_.index(x, y));
      V4 sum{};
      for (const float t : times) {
        const Origin from(x, y, v, t);
        if (from.inside(size)) {
          sum += from.light([&](int px, int py) { return four(colours[ways_.index(px, py)]); });
        } else {
          sum += from.light([&](int px, int py) {
            return four(colours[ways_.index(std::clamp(px, 0, size.width - 1),
                                            std::clamp(py, 0, size.height - 1))]);
          });
        }
      }
      tile.sum_at(tx, ty) = sum;
    }
  }
}

void MovedPixels::deliver(const Tile& tile, float fraction, Shown& out) const {
  for (int y = 0; y < tile.height; ++y) {
    for (int x = 0; x < tile.width; ++x) {
      const std::size_t in = to_size(y) * tile_px + to_size(x);
      const std::uint32_t at = ways_.index(tile.x0 + x, tile.y0 + y);
      Rgba& p = out.picture.pixels()[at];
      p = ways_.frame().colour.pixels()[at];
      if (tile.moves) {
        for (std::size_t c = 0; c < 4; ++c) p[c] = tile.sum[in][c] * fraction;
      }
      if (out.from.empty()) continue;
      out.from[at] = at;
      if (!tile.moves || tile.nearest[in] == nothing) continue;
      const auto who = static_cast<std::uint32_t>(tile.nearest[in]);
      out.from[at] = who < ways_.count() ? who : hidden_[who - ways_.count()].like;
    }
  }
}

Shown MovedPixels::between(double opens, double closes, int moments, int taps, bool from,
                           const Execution& execution) const {
  const PixelSize size = ways_.size();
  Shown out{Picture(size), {}};
  if (from) out.from.resize(ways_.count());
  const int across = (size.width + tile_px - 1) / tile_px;
  const int down = (size.height + tile_px - 1) / tile_px;
  const auto time = [&](double k) {
    return static_cast<float>(opens + k / (moments * taps) * (closes - opens));
  };
  std::vector<float> times;
  for (int k = 0; k < moments * taps; ++k) times.push_back(time(k + 0.5));
  std::atomic<int> done{0};
  parallel_for(0, across * down, [&](int number) {
    const auto tile = std::make_unique<Tile>();
    tile->x0 = number % across * tile_px;
    tile->y0 = number / across * tile_px;
    tile->width = std::min(tile_px, size.width - tile->x0);
    tile->height = std::min(tile_px, size.height - tile->y0);
    find_blocks(*tile);
    if (tile->moves && tile->together) {
      add_all(*tile, times);
    } else if (tile->moves) {
      for (int k = 0; k < moments; ++k) {
        show(*tile, time((k + 0.5) * taps));
        for (int j = 0; j < taps; ++j) add(*tile, times[to_size(k * taps + j)]);
      }
    }
    if (from && tile->moves) show(*tile, static_cast<float>(0.5 * (opens + closes)));
    deliver(*tile, 1.0F / static_cast<float>(moments * taps), out);
    execution.tell(static_cast<double>(done.fetch_add(1) + 1) / (across * down));
  });
  return out;
}

}  // namespace jolly_iris::smearing
