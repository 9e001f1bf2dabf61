// What fits look at in a plate's pixels: one number of the three channels.
//
// Noise and rounding are about even in the values of a file rather than in light, what sharpens
// edges works on them, and codecs keep colours coarser than luma. So the luma of such values is
// looked at, Σ w · curve(light / white), with the curve of IEC 61966-2-1 and the weights that JPEG
// files have (ITU-R BT.601). Where the plate is clipped, white is where, and each channel is cut
// off there by itself; elsewhere the curve goes on beyond 1.
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
  /// @param clip where channels are cut off
  /// @param white what is 1 where nothing is, > 0
  explicit LumaModel(std::optional<double> clip, double white = 1.0)
      : clip_(clip), white_(clip.value_or(white)) {}

  const std::optional<double>& clip() const { return clip_; }
  double white() const { return white_; }

  /// The number, and how it changes with each channel's light. What is clipped changes nothing.
  struct CodedValue {
    double value = 0.0;
    std::array<double, 3> slope{};
  };
  CodedValue seen(const std::array<double, 3>& light) const;

  /// A channel's light as the file has it, 1 at white.
  double coded(double light) const;

  /// Whether so large a number says no more than "at least that".
  bool max(double value) const { return clip_ && value >= 0.995; }

  /// The number of every pixel.
  GreyImage of(const Picture& plate) const;

 private:
  std::optional<double> clip_{};
  double white_ = 1.0;
};

}  // namespace jolly_iris::measuring
