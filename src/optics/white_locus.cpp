#include "white_locus.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/colour_matching.hpp"

namespace jolly_iris {

namespace {

// Planck's law: spectral radiance ∝ λ⁻⁵ / (exp(c₂ / λT) − 1).
Chromaticity planck(double kelvin) {
  constexpr double c2 = 0.014388;
  Rgb sum{};
  for (double nm = shortest_seen_nm; nm <= longest_seen_nm; nm += observer_step_nm) {
    const double m = nm * 1e-9;
    const double light = std::pow(m * 1e7, -5.0) / std::expm1(c2 / (m * kelvin));
    const Rgb seen = colour_matching(nm);
    for (std::size_t c = 0; c < 3; ++c) sum[c] += light * seen[c];
  }
  const double all = sum[0] + sum[1] + sum[2];
  return {sum[0] / all, sum[1] / all};
}

// CIE 15:2004, eqs 3.3 and 3.4. Made for 4000 K upward; the blend asks from 3500 K on.
Chromaticity daylight(double kelvin) {
  const double k = 1000.0 / kelvin;
  const double x = kelvin <= 7000.0 ? 0.244063 + k * (0.09911 + k * (2.9678 - k * 4.6070))
                                    : 0.237040 + k * (0.24748 + k * (1.9018 - k * 2.0064));
  return {x, x * (2.870 - 3.000 * x) - 0.275};
}

}  // namespace

Uv uv_of(const Chromaticity& c) {
  const double below = -2.0 * c.x + 12.0 * c.y + 3.0;
  return {4.0 * c.x / below, 6.0 * c.y / below};
}

Chromaticity chromaticity_of_uv(const Uv& uv) {
  const double below = 2.0 * uv[0] - 8.0 * uv[1] + 4.0;
  return {3.0 * uv[0] / below, 2.0 * uv[1] / below};
}

Uv locus(double kelvin) {
  constexpr double from = 3500.0;
  constexpr double to = 4500.0;
  if (kelvin <= from) return uv_of(planck(kelvin));
  if (kelvin >= to) return uv_of(daylight(kelvin));
  // Even steps of mired, and the least bending that joins both ends without a kink: the locus then
  // curves with a radius of 0.029 in uv, and every tint within that belongs to one temperature.
  // (A blend that bends more has a radius below 0.02: two answers for one colour.)
  const double t = (1.0 / from - 1.0 / kelvin) / (1.0 / from - 1.0 / to);
  const double fraction = t < 0.5 ? 2.0 * t * t : 1.0 - 2.0 * (1.0 - t) * (1.0 - t);
  const Uv warm = uv_of(planck(kelvin));
  const Uv cool = uv_of(daylight(kelvin));
  return {warm[0] + fraction * (cool[0] - warm[0]), warm[1] + fraction * (cool[1] - warm[1])};
}

LocusFrame locus_frame(double mired) {
  // Wide enough to be smooth across the rounding of the daylight curve's two halves at 7000 K.
  constexpr double half = 0.25;
  const double low = std::max(40.0, mired - half);
  const double high = std::min(1000.0, mired + half);
  const Uv a = locus(1e6 / low);
  const Uv b = locus(1e6 / high);
  const double length = std::hypot(b[0] - a[0], b[1] - a[1]);
  const Uv along{(b[0] - a[0]) / length, (b[1] - a[1]) / length};
  // Warmer is to the right in uv, so green is to its left: upward.
  return {along, {-along[1], along[0]}};
}

}  // namespace jolly_iris
