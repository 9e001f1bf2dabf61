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
// A tile covers 16 blocks. Where so many come to it (sixteen times as many) all of the picture at
// once is quicker; where as many might, they are not even looked at.
constexpr std::size_t many_blocks = 256;
constexpr std::size_t most_blocks = 4096;

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

// When pixels are put where they are, and when their light is taken: `taps` times around each.
struct MovedPixels::Moments {
  std::size_t taps = 1;
  std::vector<float> shown{};
  std::vector<float> lit{};
  float middle = 0.0F;
  float fraction() const { return 1.0F / static_cast<float>(lit.size()); }
};

// One part of the picture that is shown.
struct MovedPixels::Tile {
  int x0 = 0, y0 = 0, width = 0, height = 0;
  std::vector<std::uint32_t> blocks{};  // that come here while the shutter is open
  bool moves = false;                   // any of them
  bool together = false;                // they go alike
  bool from_everywhere = false;         // too many to be gone through for each tile
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
  if (to_size(c1 - c0 + 1) * to_size(r1 - r0 + 1) > most_blocks) {
    tile.from_everywhere = true;
    tile.moves = true;
    return;
  }
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
  tile.from_everywhere = tile.moves && !tile.together && tile.blocks.size() > many_blocks;
}

// Where the pixels of a block are at a moment, and those hidden behind them: f(x, y, who), the
// nearer the less.
template <class F>
void MovedPixels::each_moved(std::uint32_t block, float t, const F& f) const {
  const auto put = [&](int x, int y, std::uint32_t like, std::uint32_t who) {
    const std::array<float, 2>& v = ways_.at(like);
    f(floored(static_cast<float>(x) + 0.5F + v[0] * t),
      floored(static_cast<float>(y) + 0.5F + v[1] * t),
      (std::uint64_t{ways_.key(like)} << 32U) | who);
  };
  const PixelSize size = ways_.size();
  in_block(static_cast<int>(block) % ways_.columns(), static_cast<int>(block) / ways_.columns(),
           size, [&](int x, int y) {
             const std::uint32_t i = ways_.index(x, y);
             put(x, y, i, i);
           });
  const auto width = static_cast<std::uint32_t>(size.width);
  for (std::uint32_t h = hidden_begin_[block]; h < hidden_begin_[block + 1]; ++h) {
    const HiddenPixel& p = hidden_[h];
    put(static_cast<int>(p.at % width), static_cast<int>(p.at / width), p.like, ways_.count() + h);
  }
}

// Which pixel each place of the tile shows at a moment.
void MovedPixels::show(Tile& tile, float t) const {
  std::fill_n(tile.nearest.begin(), tile.nearest.size(), nothing);
  for (const std::uint32_t block : tile.blocks) {
    const int column = static_cast<int>(block) % ways_.columns();
    const int row = static_cast<int>(block) / ways_.columns();
    if (!touches(bounds_[block], column, row, t, t, tile)) continue;
    each_moved(block, t, [&](int x, int y, std::uint64_t who) {
      const int tx = x - tile.x0;
      const int ty = y - tile.y0;
      if (static_cast<unsigned>(tx) >= static_cast<unsigned>(tile.width) ||
          static_cast<unsigned>(ty) >= static_cast<unsigned>(tile.height)) {
        return;
      }
      std::uint64_t& best = tile.nearest[to_size(ty) * tile_px + to_size(tx)];
      best = std::min(best, who);
    });
  }
}

// The same of all of the picture at once: for pixels that come from everywhere.
void MovedPixels::show_all(std::vector<std::atomic<std::uint64_t>>& nearest, float t) const {
  parallel_for(std::size_t{0}, nearest.size(),
               [&](std::size_t i) { nearest[i].store(nothing, std::memory_order_relaxed); });
  parallel_for(std::size_t{0}, bounds_.size(), [&](std::size_t block) {
    each_moved(static_cast<std::uint32_t>(block), t, [&](int x, int y, std::uint64_t who) {
      if (ways_.within(x, y)) keep_least(nearest[ways_.index(x, y)], who);
    });
  });
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
      Rgba& p = out.picture.at(tile.x0 + x, tile.y0 + y);
      p = ways_.frame().colour.at(tile.x0 + x, tile.y0 + y);
      if (!tile.moves) continue;
      for (std::size_t c = 0; c < 4; ++c)
        p[c] = tile.sum[to_size(y) * tile_px + to_size(x)][c] * fraction;
    }
  }
  if (!out.from.empty()) tell_from(tile, out);
}

