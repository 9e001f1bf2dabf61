// The innermost loop of defocus: one run of pixels that share a disc, added to the rows under it.
// Compiled for the plain processor and for AVX2; which one runs is decided when it starts.
#pragma once

#include <cstddef>

#include "disc.hpp"

namespace jolly_iris::blur {

/// Numbers a pixel has: red, green, blue, coverage; with alpha eight (alpha, and three unused, so
/// that they fill vectors).
constexpr int plain_channels = 4;
constexpr int alpha_channels = 8;

struct RunJob {
  const Disc* disc = nullptr;
  int first_row = 0;              ///< of the disc's rows
  int last_row = 0;               ///< behind the last one
  const float* source = nullptr;  ///< the run's pixels
  std::size_t floats = 0;         ///< pixels × channels
  float* to = nullptr;        ///< accumulators of disc row `first_row`, at the run's first pixel
  std::ptrdiff_t stride = 0;  ///< floats from row to row
};

/// to[tap.x …] += tap.step × source, for every tap of the rows. Where taps have tints, channels
/// 0 … 2 of every `channels` are times the tint.
void add_run(const RunJob& job, int channels);

/// For comparisons: run what every processor has, even if this one has more.
void use_plain_kernel(bool plain);

}  // namespace jolly_iris::blur
