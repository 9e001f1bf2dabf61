#include "shown.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/transfer.hpp"
#include "palette.hpp"

namespace jolly_iris::drawing {

namespace {

// Linear light as a viewer shows it; over the night it adds.
std::uint32_t shown(const Rgba& p) {
  std::uint32_t out = 0;
  constexpr std::array<float, 3> under{static_cast<float>(night.r), static_cast<float>(night.g),
                                       static_cast<float>(night.b)};
  for (std::size_t c = 0; c < 3; ++c) {
    const float light = decode(under[c], Transfer::srgb) + p[c];
    const float v = encode(std::clamp(light, 0.0F, 1.0F), Transfer::srgb);
    out = out << 8U | static_cast<std::uint32_t>(std::lround(255.0F * v));
  }
  return out;
}

}  // namespace

Raster raster_of(const Picture& picture) {
  Raster r{picture.width(), picture.height(), {}};
  r.pixels.reserve(picture.pixels().size());
  for (const Rgba& v : picture.pixels()) r.pixels.push_back(shown(v));
  return r;
}

}  // namespace jolly_iris::drawing