// Which pixel of the picture each place shows.
void MovedPixels::tell_from(const Tile& tile, Shown& out) const {
  for (int y = 0; y < tile.height; ++y) {
    for (int x = 0; x < tile.width; ++x) {
      const std::uint32_t at = ways_.index(tile.x0 + x, tile.y0 + y);
      const std::uint64_t found = tile.nearest[to_size(y) * tile_px + to_size(x)];
      out.from[at] = at;
      if (!tile.moves || found == nothing) continue;
      const auto who = static_cast<std::uint32_t>(found);
      out.from[at] = who < ways_.count() ? who : hidden_[who - ways_.count()].like;
    }
  }
}

std::unique_ptr<MovedPixels::Tile> MovedPixels::tile_of(int number, int across) const {
  auto tile = std::make_unique<Tile>();
  tile->x0 = number % across * tile_px;
  tile->y0 = number / across * tile_px;
  tile->width = std::min(tile_px, ways_.size().width - tile->x0);
  tile->height = std::min(tile_px, ways_.size().height - tile->y0);
  return tile;
}

// Tiles to which pixels come from everywhere: moment by moment of all of the picture.
void MovedPixels::show_left(const std::vector<int>& left, const Moments& at, Shown& out,
                            const Execution& execution) const {
  const int across = (ways_.size().width + tile_px - 1) / tile_px;
  std::vector<std::atomic<std::uint64_t>> nearest(ways_.count());
  const auto each_left = [&](float t, const auto& work) {
    show_all(nearest, t);
    parallel_for(std::size_t{0}, left.size(), [&](std::size_t i) {
      const std::unique_ptr<Tile> tile = tile_of(left[i], across);
      tile->moves = true;
      for (int y = 0; y < tile->height; ++y) {
        for (int x = 0; x < tile->width; ++x) {
          tile->nearest[to_size(y) * tile_px + to_size(x)] =
              nearest[ways_.index(tile->x0 + x, tile->y0 + y)].load(std::memory_order_relaxed);
        }
      }
      work(*tile);
    });
  };
  for (std::size_t k = 0; k < at.shown.size(); ++k) {
    execution.tell(static_cast<double>(k) / static_cast<double>(at.shown.size()));
    each_left(at.shown[k], [&](Tile& tile) {
      for (std::size_t j = 0; j < at.taps; ++j) add(tile, at.lit[k * at.taps + j]);
      for (int y = 0; y < tile.height; ++y) {
        for (int x = 0; x < tile.width; ++x) {
          auto& to = reinterpret_cast<V4&>(out.picture.at(tile.x0 + x, tile.y0 + y));
          to += at.fraction() * tile.sum_at(x, y);
        }
      }
    });
  }
  if (!out.from.empty()) each_left(at.middle, [&](Tile& tile) { tell_from(tile, out); });
}

Shown MovedPixels::between(double opens, double closes, int moments, int taps, bool from,
                           const Execution& execution) const {
  const PixelSize size = ways_.size();
  Shown out{Picture(size), {}};
  if (from) out.from.resize(ways_.count());
  Moments at{to_size(taps), {}, {}, static_cast<float>(0.5 * (opens + closes))};
  const auto time = [&](double k, int of) {
    return static_cast<float>(opens + (k + 0.5) / of * (closes - opens));
  };
  for (int k = 0; k < moments; ++k) at.shown.push_back(time(k, moments));
  for (int k = 0; k < moments * taps; ++k) at.lit.push_back(time(k, moments * taps));
  const int across = (size.width + tile_px - 1) / tile_px;
  const int tiles = across * ((size.height + tile_px - 1) / tile_px);
  std::vector<char> is_left(to_size(tiles), 0);
  std::atomic<int> done{0};
  parallel_for(0, tiles, [&](int number) {
    const std::unique_ptr<Tile> tile = tile_of(number, across);
    find_blocks(*tile);
    if (tile->from_everywhere) {
      is_left[to_size(number)] = 1;
      return;
    }
    if (tile->moves && tile->together) {
      add_all(*tile, at.lit);
    } else if (tile->moves) {
      for (std::size_t k = 0; k < at.shown.size(); ++k) {
        show(*tile, at.shown[k]);
        for (std::size_t j = 0; j < at.taps; ++j) add(*tile, at.lit[k * at.taps + j]);
      }
    }
    if (from && tile->moves) show(*tile, at.middle);
    deliver(*tile, at.fraction(), out);
    execution.tell(static_cast<double>(done.fetch_add(1) + 1) / tiles);
  });
  std::vector<int> left;
  for (int i = 0; i < tiles; ++i) {
    if (is_left[to_size(i)] != 0) left.push_back(i);
  }
  if (!left.empty()) show_left(left, at, out, execution);
  return out;
}

}  // namespace jolly_iris::smearing
