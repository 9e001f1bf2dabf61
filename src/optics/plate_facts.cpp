#include "jolly_iris/optics/plate_facts.hpp"

#include <cmath>

namespace jolly_iris {

bool says_camera(const PlateFacts& facts) {
  return facts.camera || facts.lens || facts.focal || facts.equivalent_mm || facts.gate ||
         facts.f_number || facts.iso || facts.exposure_time || facts.distance;
}

std::optional<Extent> gate_from_equivalent(const PlateFacts& facts) {
  const bool known = facts.focal && facts.equivalent_mm && *facts.equivalent_mm > 0.0 &&
                     facts.pixels.width > 0 && facts.pixels.height > 0;
  if (!known) return std::nullopt;
  const double diagonal = std::hypot(36.0, 24.0) * facts.focal->mm() / *facts.equivalent_mm;
  const double w = facts.pixels.width;
  const double h = facts.pixels.height;
  const double scale = diagonal / std::hypot(w, h);
  return Extent{Length::from_mm(w * scale), Length::from_mm(h * scale)};
}

}  // namespace jolly_iris
