#include "jolly_iris/optics/aberrations.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/primaries.hpp"

namespace jolly_iris {

std::array<double, 3> disc_colour(const std::vector<ColourPlace>& places, Length right, Length up) {
  if (places.empty()) return {1.0, 1.0, 1.0};
  // Shepard's weights; white has a say of its own everywhere, so that colours fade out.
  const Rgb luminance = luminance_weights(Primaries::rec709);
  double all = 1.0;
  Rgb sum{1.0, 1.0, 1.0};
  for (const ColourPlace& p : places) {
    const double far = std::hypot((right - p.right) / p.reach, (up - p.up) / p.reach);
    const double say = 1.0 / std::max(far * far, 1e-6);  // as much as white's at its reach
    double light = 0.0;
    for (std::size_t c = 0; c < 3; ++c) light += luminance[c] * p.colour[c];
    for (std::size_t c = 0; c < 3; ++c) sum[c] += say * p.colour[c] / light;
    all += say;
  }
  for (double& v : sum) v /= all;
  return sum;
}

double colour_fraction(double coc_px) {
  const double t = std::clamp((std::abs(coc_px) - 2.0) / 6.0, 0.0, 1.0);
  return t * t * (3.0 - 2.0 * t);
}

}  // namespace jolly_iris
