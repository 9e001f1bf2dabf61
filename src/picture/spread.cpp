#include "spread.hpp"

#include <tbb/enumerable_thread_specific.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <memory>

#include "compositor.hpp"
#include "parallel.hpp"
#include "spread_kernel.hpp"
#include "to_size.hpp"

namespace jolly_iris::blur {

namespace {

constexpr int strip_rows = 32;  // even: half-size sums of two strips never share a row

// Pixels of one row that share a disc and a layer; x counts from the left end of the margin.
struct Run {
  int x = 0;
  int count = 0;
  int disc = 0;
  int layer = 0;
};

// The picture with a margin at its sides, as runs.
class Runs {
 public:
  Runs(Spread& in, const DiscTable& table)
      : in_(in),
        margin_(table.reach()),
        width_(in.size.width + 2 * margin_),
        columns_((width_ + DiscTable::cell_px - 1) / DiscTable::cell_px),
        runs_(to_size(in.size.height)),
        first_(to_size(in.size.height) * to_size(columns_ + 1)) {
    if (in.edge == FrameEdge::black) {
      dark_.assign(to_size(width_) * to_size(in.channels()), 0.0F);
      for (std::size_t i = 3; i < dark_.size(); i += to_size(in.channels())) dark_[i] = 1.0F;
    }
    parallel_for(0, in.size.height, [&](int y) { make_row(table, y); });
  }

  int margin() const { return margin_; }
  int width() const { return width_; }
  int columns() const { return columns_; }
  const float* source(int y, int x) const { return in_.surface_at(y, x - margin_); }
  const Run* begin(int y, int column) const { return runs_[to_size(y)].data() + first(y, column); }
  const Run* end(int y, int column) const {
    return runs_[to_size(y)].data() + first(y, column + 1);
  }

  /// Which pixel stands for a place beyond the frame; where that is black, it lends its disc and
  /// its layer, but no light.
  static int place(int at, int size, FrameEdge edge) {
    if (at >= 0 && at < size) return at;
    if (edge == FrameEdge::mirror) {
      const int period = 2 * size;
      const int m = ((at % period) + period) % period;
      return m < size ? m : period - 1 - m;
    }
    return std::clamp(at, 0, size - 1);
  }
  /// A row of surfaces without light or alpha.
  const float* dark() const { return dark_.data(); }

 private:
  std::size_t first(int y, int column) const {
    return to_size(first_[to_size(y) * to_size(columns_ + 1) + to_size(column)]);
  }

  void make_row(const DiscTable& table, int y) {
    std::vector<Run>& runs = runs_[to_size(y)];
    int* first = first_.data() + to_size(y) * to_size(columns_ + 1);
    const std::int16_t* step = in_.step.data() + to_size(y) * to_size(in_.size.width);
    const auto channels = to_size(in_.channels());
    int last_step = 1 << 16;
    int last_cell = -1;
    for (int x = 0; x < width_; ++x) {
      const bool begins = x % DiscTable::cell_px == 0;
      if (begins) first[x / DiscTable::cell_px] = static_cast<int>(runs.size());
      int from = x - margin_;
      if (from < 0 || from >= in_.size.width) {
        const int found = place(from, in_.size.width, in_.edge);
        const float* light = in_.edge == FrameEdge::black ? dark() : in_.surface_at(y, found);
        std::copy_n(light, channels, in_.surface_at(y, from));
        from = found;
      }
      const int cell = from / DiscTable::cell_px;
      if (!begins && step[from] == last_step && cell == last_cell) {
        ++runs.back().count;
        continue;
      }
      last_step = step[from];
      last_cell = cell;
      runs.push_back({x, 1, table.index(from, y, last_step),
                      in_.layer_at(to_size(y) * to_size(in_.size.width) + to_size(from))});
    }
    first[columns_] = static_cast<int>(runs.size());
  }

  Spread& in_;
  int margin_;
  int width_;
  int columns_;
  std::vector<std::vector<Run>> runs_;
  std::vector<float> dark_{};
  std::vector<int> first_;  // run of each column of cells, by row
};

// Rows [top, bottom) of the output.
class Strip {
 public:
  Strip(const Spread& in, const DiscTable& table, const Runs& runs,
        const std::vector<std::vector<const Lamp*>>& lamps, StripLayers& layers, int top,
        int bottom)
      : in_(in),
        table_(table),
        runs_(runs),
        lamps_(lamps),
        top_(top),
        bottom_(bottom),
        layers_(layers) {}

