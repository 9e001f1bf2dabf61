#include "sobol.hpp"

namespace jolly_iris::tracing {

namespace {

using Directions = std::array<std::uint32_t, 32>;

// Direction numbers of a primitive polynomial of this degree, inner coefficients `a`, starting
// values `m` (Joe & Kuo's notation).
constexpr Directions directions(int degree, std::uint32_t a, std::array<std::uint32_t, 3> m) {
  Directions v{};
  for (int i = 0; i < 32; ++i) {
    const auto k = static_cast<std::size_t>(i);
    if (i < degree) {
      v[k] = m[k] << (31 - i);
      continue;
    }
    const auto back = static_cast<std::size_t>(degree);
    v[k] = v[k - back] ^ (v[k - back] >> degree);
    for (int j = 1; j < degree; ++j) {
      if ((a >> (degree - 1 - j)) & 1U) v[k] ^= v[k - static_cast<std::size_t>(j)];
    }
  }
  return v;
}

constexpr Directions first_dimension() {
  Directions v{};
  for (std::size_t i = 0; i < 32; ++i) v[i] = 1U << (31 - i);
  return v;
}

constexpr std::array<Directions, 4> dimensions{first_dimension(), directions(1, 0, {1, 0, 0}),
                                               directions(2, 1, {1, 3, 0}),
                                               directions(3, 1, {1, 3, 1})};

// What each byte of an index contributes to each coordinate, so that a point is four look-ups a
// dimension instead of up to 32 steps.
using ByteTable = std::array<std::array<std::uint32_t, 256>, 4>;

constexpr ByteTable byte_table(const Directions& v) {
  ByteTable table{};
  for (std::size_t byte = 0; byte < 4; ++byte) {
    for (std::size_t value = 1; value < 256; ++value) {
      std::size_t low = 0;
      while (((value >> low) & 1U) == 0) ++low;
      table[byte][value] = table[byte][value & (value - 1)] ^ v[8 * byte + low];
    }
  }
  return table;
}

constexpr std::array<ByteTable, 4> tables{byte_table(dimensions[0]), byte_table(dimensions[1]),
                                          byte_table(dimensions[2]), byte_table(dimensions[3])};

std::uint32_t reverse(std::uint32_t x) {
  x = ((x >> 1) & 0x55555555U) | ((x & 0x55555555U) << 1);
  x = ((x >> 2) & 0x33333333U) | ((x & 0x33333333U) << 2);
  x = ((x >> 4) & 0x0f0f0f0fU) | ((x & 0x0f0f0f0fU) << 4);
  return __builtin_bswap32(x);
}

// A random tree of bit flips, each depending only on the bits above it.
std::uint32_t scramble(std::uint32_t x, std::uint32_t seed) {
  x = reverse(x);
  x ^= x * 0x3d20adeaU;
  x += seed;
  x *= (seed >> 16) | 1U;
  x ^= x * 0x05526c56U;
  x ^= x * 0x53a22864U;
  return reverse(x);
}

}  // namespace

std::array<double, 4> sobol4(std::uint32_t index, std::uint32_t seed) {
  const std::uint32_t shuffled = scramble(index, mix(seed, 0x51U));
  std::array<double, 4> point{};
  for (std::size_t d = 0; d < 4; ++d) {
    const ByteTable& t = tables[d];
    std::uint32_t x = t[0][shuffled & 255U] ^ t[1][(shuffled >> 8) & 255U] ^
                      t[2][(shuffled >> 16) & 255U] ^ t[3][shuffled >> 24];
    x = scramble(x, mix(seed, static_cast<std::uint32_t>(d) + 1U));
    point[d] = x * 0x1p-32;
  }
  return point;
}

std::array<double, 4> random4(std::uint32_t index, std::uint32_t seed) {
  std::array<double, 4> out{};
  std::uint32_t state = mix(seed, index);
  for (double& v : out) {
    state = mix(state, 0x9e3779b9U);
    v = state * 0x1p-32;
  }
  return out;
}

}  // namespace jolly_iris::tracing
