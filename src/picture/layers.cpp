#include "layers.hpp"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <memory>

namespace jolly_iris::blur {

namespace {

constexpr int strip_rows = 32;
constexpr double layers_an_octave = 3.0;
// A surface this many layers in front of a lamp can hide it; a nearer one moves with it.
constexpr int hides_from = 2;
// Blur of up to about a pixel and a half (four layers) counts as in focus when holes are filled.
constexpr int focus_depth = 4;
// What a surface weighs for filling where there is none of the right kind.
constexpr float last_resort = 1e-7F;

std::size_t to_size(int v) { return static_cast<std::size_t>(v); }

// One layer within a strip, planar so that the compiler's vectors fit. Channels: the surface's
// RGBA, its coverage, then the lamps' RGBA.
struct StripLayer {
  explicit StripLayer(std::size_t pixels) {
    for (auto& c : channel) c.assign(pixels, 0.0F);
  }
  std::array<std::vector<float>, 5> channel{};
  std::array<std::vector<float>, 4> lamp{};
  bool has_lamps = false;

  void add_lamps(std::size_t pixels) {
    if (has_lamps) return;
    for (auto& c : lamp) c.assign(pixels, 0.0F);
    has_lamps = true;
  }
};

// Rows [top, bottom) of the output.
class Strip {
 public:
  Strip(const Spread& in, int top, int bottom)
      : in_(in),
        width_(in.colour.width()),
        top_(top),
        bottom_(bottom),
        pixels_(to_size(width_) * to_size(bottom - top)),
        layers_(to_size(in.layers)) {}

  // Beyond the frame the picture goes on as at its edge, so that blur does not darken there; lamps
  // are not repeated.
  void gather() {
    const int height = in_.colour.height();
    const int reach = in_.discs.reach();
    for (int y = top_ - reach; y < bottom_ + reach; ++y) {
      const int sy = std::clamp(y, 0, height - 1);
      for (int x = -reach; x < width_ + reach; ++x) {
        const int sx = std::clamp(x, 0, width_ - 1);
        spread_pixel(x, y, sx, sy, x != sx || y != sy);
      }
    }
  }

  void join(Joined& out) const {
    for (int y = top_; y < bottom_; ++y) {
      for (int x = 0; x < width_; ++x) {
        join_pixel(to_size(y - top_) * to_size(width_) + to_size(x),
                   to_size(y) * to_size(width_) + to_size(x), out);
      }
    }
  }

 private:
  void spread_pixel(int x, int y, int sx, int sy, bool repeated) {
    const std::size_t source = to_size(sy) * to_size(width_) + to_size(sx);
    const Disc& disc = in_.discs.at(in_.step[source]);
    const int from = std::max(top_, y + disc.top);
    const int to = std::min(bottom_, y + disc.bottom());
    if (from >= to) return;
    const Rgba& colour = in_.colour.pixels()[source];
    const float share = in_.lamp_share[source];
    StripLayer& layer = layer_at(in_.layer[source]);
    const float keep = 1.0F - share;
    const std::array<float, 5> surface{colour[0] * keep, colour[1] * keep, colour[2] * keep,
                                       colour[3], 1.0F};
    const bool lamp = share > 0.0F && !repeated;
    if (lamp) layer.add_lamps(pixels_);
    for (int row = from; row < to; ++row) {
      const Disc::Row& run = disc.rows[to_size(row - y - disc.top)];
      const int x0 = std::max(0, x + run.x);
      const int x1 = std::min(width_, x + run.x + run.count);
      if (x0 >= x1) continue;
      const float* weight = disc.weights.data() + run.first + (x0 - x - run.x);
      const std::size_t at = to_size(row - top_) * to_size(width_) + to_size(x0);
      for (std::size_t c = 0; c < 5; ++c) {
        add_run(layer.channel[c].data() + at, weight, surface[c], x1 - x0);
      }
      if (!lamp) continue;
      for (std::size_t c = 0; c < 3; ++c) {
        add_run(layer.lamp[c].data() + at, weight, colour[c] * share, x1 - x0);
      }
    }
  }

