#include "jolly_iris/picture/highlight_lift.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "luminance.hpp"
#include "require_finite.hpp"

namespace jolly_iris {

namespace {

// Channels that differ by less are white to everybody, and by more they are not what clipping
// makes.
constexpr float white_within = 0.01F;

double stops_of(float light) {
  return light > 0.0F ? std::log2(static_cast<double>(light) / grey_value)
                      : -std::numeric_limits<double>::infinity();
}

bool white(const Rgba& p) {
  return std::min({p[0], p[1], p[2]}) >= (1.0F - white_within) * brightest(p);
}

}  // namespace

LiftedPicture lifted(const Picture& picture, const HighlightLift& lift) {
  require_finite(picture);
  if (!(lift.to_stops > lift.from_stops)) {
    throw OpticsError(fmt::format("finish.lift_to: {:g} stops are not above lift_from, {:g} stops",
                                  lift.to_stops, lift.from_stops),
                      "finish.lift_to");
  }
  float most = 0.0F;
  for (const Rgba& p : picture.pixels()) most = std::max(most, brightest(p));
  LiftedPicture out{picture, stops_of(most), 0};
  const double peak = lift.peak_stops.value_or(out.peak_stops);
  if (!(out.peak_stops > lift.from_stops) || !(peak > lift.from_stops)) return out;
  if (lift.to_stops < peak) {
    throw OpticsError(
        fmt::format(
            "finish.lift_to: the brightest is at {:+.2f} stops from mid-grey already, which "
            "is above {:g}; a lift brings no light down",
            peak, lift.to_stops),
        "finish.lift_to");
  }
  Rgb colour{1.0, 1.0, 1.0};
  if (lift.lamp_colour) {
    const Rgb& c = *lift.lamp_colour;
    const double largest = std::max({c[0], c[1], c[2]});
    for (std::size_t k = 0; k < 3; ++k) colour[k] = c[k] / largest;
  }
  for (Rgba& p : out.picture.pixels()) {
    const double e = stops_of(brightest(p));
    if (!(e > lift.from_stops)) continue;
    const double t = (e - lift.from_stops) / (peak - lift.from_stops);
    const double gain = std::exp2((lift.to_stops - peak) * t * t);
    const bool coloured = lift.lamp_colour && white(p);
    ++out.pixels;
    for (std::size_t c = 0; c < 3; ++c) {
      // White takes the lamp's colour as it becomes brighter.
      const double times = coloured ? 1.0 + std::min(1.0, t) * (colour[c] - 1.0) : 1.0;
      p[c] = static_cast<float>(static_cast<double>(p[c]) * gain * times);
    }
  }
  return out;
}

}  // namespace jolly_iris
