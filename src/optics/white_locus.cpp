#include "white_locus.hpp"

#include <algorithm>
#include <cmath>

namespace jolly_iris {

namespace {

// The CIE 1931 standard observer, 380 … 780 nm every 5 nm (CIE 15:2004, table T.4).
constexpr double first_nm = 380.0;
constexpr double step_nm = 5.0;
constexpr std::array<std::array<double, 3>, 81> observer{{
    {0.0014, 0.0000, 0.0065}, {0.0022, 0.0001, 0.0105}, {0.0042, 0.0001, 0.0201},
    {0.0076, 0.0002, 0.0362}, {0.0143, 0.0004, 0.0679}, {0.0232, 0.0006, 0.1102},
    {0.0435, 0.0012, 0.2074}, {0.0776, 0.0022, 0.3713}, {0.1344, 0.0040, 0.6456},
    {0.2148, 0.0073, 1.0391}, {0.2839, 0.0116, 1.3856}, {0.3285, 0.0168, 1.6230},
    {0.3483, 0.0230, 1.7471}, {0.3481, 0.0298, 1.7826}, {0.3362, 0.0380, 1.7721},
    {0.3187, 0.0480, 1.7441}, {0.2908, 0.0600, 1.6692}, {0.2511, 0.0739, 1.5281},
    {0.1954, 0.0910, 1.2876}, {0.1421, 0.1126, 1.0419}, {0.0956, 0.1390, 0.8130},
    {0.0580, 0.1693, 0.6162}, {0.0320, 0.2080, 0.4652}, {0.0147, 0.2586, 0.3533},
    {0.0049, 0.3230, 0.2720}, {0.0024, 0.4073, 0.2123}, {0.0093, 0.5030, 0.1582},
    {0.0291, 0.6082, 0.1117}, {0.0633, 0.7100, 0.0782}, {0.1096, 0.7932, 0.0573},
    {0.1655, 0.8620, 0.0422}, {0.2257, 0.9149, 0.0298}, {0.2904, 0.9540, 0.0203},
    {0.3597, 0.9803, 0.0134}, {0.4334, 0.9950, 0.0087}, {0.5121, 1.0000, 0.0057},
    {0.5945, 0.9950, 0.0039}, {0.6784, 0.9786, 0.0027}, {0.7621, 0.9520, 0.0021},
    {0.8425, 0.9154, 0.0018}, {0.9163, 0.8700, 0.0017}, {0.9786, 0.8163, 0.0014},
    {1.0263, 0.7570, 0.0011}, {1.0567, 0.6949, 0.0010}, {1.0622, 0.6310, 0.0008},
    {1.0456, 0.5668, 0.0006}, {1.0026, 0.5030, 0.0003}, {0.9384, 0.4412, 0.0002},
    {0.8544, 0.3810, 0.0002}, {0.7514, 0.3210, 0.0001}, {0.6424, 0.2650, 0.0000},
    {0.5419, 0.2170, 0.0000}, {0.4479, 0.1750, 0.0000}, {0.3608, 0.1382, 0.0000},
    {0.2835, 0.1070, 0.0000}, {0.2187, 0.0816, 0.0000}, {0.1649, 0.0610, 0.0000},
    {0.1212, 0.0446, 0.0000}, {0.0874, 0.0320, 0.0000}, {0.0636, 0.0232, 0.0000},
    {0.0468, 0.0170, 0.0000}, {0.0329, 0.0119, 0.0000}, {0.0227, 0.0082, 0.0000},
    {0.0158, 0.0057, 0.0000}, {0.0114, 0.0041, 0.0000}, {0.0081, 0.0029, 0.0000},
    {0.0058, 0.0021, 0.0000}, {0.0041, 0.0015, 0.0000}, {0.0029, 0.0010, 0.0000},
    {0.0020, 0.0007, 0.0000}, {0.0014, 0.0005, 0.0000}, {0.0010, 0.0004, 0.0000},
    {0.0007, 0.0002, 0.0000}, {0.0005, 0.0002, 0.0000}, {0.0003, 0.0001, 0.0000},
    {0.0002, 0.0001, 0.0000}, {0.0002, 0.0001, 0.0000}, {0.0001, 0.0000, 0.0000},
    {0.0001, 0.0000, 0.0000}, {0.0001, 0.0000, 0.0000}, {0.0000, 0.0000, 0.0000},
}};

// Planck's law: spectral radiance ∝ λ⁻⁵ / (exp(c₂ / λT) − 1).
Chromaticity planck(double kelvin) {
  constexpr double c2 = 0.014388;
  Rgb sum{};
  for (std::size_t i = 0; i < observer.size(); ++i) {
    const double m = (first_nm + step_nm * static_cast<double>(i)) * 1e-9;
    const double light = std::pow(m * 1e7, -5.0) / std::expm1(c2 / (m * kelvin));
    for (std::size_t c = 0; c < 3; ++c) sum[c] += light * observer[i][c];
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