  void gather() {
    for (int column = 0; column < runs_.columns(); ++column) {
      for (int y = top_ - runs_.margin(); y < bottom_ + runs_.margin(); ++y) {
        spread_runs(y, Runs::place(y, in_.size.height, in_.edge), column);
      }
    }
    if (!in_.excess.empty()) {
      for (int y = top_ - runs_.margin(); y < bottom_ + runs_.margin(); ++y) {
        if (in_.edge == FrameEdge::black && (y < 0 || y >= in_.size.height)) continue;
        spread_excess(y, Runs::place(y, in_.size.height, in_.edge));
      }
    }
    for (const Lamp* lamp : lamps_[to_size(top_ / strip_rows)]) spread_lamp(*lamp);
  }

 private:
  struct Rows {
    int first;  // of the disc
    int last;
    int to;  // of the strip
  };
  Rows rows_of(const Disc& disc, int y) const {
    const int first = std::max(0, top_ - (y + disc.top));
    const int last = std::min(static_cast<int>(disc.rows.size()), bottom_ - (y + disc.top));
    return {first, last, y + disc.top + first - top_};
  }

  void spread_runs(int y, int from, int column) {
    const auto channels = in_.channels();
    const bool dark = in_.edge == FrameEdge::black && from != y;
    const Run* end = runs_.end(from, column);
    for (const Run* run = runs_.begin(from, column); run != end; ++run) {
      const Disc& disc = table_.discs()[to_size(run->disc)];
      const Rows rows = rows_of(disc, y);
      if (rows.first >= rows.last) continue;
      StripLayer& layer = layers_.at(run->layer);
      float* to = disc.changes ? layers_.changes(layer, rows.to) : layers_.direct(layer, rows.to);
      const RunJob job{&disc,
                       rows.first,
                       rows.last,
                       dark ? runs_.dark() : runs_.source(from, run->x),
                       to_size(run->count) * to_size(channels),
                       to + std::ptrdiff_t{channels} * (run->x + runs_.margin()),
                       layers_.stride()};
      add_run(job, channels);
    }
  }

  void spread_excess(int y, int from) {
    for (int side = -1; side <= 1; ++side) {
      for (const Excess& e : in_.excess[to_size(from)]) {
        for (int x : places_of(e.x, side)) excess_at(x, y, from, e);
      }
      if (in_.edge == FrameEdge::black) return;
    }
  }

  // Where a pixel stands in the margin to one side (or, for 0, within the frame).
  std::vector<int> places_of(int x, int side) const {
    if (side == 0) return {x};
    if (in_.edge == FrameEdge::black) return {};
    std::vector<int> places;
    const int begin = side < 0 ? -runs_.margin() : in_.size.width;
    const int end = side < 0 ? 0 : in_.size.width + runs_.margin();
    const bool at_edge = x == 0 || x == in_.size.width - 1 || in_.edge == FrameEdge::mirror;
    for (int at = begin; at_edge && at < end; ++at) {
      if (Runs::place(at, in_.size.width, in_.edge) == x) places.push_back(at);
    }
    return places;
  }

  void excess_at(int x, int y, int from, const Excess& e) {
    const std::size_t at = to_size(from) * to_size(in_.size.width) + to_size(e.x);
    const Disc& disc = table_.discs()[to_size(table_.index(e.x, from, in_.step[at]))];
    const Rows rows = rows_of(disc, y);
    StripLayer& layer = layers_.at(in_.layer_at(at));
    for (int row = rows.first; row < rows.last; ++row) {
      float* to = layers_.direct(layer, rows.to + row - rows.first);
      add_light(disc, row, e.light, to + std::ptrdiff_t{in_.channels()} * (x + 2 * runs_.margin()));
    }
  }

  // Light through one row of a disc; `to` is where its centre is.
  void add_light(const Disc& disc, int row, const std::array<float, 3>& light, float* to) {
    const int first = weights_of_row(disc, to_size(row), weights_);
    const Disc::Row& r = disc.rows[to_size(row)];
    if (!disc.tint.empty()) {
      for (int k = r.first; k < r.first + r.count; ++k) {
        const Disc::Tap& tap = disc.taps[to_size(k)];
        for (std::size_t c = 0; c < 3; ++c) {
          to[std::ptrdiff_t{in_.channels()} * tap.x + static_cast<std::ptrdiff_t>(c)] +=
              tap.step * disc.tint[to_size(k)][c] * light[c];
        }
      }
      return;
    }
    float* at = to + std::ptrdiff_t{in_.channels()} * first;
    for (const float w : weights_) {
      for (std::size_t c = 0; c < 3; ++c) at[c] += w * light[c];
      at += in_.channels();
    }
  }

