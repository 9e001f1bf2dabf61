// What fits look at in a plate's pixels: one number of the three channels.
//
// Without a clip, the mean of the channels, as light. A plate that is clipped comes from a file of
// few bits: each channel is cut off by itself, noise and rounding are about even in the file's
// values rather than in light, and codecs keep colours coarser than luma. There, the luma of such
// values is looked at, Σ w · curve(min(light, clip)), with the curve of IEC 61966-2-1 and the
// weights that JPEG files have (ITU-R BT.601): it is sharp where the channels are not.
#pragma once

#include <array>
#include <optional>

#include "grey_image.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

/// Of red, green and blue in luma: ITU-R BT.601.
inline constexpr std::array<double, 3> luma_weights{0.299, 0.587, 0.114};

class LumaModel {
 public:
  LumaModel() = default;
  explicit LumaModel(std::optional<double> clip)
      : clip_(clip), fraction_(clip ? 1.0 / *clip : 1.0) {}

  const std::optional<double>& clip() const { return clip_; }

  /// The number, and how it changes with each channel's light. What is clipped changes nothing.
  struct CodedValue {
    double value = 0.0;
    std::array<double, 3> slope{};
  };
  CodedValue seen(const std::array<double, 3>& light) const;

  /// A channel's light as the file has it, 0 … 1 at the clip; of a plate that has one.
  double coded(double light) const;

  /// Whether so large a number says no more than "at least that".
  bool max(double value) const { return clip_ && value >= 0.995; }

  /// The number of every pixel.
  GreyImage of(const Picture& plate) const;

 private:
  std::optional<double> clip_{};
  double fraction_ = 1.0;  // of the clip, per light
};

}  // namespace jolly_iris::measuring
