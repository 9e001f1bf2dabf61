// The layers of one strip of rows, and how they are joined.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "spread.hpp"

namespace jolly_iris::blur {

/// Accumulators of one layer within a strip; each is made when it is first used.
struct StripLayer {
  LargeVector<float> changes{};  ///< differences along rows, with margins at both sides
  LargeVector<float> direct{};   ///< plain sums, with the same margins
  LargeVector<float> lamps{};    ///< red, green, blue, unused; no margins
};

/// Memory that one strip leaves to the next.
class GreyImagePool {
 public:
  LargeVector<float> take(std::size_t floats) {
    LargeVector<float> plane;
    if (!free_.empty()) {
      plane = std::move(free_.back());
      free_.pop_back();
    }
    plane.assign(floats, 0.0F);
    return plane;
  }
  void give_back(LargeVector<float> plane) {
    if (plane.capacity() > 0) free_.push_back(std::move(plane));
  }

 private:
  std::vector<LargeVector<float>> free_{};
};

class StripLayers {
 public:
  /// @param width of a row with margins; @param margin px to the left of the picture
  StripLayers(int layers, int channels, int width, int margin, int rows, GreyImagePool& pool)
      : channels_(channels),
        width_(width),
        margin_(margin),
        rows_(rows),
        pool_(pool),
        layers_(static_cast<std::size_t>(layers)) {}
  ~StripLayers() {
    for (auto& layer : layers_) {
      if (!layer) continue;
      pool_.give_back(std::move(layer->changes));
      pool_.give_back(std::move(layer->direct));
      pool_.give_back(std::move(layer->lamps));
    }
  }
  StripLayers(const StripLayers&) = delete;
  StripLayers& operator=(const StripLayers&) = delete;

  StripLayer& at(int layer) {
    auto& slot = layers_[static_cast<std::size_t>(layer)];
    if (!slot) slot = std::make_unique<StripLayer>();
    return *slot;
  }
  const StripLayer* find(int layer) const { return layers_[static_cast<std::size_t>(layer)].get(); }

  /// The left end of a row's margin.
  float* changes(StripLayer& layer, int row) const { return start(layer.changes, row); }
  float* direct(StripLayer& layer, int row) const { return start(layer.direct, row); }
  /// A row's first pixel.
  float* lamps(StripLayer& layer, int row) const {
    const auto picture = static_cast<std::size_t>(width_ - 2 * margin_) * 4;
    if (layer.lamps.empty()) layer.lamps = pool_.take(picture * static_cast<std::size_t>(rows_));
    return layer.lamps.data() + static_cast<std::size_t>(row) * picture;
  }
  std::ptrdiff_t stride() const { return std::ptrdiff_t{width_} * channels_; }
  int margin() const { return margin_; }
  int channels() const { return channels_; }

 private:
  float* start(LargeVector<float>& plane, int row) const {
    if (plane.empty()) {
      plane = pool_.take(static_cast<std::size_t>(stride()) * static_cast<std::size_t>(rows_));
    }
    return plane.data() + stride() * row;
  }

  int channels_;
  int width_;
  int margin_;
  int rows_;
  GreyImagePool& pool_;
  std::vector<std::unique_ptr<StripLayer>> layers_;
};

/// Joins the layers of a strip from front to back, row by row, into a picture:
///
///   - What a layer covers, nothing behind it can cover again.
///   - Lamps' light is added, behind what is clearly nearer.
///   - Slight openings between layers (below 1/50) are closed with what covers the rest.
///   - Every layer's surfaces are kept for filling, the farther ones weighing more: of two that
///   fit,
///     the farther one is likelier to be what was hidden.
class Compositor {
 public:
  Compositor(const Spread& in, StripLayers& layers, Composite& out);
  /// @param y of the picture, @param row of the strip
  void row(int y, int row);

 private:
  struct Pixel;
  template <int channels>
  void join_layer(int layer, int row, int y);
  void add_lamps(const float* lamps, const std::vector<float>& open);
  void keep_for_filling(int y);

  const Spread& in_;
  StripLayers& layers_;
  Composite& out_;
  std::size_t width_;
  std::vector<float> sum_;                  // surfaces, RGBA a pixel
  std::vector<float> lamps_;                // the light of lamps likewise
  std::vector<float> open_;                 // not covered yet
  std::vector<float> before_;               // the same before the layer in front of this one
  int before_layer_ = -2;                   // which layer `before_` is before
  std::array<std::vector<float>, 3> kept_;  // RGBA and weight a pixel: front, focus, behind
  std::array<bool, 3> keeps_{};             // whether this row has any of them
};

}  // namespace jolly_iris::blur