  static void add_run(float* to, const float* weight, float value, int count) {
    if (value == 0.0F) return;
    for (int i = 0; i < count; ++i) to[i] += weight[i] * value;
  }

  StripLayer& layer_at(int layer) {
    auto& slot = layers_[to_size(layer)];
    if (!slot) slot = std::make_unique<StripLayer>(pixels_);
    return *slot;
  }

  void join_pixel(std::size_t here, std::size_t whole, Joined& out) const {
    Rgba sum{0, 0, 0, 0};
    float open = 1.0F;
    std::array<float, hides_from> open_before;  // before this layer, before the one in front of it
    open_before.fill(1.0F);
    for (std::size_t k = 0; k < layers_.size(); ++k) {
      std::rotate(open_before.begin(), open_before.end() - 1, open_before.end());
      open_before[0] = open;
      if (!layers_[k]) continue;
      const StripLayer& layer = *layers_[k];
      if (layer.has_lamps) {
        for (std::size_t c = 0; c < 3; ++c) sum[c] += open_before.back() * layer.lamp[c][here];
      }
      const float coverage = layer.channel[4][here];
      if (coverage <= 0.0F) continue;
      const float taken = std::min(coverage, open);
      for (std::size_t c = 0; c < 4; ++c) sum[c] += taken / coverage * layer.channel[c][here];
      open -= taken;
      const int behind_focus = static_cast<int>(k) - in_.focus_layer;
      if (behind_focus < -focus_depth && coverage > 1e-3F) out.beside_front[whole] = 1;
      offer(layer, here, behind_focus >= -focus_depth, behind_focus, whole, out.from_focus);
      offer(layer, here, behind_focus > focus_depth, behind_focus, whole, out.from_behind);
    }
    out.covered.pixels()[whole] = sum;
    out.open[whole] = std::max(0.0F, open);
  }

  // Adds a layer to what holes may be filled with; of two that fit, the farther one is likelier.
  static void offer(const StripLayer& layer, std::size_t here, bool fits, int behind_focus,
                    std::size_t whole, Weighted& to) {
    const float weight =
        (fits ? 1.0F : last_resort) *
        std::exp2(static_cast<float>(behind_focus) / static_cast<float>(layers_an_octave));
    for (std::size_t c = 0; c < 4; ++c) {
      to.colour.pixels()[whole][c] += weight * layer.channel[c][here];
    }
    to.weight[whole] += weight * layer.channel[4][here];
  }

  const Spread& in_;
  int width_;
  int top_;
  int bottom_;
  std::size_t pixels_;
  std::vector<std::unique_ptr<StripLayer>> layers_;
};

// ---- filling ------------------------------------------------------------------------------------

// A picture of weighted colours, halved again and again.
struct Level {
  int width = 0;
  int height = 0;
  std::vector<std::array<float, 5>> cells{};

