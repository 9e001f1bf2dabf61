// Numbers that a seed gives, the same on every machine.
#pragma once

#include <cstdint>

namespace jolly_iris {

/// Source: Steele, Lea and Flood, "Fast splittable pseudorandom number generators" (2014).
class Seeded {
 public:
  explicit Seeded(std::uint64_t seed) : state_(seed) {}
  /// [0, 1)
  double next() {
    state_ += 0x9e3779b97f4a7c15ULL;
    std::uint64_t z = state_;
    z = (z ^ (z >> 30U)) * 0xbf58476d1ce4e5b9ULL;
    z = (z ^ (z >> 27U)) * 0x94d049bb133111ebULL;
    z ^= z >> 31U;
    return static_cast<double>(z >> 11U) * 0x1p-53;
  }

 private:
  std::uint64_t state_;
};

}  // namespace jolly_iris
