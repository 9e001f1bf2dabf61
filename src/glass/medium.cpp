#include "jolly_iris/glass/medium.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// The normal line of usual glasses.
constexpr double normal_partial = 0.6438;
constexpr double normal_slope = 0.001682;
constexpr double largest_index = 4.0;

double by_six(const std::array<double, 6>& k, double um) {
  const double w = um * um;
  double square = 1.0;
  for (std::size_t i = 0; i < 3; ++i) square += k[i] * w / (w - k[i + 3]);
  return std::sqrt(square);
}

double power_of(double um) { return std::pow(um, -3.5); }

}  // namespace

Medium medium_of(const std::array<double, 6>& six) {
  Medium out;
  out.n_d = by_six(six, line_d_um);
  const double spread = by_six(six, line_f_um) - by_six(six, line_c_um);
  out.v_d = (out.n_d - 1.0) / spread;
  out.partial = (by_six(six, line_g_um) - by_six(six, line_f_um)) / spread;
  out.six = six;
  return out;
}

double refractive_index(const Medium& medium, double um) {
  if (!(um >= shortest_um) || !(um <= longest_um)) {
    throw UsageError(
        fmt::format("{:g} um is no wavelength from {:g} to {:g} um", um, shortest_um, longest_um));
  }
  if (medium.six) return by_six(*medium.six, um);
  if (!(medium.v_d > 0.0)) return medium.n_d;
  const double spread = (medium.n_d - 1.0) / medium.v_d;  // n_F − n_C
  const double partial = medium.partial.value_or(normal_partial - normal_slope * medium.v_d);
  // n_F − n_C = B a + C b and n_g − n_F = B c + C d.
  const double a = 1.0 / line_f_um - 1.0 / line_c_um;
  const double b = power_of(line_f_um) - power_of(line_c_um);
  const double c = 1.0 / line_g_um - 1.0 / line_f_um;
  const double d = power_of(line_g_um) - power_of(line_f_um);
  const double det = a * d - b * c;
  const double first = (spread * d - partial * spread * b) / det;
  const double second = (a * partial * spread - c * spread) / det;
  return medium.n_d + first * (1.0 / um - 1.0 / line_d_um) +
         second * (power_of(um) - power_of(line_d_um));
}

std::string wrong_with(const Medium& medium) {
  if (medium.six) {
    for (const double um : {shortest_um, line_d_um, longest_um}) {
      const double n = by_six(*medium.six, um);
      if (std::isfinite(n) && n >= 1.0 && n <= largest_index) continue;
      return fmt::format(
          "makes no index from 1 to {:g} at {:g} um; write B1, B2, B3, C1, C2, C3 with C in square "
          "um",
          largest_index, um);
    }
    return {};
  }
  if (!(medium.n_d >= 1.0) || !(medium.n_d <= largest_index)) {
    return fmt::format("{:g} is no index from 1 to {:g}; write [n_d, V_d], e.g. [1.5168, 64.17]",
                       medium.n_d, largest_index);
  }
  // Below 10 blue and red would part by more than any glass; above 120 by less than fluorite.
  if (medium.v_d != 0.0 && (!(medium.v_d >= 10.0) || !(medium.v_d <= 120.0))) {
    return fmt::format(
        "{:g} is no Abbe number from 10 to 120; write [n_d, V_d], e.g. [1.5168, "
        "64.17]",
        medium.v_d);
  }
  if (medium.partial && !(*medium.partial > 0.3 && *medium.partial < 0.9)) {
    return fmt::format("{:g} is no partial dispersion P_gF from 0.3 to 0.9", *medium.partial);
  }
  return {};
}

}  // namespace jolly_iris
