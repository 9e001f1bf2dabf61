#include "jolly_iris/optics/picture_size.hpp"

#include <algorithm>
#include <cmath>

namespace jolly_iris {

namespace {

int rounded(double pixels) { return std::max(1, static_cast<int>(std::lround(pixels))); }

}  // namespace

PixelSize desqueezed_size(PixelSize squeezed, double squeeze, KeptSide kept) {
  if (kept == KeptSide::width) return {squeezed.width, rounded(squeezed.height / squeeze)};
  return {rounded(squeezed.width * squeeze), squeezed.height};
}

PixelSize squeezed_size(PixelSize desqueezed, double squeeze, KeptSide kept) {
  if (kept == KeptSide::width) return {desqueezed.width, rounded(desqueezed.height * squeeze)};
  return {rounded(desqueezed.width / squeeze), desqueezed.height};
}

const std::vector<DeliverySize>& delivery_sizes() {
  static const std::vector<DeliverySize> sizes{{"cinema 4K, wide", {4096, 1716}},
                                               {"cinema 4K, flat", {3996, 2160}},
                                               {"cinema 2K, wide", {2048, 858}},
                                               {"cinema 2K, flat", {1998, 1080}},
                                               {"UHD, 2.39", {3840, 1606}},
                                               {"UHD, 2.00", {3840, 1920}},
                                               {"UHD", {3840, 2160}},
                                               {"HD, 2.39", {1920, 804}},
                                               {"HD, 2.00", {1920, 960}},
                                               {"HD", {1920, 1080}}};
  return sizes;
}

std::vector<ProposedSize> proposed_sizes(const Extent& gate, double squeeze,
                                         const std::optional<PixelSize>& photosites) {
  const double whole = squeeze * (gate.width / gate.height);
  std::vector<ProposedSize> out;
  for (const DeliverySize& delivery : delivery_sizes()) {
    ProposedSize p{delivery, static_cast<double>(delivery.pixels.width) / delivery.pixels.height};
    p.gate_width = std::min(1.0, p.shape / whole);
    p.gate_height = std::min(1.0, whole / p.shape);
    if (photosites) {
      p.photosites_across = photosites->width * p.gate_width / delivery.pixels.width;
      p.photosites_down = photosites->height * p.gate_height / delivery.pixels.height;
    }
    out.push_back(p);
  }
  return out;
}

}  // namespace jolly_iris
