#include "compositor.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "spread_kernel.hpp"

namespace jolly_iris::blur {

namespace {

using PixelVector = float __attribute__((vector_size(16), aligned(4), may_alias));

// Blur of up to about a pixel and a half (four layers) counts as in focus when holes are filled.
constexpr int focus_depth = 4;
// Less coverage is a rounding of sums.
constexpr float min_coverage = 1e-5F;
// Openings are closed with their surroundings below the first, wholly left to filling from the
// second on.
constexpr float closed_below = 0.005F;
constexpr float left_from = 0.02F;
constexpr std::size_t kept_floats = 8;  // RGBA, weight, unused

PixelVector& vector_at(float* at) { return *reinterpret_cast<PixelVector*>(at); }
const PixelVector& vector_at(const float* at) { return *reinterpret_cast<const PixelVector*>(at); }

}  // namespace

Compositor::Compositor(const Spread& in, StripLayers& layers, Composite& out)
    : in_(in),
      layers_(layers),
      out_(out),
      width_(static_cast<std::size_t>(in.size.width)),
      sum_(4 * width_),
      lamps_(4 * width_),
      open_(width_),
      before_(width_) {
  for (auto& k : kept_) k.resize(kept_floats * width_);
}

void Compositor::row(int y, int row) {
  std::fill(sum_.begin(), sum_.end(), 0.0F);
  std::fill(lamps_.begin(), lamps_.end(), 0.0F);
  std::fill(open_.begin(), open_.end(), 1.0F);
  for (std::size_t k = 0; k < kept_.size(); ++k) {
    if (keeps_[k]) std::fill(kept_[k].begin(), kept_[k].end(), 0.0F);
    keeps_[k] = false;
  }
  std::fill_n(out_.beside_front.get() + static_cast<std::size_t>(y) * width_, width_, char{0});
  before_layer_ = -2;
  for (int k = 0; k < in_.layers; ++k) {
    const StripLayer* layer = layers_.find(k);
    if (layer == nullptr) continue;
    if (!layer->lamps.empty()) {
      // The layer right in front moves with a lamp and does not hide it.
      const float* lamps = layer->lamps.data() + static_cast<std::size_t>(row) * 4 * width_;
      add_lamps(lamps, before_layer_ == k - 1 ? before_ : open_);
    }
    if (layer->changes.empty() && layer->direct.empty()) continue;
    before_ = open_;
    before_layer_ = k;
    if (in_.with_alpha) {
      join_layer<alpha_channels>(k, row, y);
    } else {
      join_layer<plain_channels>(k, row, y);
    }
  }
  const std::size_t first = static_cast<std::size_t>(y) * width_;
  float max = 0.0F;
  float* left_open = out_.open.get() + first;
  float* times = before_.data();  // of the sums; no layer comes after
  for (std::size_t x = 0; x < width_; ++x) {
    const float open = std::max(0.0F, open_[x]);
    const float t = std::clamp((open - closed_below) / (left_from - closed_below), 0.0F, 1.0F);
    const float left = open * t * t * (3.0F - 2.0F * t);
    times[x] = (1.0F - left) / std::max(1.0F - open, 1e-3F);
    left_open[x] = left;
    max = std::max(max, left);
  }
  for (std::size_t x = 0; x < width_; ++x) {
    vector_at(out_.covered.pixels()[first + x].data()) =
        times[x] * vector_at(&sum_[4 * x]) + vector_at(&lamps_[4 * x]);
  }
  if (max > 0.0F) out_.holes = true;
  keep_for_filling(y);
}

void Compositor::add_lamps(const float* lamps, const std::vector<float>& open) {
  for (std::size_t x = 0; x < width_; ++x) {
    vector_at(&lamps_[4 * x]) += open[x] * vector_at(lamps + 4 * x);
  }
}

// Sums of `sum_` hold red, green, blue and alpha; a layer's pixel holds coverage in alpha's place.
template <int channels>
void Compositor::join_layer(int layer, int row, int y) {
  StripLayer& l = layers_.at(layer);
  const auto margin = static_cast<std::size_t>(layers_.margin());
  const float* changes = l.changes.empty() ? nullptr : layers_.changes(l, row);
  const float* direct = l.direct.empty() ? nullptr : layers_.direct(l, row);
  const int behind = layer - in_.focus_layer;
  const std::size_t kind = behind < -focus_depth ? 0U : behind > focus_depth ? 2U : 1U;
  std::vector<float>& kept = kept_[kind];
  keeps_[kind] = true;
  const auto likely = static_cast<float>(std::exp2(behind / layers_an_octave));
  char* front = behind < -focus_depth
                    ? out_.beside_front.get() + static_cast<std::size_t>(y) * width_
                    : nullptr;
  PixelVector colour{};
  PixelVector alpha{};
  if (changes != nullptr) {
    for (std::size_t x = 0; x < margin; ++x) {
      colour += vector_at(changes + channels * x);
      if constexpr (channels == alpha_channels) alpha += vector_at(changes + channels * x + 4);
    }
    changes += channels * margin;
  }
  if (direct != nullptr) direct += channels * margin;
  for (std::size_t x = 0; x < width_; ++x) {
    PixelVector v{};
    PixelVector a{};
    if (changes != nullptr) {
      colour += vector_at(changes + channels * x);
      v = colour;
      if constexpr (channels == alpha_channels) {
        alpha += vector_at(changes + channels * x + 4);
        a = alpha;
      }
    }
    if (direct != nullptr) {
      v += vector_at(direct + channels * x);
      if constexpr (channels == alpha_channels) a += vector_at(direct + channels * x + 4);
    }
    const float coverage = v[3];
    if (coverage <= min_coverage) continue;
    v[3] = channels == alpha_channels ? a[0] : coverage;
    const float taken = std::min(coverage, open_[x]);
    vector_at(&sum_[4 * x]) += taken / coverage * v;
    open_[x] -= taken;
    float* keep = &kept[kept_floats * x];
    vector_at(keep) += likely * v;
    keep[4] += likely * coverage;
    if (front != nullptr && coverage > 1e-3F) front[x] = 1;
  }
}

void Compositor::keep_for_filling(int y) {
  std::array<FillSums*, 3> to{&out_.front, &out_.focus, &out_.behind};
  for (std::size_t k = 0; k < to.size(); ++k) {
    auto* cells = to[k]->cells.get() +
                  static_cast<std::size_t>(y / 2) * static_cast<std::size_t>(to[k]->width);
    if (y % 2 == 0) std::fill_n(cells, to[k]->width, std::array<float, 5>{});
    if (!keeps_[k]) continue;
    for (std::size_t x = 0; x < width_; ++x) {
      const float* keep = &kept_[k][kept_floats * x];
      auto& cell = cells[x / 2];
      for (std::size_t c = 0; c < 5; ++c) cell[c] += 0.25F * keep[c];
    }
  }
}

}  // namespace jolly_iris::blur
