#include "jolly_iris/optics/sample_count.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

void check(const NoiseQuestion& q) {
  const auto require = [](bool good, const char* what, double value, const char* wanted) {
    if (!good) throw OpticsError(fmt::format("{} of {:g}; it is {}", what, value, wanted));
  };
  require(std::isfinite(q.coc_px), "a disc", q.coc_px, "a number of px");
  require(q.highlight_px > 0.0 && std::isfinite(q.highlight_px), "a highlight", q.highlight_px,
          "above 0 px");
  require(q.contrast > 1.0 && std::isfinite(q.contrast), "a contrast", q.contrast, "above 1");
  require(q.noise > 0.0 && q.noise < 10.0, "a wanted noise", q.noise, "above 0, e.g. 0.05");
}

}  // namespace

double hit_fraction(const NoiseQuestion& q) {
  check(q);
  // Sharp or hardly blurred, it covers what it covers.
  const double disc = std::max(std::abs(q.coc_px), q.highlight_px);
  return q.highlight_px * q.highlight_px / (disc * disc);
}

double noise_of(const NoiseQuestion& q, double rays) {
  const double p = hit_fraction(q);
  const double more = q.contrast - 1.0;
  return more * std::sqrt(p * (1.0 - p) / rays) / (1.0 + p * more);
}

long samples_needed(const NoiseQuestion& q) {
  const double once = noise_of(q, 1.0) / q.noise;
  const double rays = std::max(1.0, once * once);
  if (rays > 1073741824.0) {
    throw OpticsError(fmt::format(
        "a noise of {:g} would take {:.3g} rays a pixel; ask for more noise", q.noise, rays));
  }
  return static_cast<long>(std::bit_ceil(static_cast<std::uint64_t>(std::ceil(rays))));
}

}  // namespace jolly_iris
