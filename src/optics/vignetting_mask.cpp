#include "jolly_iris/optics/vignetting_mask.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/pupil.hpp"

namespace jolly_iris {

namespace {

struct Corner {
  double right;
  double up;
};

// Tangents of the picture's corner that lies farthest from the axis.
Corner far_corner(const VirtualCamera& c) {
  const double right =
      (0.5 * c.picture.width + (c.shift_right.mm() < 0 ? -1.0 : 1.0) * c.shift_right).mm();
  const double up = (0.5 * c.picture.height + (c.shift_up.mm() < 0 ? -1.0 : 1.0) * c.shift_up).mm();
  return {right / c.focal.mm(), up / c.focal.mm()};
}

double open_with(const VirtualCamera& camera, const std::vector<VignettingRim>& vignetting,
                 const Corner& corner) {
  VirtualCamera with = camera;
  with.vignetting = vignetting;
  return Pupil(with).open({corner.right, corner.up, 0.0});
}

}  // namespace

VignettingMask vignetting_mask(const VirtualCamera& camera) {
  const Corner corner = far_corner(camera);
  const VignettingRim* front = nullptr;
  double min = 2.0;
  std::vector<VignettingRim> rear;
  for (const VignettingRim& rim : camera.vignetting) {
    if (rim.ahead.mm() <= 0.0) {
      rear.push_back(rim);
      continue;
    }
    const double open = open_with(camera, {rim}, corner);
    if (open >= min) continue;
    min = open;
    front = &rim;
  }
  if (front == nullptr) {
    throw OpticsError(
        "the lens has no rim in front of its pupil, so there is nothing to hand over as a mask; "
        "give one: [[lens.barrel]] with ahead above zero",
        "lens.barrel");
  }
  VignettingMask mask;
  mask.distance = front->ahead;
  mask.hole_radius = front->radius;
  const double view = std::hypot(corner.right, corner.up) * front->ahead.mm();
  const double pupil =
      Opening(camera.iris, camera.aperture_radius).corner_radius() * camera.aperture_radius.mm();
  mask.side = Length::from_mm(2.0 * 1.05 * (view + pupil + 0.05 * front->radius.mm()));
  mask.side = std::max(mask.side, 2.2 * mask.hole_radius);
  mask.exposure = 1.0 / open_with(camera, {*front}, {0.0, 0.0});
  if (view > front->radius.mm()) {
    mask.warnings.push_back(fmt::format(
        "the hole's edge stands {:.1f} mm inside the view of the corners: a renderer that goes by "
        "the pinhole (depth, shading from the camera) shows it as a dark corner",
        view - front->radius.mm()));
  }
  if (min < 0.02) {
    mask.warnings.push_back(
        fmt::format("the corners get {:.1f} % of the light: they will be black", 100.0 * min));
  }
  if (!rear.empty()) {
    const double open = open_with(camera, rear, corner);
    if (open < 0.995) {
      mask.warnings.push_back(fmt::format(
          "{} behind the pupil cannot stand in front of the camera; {:.0f} % of the corners' discs "
          "that it cuts is left out",
          rear.size() == 1 ? std::string("the rim") : fmt::format("{} rims", rear.size()),
          100.0 * (1.0 - open)));
    }
  }
  return mask;
}

OpeningPicture mask_picture(const VignettingMask& mask, int size) {
  if (size < 16 || size > 8192) {
    throw UsageError(fmt::format("a mask {} px wide; it takes 16 to 8192", size));
  }
  OpeningPicture out{size, size, {}};
  const double radius = mask.hole_radius / mask.side * size;
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) {
      const double r = std::hypot(x + 0.5 - 0.5 * size, y + 0.5 - 0.5 * size);
      const auto v = static_cast<float>(std::clamp(radius - r + 0.5, 0.0, 1.0));
      out.light.push_back({v, v, v});
    }
  }
  return out;
}

}  // namespace jolly_iris
