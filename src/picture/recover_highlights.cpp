#include "jolly_iris/picture/recover_highlights.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <vector>

#include "jolly_iris/optics/errors.hpp"
#include "luminance.hpp"

namespace jolly_iris {

namespace {

constexpr float tells_hue = 0.1F;  // of the clip: darker surroundings are not the lamp's light
constexpr int around = 2;          // px around a spot that are looked at

// Spots of pixels that touch, each with its pixels.
class Spots {
 public:
  Spots(const Picture& picture, float from)
      : picture_(picture), spot_(picture.pixels().size(), -1) {
    for (std::size_t i = 0; i < spot_.size(); ++i) {
      if (spot_[i] < 0 && brightest(picture.pixels()[i]) >= from) grow(i, from);
    }
  }
  const std::vector<std::vector<std::size_t>>& pixels() const { return pixels_; }
  bool any(std::size_t i) const { return spot_[i] >= 0; }

 private:
  void grow(std::size_t first, float from) {
    const auto width = static_cast<std::size_t>(picture_.width());
    const auto id = static_cast<int>(pixels_.size());
    pixels_.push_back({first});
    spot_[first] = id;
    for (std::size_t k = 0; k < pixels_[static_cast<std::size_t>(id)].size(); ++k) {
      const std::size_t at = pixels_[static_cast<std::size_t>(id)][k];
      const auto x = static_cast<int>(at % width);
      const auto y = static_cast<int>(at / width);
      for (int v = std::max(0, y - 1); v <= std::min(picture_.height() - 1, y + 1); ++v) {
        for (int u = std::max(0, x - 1); u <= std::min(picture_.width() - 1, x + 1); ++u) {
          const std::size_t i = static_cast<std::size_t>(v) * width + static_cast<std::size_t>(u);
          if (spot_[i] >= 0 || brightest(picture_.pixels()[i]) < from) continue;
          spot_[i] = id;
          pixels_[static_cast<std::size_t>(id)].push_back(i);
        }
      }
    }
  }

  const Picture& picture_;
  std::vector<int> spot_;
  std::vector<std::vector<std::size_t>> pixels_;
};

// The colour around a spot, its brightest channel 1; white where it cannot be told.
std::array<float, 3> hue_around(const Picture& picture, const Spots& spots,
                                const std::vector<std::size_t>& spot, float clipped_at) {
  const auto width = static_cast<std::size_t>(picture.width());
  std::array<float, 3> sum{};
  for (const std::size_t at : spot) {
    const auto x = static_cast<int>(at % width);
    const auto y = static_cast<int>(at / width);
    for (int v = std::max(0, y - around); v <= std::min(picture.height() - 1, y + around); ++v) {
      for (int u = std::max(0, x - around); u <= std::min(picture.width() - 1, x + around); ++u) {
        const std::size_t i = static_cast<std::size_t>(v) * width + static_cast<std::size_t>(u);
        const Rgba& p = picture.pixels()[i];
        if (spots.any(i) || brightest(p) < tells_hue * clipped_at) continue;
        for (std::size_t c = 0; c < 3; ++c) sum[c] += std::max(0.0F, p[c]);
      }
    }
  }
  const float max = std::max({sum[0], sum[1], sum[2]});
  if (!(max > 0.0F)) return {1.0F, 1.0F, 1.0F};
  return {sum[0] / max, sum[1] / max, sum[2] / max};
}

}  // namespace

double peak_of_disc(double value, double diameter_px) {
  if (!(value > 0.0) || !(diameter_px > 0.0) || !std::isfinite(value * diameter_px)) {
    throw UsageError(
        fmt::format("a disc of value {:g} and {:g} px tells no peak; both are above "
                    "zero",
                    value, diameter_px));
  }
  return value * std::numbers::pi / 4.0 * diameter_px * diameter_px;
}

RecoveredHighlights recover_highlights(const Picture& picture, double clipped_at,
                                       double true_peak) {
  if (!(clipped_at > 0.0) || !(true_peak >= clipped_at) || !std::isfinite(true_peak)) {
    throw UsageError(
        fmt::format("clipped at {:g} with a true peak of {:g}: the peak is at least as "
                    "bright, and both are above zero",
                    clipped_at, true_peak));
  }
  const auto clip = static_cast<float>(clipped_at);
  const auto peak = static_cast<float>(true_peak);
  // Files round: what is within a thousandth of the clip is clipped.
  const Spots spots(picture, 0.999F * clip);
  RecoveredHighlights out{picture, static_cast<int>(spots.pixels().size()), 0};
  for (const auto& spot : spots.pixels()) {
    const auto hue = hue_around(picture, spots, spot, clip);
    for (const std::size_t i : spot) {
      Rgba& p = out.picture.pixels()[i];
      for (std::size_t c = 0; c < 3; ++c) p[c] = std::max(p[c], peak * hue[c]);
      ++out.pixels;
    }
  }
  return out;
}

}  // namespace jolly_iris
