// A small generator of its own, so that the demo is the same with every standard library.
#pragma once

#include <cstdint>

/// A linear congruential generator with the constants of Press et al., Numerical Recipes, 7.1; of
/// its state the upper 24 bits, which fit a float exactly.
template <class T>
class Dice {
 public:
  explicit Dice(std::uint32_t seed) : state_(seed) {}
  T roll(T low, T high) {
    state_ = state_ * 1664525U + 1013904223U;
    return low + (high - low) * static_cast<T>(state_ >> 8U) * static_cast<T>(0x1p-24);
  }

 private:
  std::uint32_t state_;
};