  const std::array<float, 5>& at(int x, int y) const {
    return cells[to_size(std::clamp(y, 0, height - 1)) * to_size(width) +
                 to_size(std::clamp(x, 0, width - 1))];
  }
};

Level halved(const Level& fine) {
  Level half{(fine.width + 1) / 2, (fine.height + 1) / 2, {}};
  half.cells.resize(to_size(half.width) * to_size(half.height));
  tbb::parallel_for(0, half.height, [&](int y) {
    for (int x = 0; x < half.width; ++x) {
      auto& cell = half.cells[to_size(y) * to_size(half.width) + to_size(x)];
      for (std::size_t c = 0; c < 5; ++c) {
        cell[c] = 0.25F * (fine.at(2 * x, 2 * y)[c] + fine.at(2 * x + 1, 2 * y)[c] +
                           fine.at(2 * x, 2 * y + 1)[c] + fine.at(2 * x + 1, 2 * y + 1)[c]);
      }
    }
  });
  return half;
}

// Between the four cells around a place of the finest level, `scale` finest pixels to a cell.
std::array<float, 5> between(const Level& level, int x, int y, int scale) {
  const double u = (x + 0.5) / scale - 0.5;
  const double v = (y + 0.5) / scale - 0.5;
  const int x0 = static_cast<int>(std::floor(u));
  const int y0 = static_cast<int>(std::floor(v));
  const auto fx = static_cast<float>(u - x0);
  const auto fy = static_cast<float>(v - y0);
  std::array<float, 5> out{};
  for (std::size_t c = 0; c < 5; ++c) {
    out[c] = (1 - fy) * ((1 - fx) * level.at(x0, y0)[c] + fx * level.at(x0 + 1, y0)[c]) +
             fy * ((1 - fx) * level.at(x0, y0 + 1)[c] + fx * level.at(x0 + 1, y0 + 1)[c]);
  }
  return out;
}

}  // namespace

int layer_of(double coc_px) {
  const double octaves = std::log2(1.0 + std::abs(coc_px));
  return static_cast<int>(std::lround(std::copysign(octaves * layers_an_octave, coc_px)));
}

Joined spread_and_join(const Spread& spread, const std::function<void(double)>& progress) {
  const PixelSize size = spread.colour.size();
  Joined out(size);
  const int strips = (size.height + strip_rows - 1) / strip_rows;
  std::atomic<int> done{0};
  tbb::parallel_for(0, strips, [&](int i) {
    const int top = i * strip_rows;
    Strip strip(spread, top, std::min(size.height, top + strip_rows));
    strip.gather();
    strip.join(out);
    const int ready = done.fetch_add(1) + 1;
    if (progress) progress(static_cast<double>(ready) / strips);
  });
  return out;
}

namespace {

std::vector<Level> pyramid(const Weighted& from, int reach) {
  const int w = from.colour.width();
  const int h = from.colour.height();
  std::vector<Level> levels(1);
  levels[0] = {w, h, std::vector<std::array<float, 5>>(from.weight.size())};
  for (std::size_t i = 0; i < from.weight.size(); ++i) {
    const Rgba& c = from.colour.pixels()[i];
    levels[0].cells[i] = {c[0], c[1], c[2], c[3], from.weight[i]};
  }
  for (int size = 1; size < reach && levels.size() < 12; size *= 2) {
    levels.push_back(halved(levels.back()));
  }
  return levels;
}

// Colour and weight around a pixel; the farther around, the less it says about here.
std::array<float, 5> around(const std::vector<Level>& levels, int x, int y) {
  std::array<float, 5> sum{};
  float trust = 1.0F;
  for (std::size_t k = 0; k < levels.size(); ++k, trust *= 0.25F) {
    const auto cell = between(levels[k], x, y, 1 << k);
    for (std::size_t c = 0; c < 5; ++c) sum[c] += trust * cell[c];
  }
  return sum;
}

}  // namespace

Picture fill_open(const Joined& joined, int reach) {
  const std::vector<Level> from_focus = pyramid(joined.from_focus, reach);
  const std::vector<Level> from_behind = pyramid(joined.from_behind, reach);
  Picture out = joined.covered;
  tbb::parallel_for(0, out.height(), [&](int y) {
    for (int x = 0; x < out.width(); ++x) {
      const std::size_t i = to_size(y) * to_size(out.width()) + to_size(x);
      if (joined.open[i] <= 1e-6F) continue;
      const auto sum = around(joined.beside_front[i] ? from_focus : from_behind, x, y);
      if (!(sum[4] > 0.0F)) continue;
      for (std::size_t c = 0; c < 4; ++c) {
        out.pixels()[i][c] += joined.open[i] * sum[c] / sum[4];
      }
    }
  });
  return out;
}

}  // namespace jolly_iris::blur
