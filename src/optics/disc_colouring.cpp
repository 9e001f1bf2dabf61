#include "jolly_iris/optics/disc_colouring.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/primaries.hpp"

namespace jolly_iris {

namespace {

// Of a luminance of 1.
Rgb balanced(const Rgb& colour) {
  const Rgb luminance = luminance_weights(Primaries::rec709);
  double light = 0.0;
  for (std::size_t c = 0; c < 3; ++c) light += luminance[c] * colour[c];
  Rgb out = colour;
  for (double& v : out) v /= light;
  return out;
}

Rgb of_places(const std::vector<ColourPlace>& places, Length right, Length up) {
  if (places.empty()) return {1.0, 1.0, 1.0};
  // Shepard's weights; white has a say of its own everywhere, so that colours fade out.
  double all = 1.0;
  Rgb sum{1.0, 1.0, 1.0};
  for (const ColourPlace& p : places) {
    const double far = std::hypot((right - p.right) / p.reach, (up - p.up) / p.reach);
    const double say = 1.0 / std::max(far * far, 1e-6);  // as much as white's at its reach
    const Rgb own = balanced(p.colour);
    for (std::size_t c = 0; c < 3; ++c) sum[c] += say * own[c];
    all += say;
  }
  for (double& v : sum) v /= all;
  return sum;
}

}  // namespace

double tint_fraction(const DiscTint& tint, Length right, Length up) {
  double way = std::hypot(right / tint.reach, up / tint.reach);
  if (tint.towards) {
    const double along = right / tint.reach * std::cos(tint.towards->radians()) +
                         up / tint.reach * std::sin(tint.towards->radians());
    way = 0.5 + 0.5 * along;
  }
  return tint.least + (tint.most - tint.least) * std::pow(std::clamp(way, 0.0, 1.0), tint.power);
}

std::array<double, 3> disc_colour(const DiscColouring& colouring, Length right, Length up) {
  const Rgb places = of_places(colouring.places, right, up);
  if (!colouring.tint) return places;
  const double fraction = tint_fraction(*colouring.tint, right, up);
  const Rgb tint = balanced(colouring.tint->colour);
  Rgb both{};
  for (std::size_t c = 0; c < 3; ++c) both[c] = places[c] * (1.0 + fraction * (tint[c] - 1.0));
  return balanced(both);
}

double colour_fraction(double coc_px) {
  const double t = std::clamp((std::abs(coc_px) - 2.0) / 6.0, 0.0, 1.0);
  return t * t * (3.0 - 2.0 * t);
}

}  // namespace jolly_iris