  void spread_lamp(const Lamp& lamp) {
    const Rows rows = rows_of(*lamp.disc, lamp.y);
    StripLayer& layer = layers_.at(lamp.layer);
    for (int row = rows.first; row < rows.last; ++row) {
      const int first = weights_of_row(*lamp.disc, to_size(row), weights_);
      const Disc::Row& r = lamp.disc->rows[to_size(row)];
      float* to = layers_.lamps(layer, rows.to + row - rows.first);
      const int x0 = lamp.x + first;
      for (std::size_t i = 0; i < weights_.size(); ++i) {
        const int x = x0 + static_cast<int>(i);
        if (x < 0 || x >= in_.size.width) continue;
        for (std::size_t c = 0; c < 3; ++c) {
          to[std::ptrdiff_t{4} * x + static_cast<std::ptrdiff_t>(c)] +=
              weights_[i] * lamp.light[c] * (lamp.disc->tint.empty() ? 1.0F : 0.0F);
        }
      }
      if (lamp.disc->tint.empty()) continue;
      for (int k = r.first; k < r.first + r.count; ++k) {
        const Disc::Tap& tap = lamp.disc->taps[to_size(k)];
        const int x = lamp.x + tap.x;
        if (x < 0 || x >= in_.size.width) continue;
        for (std::size_t c = 0; c < 3; ++c) {
          to[std::ptrdiff_t{4} * x + static_cast<std::ptrdiff_t>(c)] +=
              tap.step * lamp.disc->tint[to_size(k)][c] * lamp.light[c];
        }
      }
    }
  }

  const Spread& in_;
  const DiscTable& table_;
  const Runs& runs_;
  const std::vector<std::vector<const Lamp*>>& lamps_;
  int top_;
  int bottom_;
  StripLayers& layers_;
  std::vector<float> weights_{};
};

// Which lamps reach into which strip.
std::vector<std::vector<const Lamp*>> lamps_by_strip(const Spread& in, int strips) {
  std::vector<std::vector<const Lamp*>> out(to_size(strips));
  for (const Lamp& lamp : in.lamps) {
    const int first = std::max(0, lamp.y + lamp.disc->top) / strip_rows;
    const int last = std::min(in.size.height - 1, lamp.y + lamp.disc->bottom() - 1) / strip_rows;
    for (int i = first; i <= last; ++i) out[to_size(i)].push_back(&lamp);
  }
  return out;
}

FillSums half_size(PixelSize size) {
  FillSums sums{(size.width + 1) / 2, (size.height + 1) / 2, {}};
  sums.cells = LargeArray<std::array<float, 5>>(to_size(sums.width) * to_size(sums.height));
  return sums;
}

}  // namespace

void Spread::make_surface(int side_margin) {
  margin = side_margin;
  surface = LargeArray<float>(to_size(size.height) * to_size(size.width + 2 * margin) *
                              to_size(channels()));
}

int Spread::channels() const { return with_alpha ? alpha_channels : plain_channels; }

Composite::Composite(PixelSize size)
    : covered(size),
      open(covered.pixels().size()),
      beside_front(covered.pixels().size()),
      front(half_size(size)),
      focus(half_size(size)),
      behind(half_size(size)) {}

int layer_of(double coc_px) {
  const double octaves = std::log2(1.0 + std::abs(coc_px));
  return static_cast<int>(std::lround(std::copysign(octaves * layers_an_octave, coc_px)));
}

std::unique_ptr<Composite> gather_and_join(const Spread& spread, int margin, const Gather& gather,
                                           const Execution& execution) {
  auto joined = std::make_unique<Composite>(spread.size);
  Composite& out = *joined;
  const int strips = (spread.size.height + strip_rows - 1) / strip_rows;
  std::atomic<int> done{0};
  tbb::enumerable_thread_specific<GreyImagePool> pools;
  parallel_for(0, strips, [&](int i) {
    const int top = i * strip_rows;
    const int bottom = std::min(spread.size.height, top + strip_rows);
    StripLayers layers(spread.layers, spread.channels(), spread.size.width + 2 * margin, margin,
                       bottom - top, pools.local());
    gather(layers, top, bottom);
    Compositor compositor(spread, layers, out);
    for (int y = top; y < bottom; ++y) compositor.row(y, y - top);
    const int ready = done.fetch_add(1) + 1;
    execution.tell(static_cast<double>(ready) / strips);
  });
  return joined;
}

std::unique_ptr<Composite> spread_and_join(Pass& pass, const Execution& execution) {
  Spread& spread = pass.spread;
  const Runs runs(spread, pass.table);
  const auto lamps = lamps_by_strip(spread, (spread.size.height + strip_rows - 1) / strip_rows);
  return gather_and_join(
      spread, 2 * runs.margin(),
      [&](StripLayers& layers, int top, int bottom) {
        Strip(spread, pass.table, runs, lamps, layers, top, bottom).gather();
      },
      execution);
}

}  // namespace jolly_iris::blur
