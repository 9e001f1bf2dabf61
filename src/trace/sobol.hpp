// Four-dimensional Sobol points with hash-based Owen scrambling: stratified in every pair of
// dimensions, a different set for every seed.
#pragma once

#include <array>
#include <cstdint>

namespace jolly_iris::tracing {

/// A good mix of the bits of a number (finaliser of MurmurHash3, A. Appleby, public domain).
constexpr std::uint32_t mix(std::uint32_t x) {
  x ^= x >> 16;
  x *= 0x85ebca6bU;
  x ^= x >> 13;
  x *= 0xc2b2ae35U;
  return x ^ (x >> 16);
}

constexpr std::uint32_t mix(std::uint32_t a, std::uint32_t b) {
  return mix(a ^ mix(b + 0x9e3779b9U));
}

/// Points number `index` of the set `seed`; each coordinate in [0, 1).
/// Sources: S. Joe and F. Kuo, "Constructing Sobol sequences with better two-dimensional
/// projections" (2008) for the direction numbers; B. Burley, "Practical hash-based Owen
/// scrambling" (2020), with the permutation of S. Laine and T. Karras (2011).
std::array<double, 4> sobol4(std::uint32_t index, std::uint32_t seed);

/// Four numbers without any order among them.
std::array<double, 4> random4(std::uint32_t index, std::uint32_t seed);

}  // namespace jolly_iris::tracing
