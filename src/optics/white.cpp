#include "jolly_iris/optics/white.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "jolly_iris/optics/errors.hpp"
#include "white_locus.hpp"

namespace jolly_iris {

namespace {

constexpr const char* white_key = "take.white";

double apart(const Uv& a, const Uv& b) { return std::hypot(a[0] - b[0], a[1] - b[1]); }

// How far along the locus, at this mired, a place lies: zero where it is straight across.
double ahead(const Uv& place, double m) {
  const Uv here = locus(1e6 / m);
  const Uv along = locus_frame(m).along;
  return (place[0] - here[0]) * along[0] + (place[1] - here[1]) * along[1];
}

void require_light(const Rgb& rgb, const char* what) {
  for (const double v : rgb) {
    if (std::isfinite(v) && v > 0.0) continue;
    throw OpticsError(fmt::format("{} {:.4g}, {:.4g}, {:.4g} has no colour of a light: all three "
                                  "channels are above zero and finite",
                                  what, rgb[0], rgb[1], rgb[2]),
                      white_key);
  }
}

ColourMatrix cone_matrix(Adaptation method) {
  if (method == Adaptation::bradford) {
    return {{{0.8951, 0.2664, -0.1614}, {-0.7502, 1.7135, 0.0367}, {0.0389, -0.0685, 1.0296}}};
  }
  return {{{0.401288, 0.650173, -0.051461},
           {-0.250268, 1.204414, 0.045854},
           {-0.002079, 0.048952, 0.953127}}};
}

}  // namespace

Chromaticity chromaticity_of(const White& white) {
  const double t = white.temperature.kelvin();
  if (!(t >= warmest_white_K && t <= coolest_white_K)) {
    throw OpticsError(fmt::format("a white of {:g} K is none: whites go from {:g} to {:g} K", t,
                                  warmest_white_K, coolest_white_K),
                      white_key);
  }
  if (!(std::abs(white.tint) <= max_tint)) {
    throw OpticsError(fmt::format("a tint of {:g} is beyond ±{:g}: that is a colour, not a white "
                                  "(a fluorescent tube has about 0.01)",
                                  white.tint, max_tint),
                      "take.tint");
  }
  const Uv base = locus(t);
  const Uv across = locus_frame(1e6 / t).across;
  return chromaticity_of_uv({base[0] + white.tint * across[0], base[1] + white.tint * across[1]});
}

White white_of(const Chromaticity& c) {
  const Uv place = uv_of(c);
  constexpr double first = 1e6 / coolest_white_K;
  constexpr double last = 1e6 / warmest_white_K;
  constexpr double step = 2.0;
  static const std::vector<Uv> places = [&] {
    std::vector<Uv> all;
    for (double m = first; m <= last; m += step) all.push_back(locus(1e6 / m));
    return all;
  }();
  const auto nearest =
      std::min_element(places.begin(), places.end(),
                       [&](const Uv& a, const Uv& b) { return apart(place, a) < apart(place, b); });
  const double best = first + step * static_cast<double>(nearest - places.begin());
  double low = std::max(first, best - 2.0 * step);
  double high = std::min(last, best + 2.0 * step);
  const double slack = 1e-6;  // the ends themselves are whites
  if (ahead(place, low) < -slack || ahead(place, high) > slack || !std::isfinite(place[0])) {
    throw OpticsError(
        fmt::format("the colour x {:.4f}, y {:.4f} is no white light: it is {} than any", c.x, c.y,
                    best < 100.0 ? "bluer" : "redder"),
        white_key);
  }
  for (int i = 0; i < 80; ++i) {
    const double middle = 0.5 * (low + high);
    (ahead(place, middle) > 0.0 ? low : high) = middle;
  }
  const double m = 0.5 * (low + high);
  const Uv base = locus(1e6 / m);
  const Uv across = locus_frame(m).across;
  const double tint = (place[0] - base[0]) * across[0] + (place[1] - base[1]) * across[1];
  if (std::abs(tint) > max_tint + slack) {
    throw OpticsError(
        fmt::format("the colour x {:.4f}, y {:.4f} is no white light: it is {:.3f} to the {} of "
                    "the whites, and {:g} is the most",
                    c.x, c.y, std::abs(tint), tint > 0.0 ? "green" : "pink", max_tint),
        white_key);
  }
  return {Temperature::from_kelvin(std::clamp(1e6 / m, warmest_white_K, coolest_white_K)),
          std::clamp(tint, -max_tint, max_tint)};
}

Rgb white_rgb(const White& white, Primaries primaries) {
  const Rgb rgb = product(rgb_from_xyz(primaries), xyz_of(chromaticity_of(white)));
  if (!(rgb[0] > 0.0 && rgb[1] > 0.0 && rgb[2] > 0.0)) {
    throw OpticsError(fmt::format("a white of {:.0f} K, tint {:+.3f} lies outside {}: one of its "
                                  "channels would be below zero; ACEScg holds more",
                                  white.temperature.kelvin(), white.tint, to_string(primaries)),
                      white_key);
  }
  return {rgb[0] / rgb[1], 1.0, rgb[2] / rgb[1]};
}

Rgb white_gains(const White& white, Primaries primaries) {
  const Rgb rgb = white_rgb(white, primaries);
  return {1.0 / rgb[0], 1.0, 1.0 / rgb[2]};
}

White white_of_patch(const Rgb& rgb, Primaries primaries) {
  require_light(rgb, "a patch of");
  const Rgb xyz = product(xyz_from_rgb(primaries), rgb);
  const double all = xyz[0] + xyz[1] + xyz[2];
  return white_of(Chromaticity{xyz[0] / all, xyz[1] / all});
}

White white_of_gains(const Rgb& gains, Primaries primaries) {
  require_light(gains, "the gains");
  return white_of_patch({1.0 / gains[0], 1.0 / gains[1], 1.0 / gains[2]}, primaries);
}

Rgb seen_white(const White& told, const White& light, Primaries primaries) {
  const Rgb gains = white_gains(told, primaries);
  const Rgb rgb = white_rgb(light, primaries);
  return {gains[0] * rgb[0], 1.0, gains[2] * rgb[2]};
}

double mired(Temperature t) { return 1e6 / t.kelvin(); }
Temperature from_mired(double mired) { return Temperature::from_kelvin(1e6 / mired); }

std::string cast_in_words(const Rgb& rgb) {
  const double r = std::log2(rgb[0] / rgb[1]);
  const double b = std::log2(rgb[2] / rgb[1]);
  if (std::abs(r) < 0.02 && std::abs(b) < 0.02) return "neutral";
  // Warm and cool are what R and B do against each other, green and pink what both do against G.
  const double warm = r - b;
  const double pink = r + b;
  const char* word = std::abs(warm) >= std::abs(pink) ? (warm > 0.0 ? "warmer" : "bluer")
                                                      : (pink > 0.0 ? "pinker" : "greener");
  return fmt::format("{} (R {:+.2f}, B {:+.2f} stops)", word, r, b);
}

ColourMatrix adaptation(const Chromaticity& from, const Chromaticity& to, Adaptation method) {
  const ColourMatrix cones = cone_matrix(method);
  const Rgb a = product(cones, xyz_of(from));
  const Rgb b = product(cones, xyz_of(to));
  const ColourMatrix scale{{{b[0] / a[0], 0, 0}, {0, b[1] / a[1], 0}, {0, 0, b[2] / a[2]}}};
  return product(inverse(cones), product(scale, cones));
}

ColourMatrix rgb_adaptation(const Chromaticity& from, const Chromaticity& to, Adaptation method,
                            Primaries primaries) {
  return product(rgb_from_xyz(primaries),
                 product(adaptation(from, to, method), xyz_from_rgb(primaries)));
}

}  // namespace jolly_iris
