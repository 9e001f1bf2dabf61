#include "jolly_iris/optics/perspective.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

using Direction = std::array<double, 3>;

Direction rolled(const Direction& d, double angle) {  // about z, counter-clockwise
  const double c = std::cos(angle);
  const double s = std::sin(angle);
  return {c * d[0] - s * d[1], s * d[0] + c * d[1], d[2]};
}

Direction tilted(const Direction& d, double angle) {  // about x, lifts −z
  const double c = std::cos(angle);
  const double s = std::sin(angle);
  return {d[0], c * d[1] - s * d[2], s * d[1] + c * d[2]};
}

std::array<double, 2> seen(const VirtualCamera& camera, const Direction& d) {
  if (!(d[2] < 0.0)) {
    constexpr double beyond = std::numeric_limits<double>::infinity();
    return {std::copysign(beyond, d[0]), std::copysign(beyond, -d[1])};
  }
  return pixel_of_direction(camera, d);
}

}  // namespace

Direction levelled(const Lean& lean, const Direction& direction) {
  return tilted(rolled(direction, -lean.roll.radians()), lean.tilt.radians());
}

Direction leaning(const Lean& lean, const Direction& direction) {
  return rolled(tilted(direction, -lean.tilt.radians()), lean.roll.radians());
}

LevelCamera level_camera(const VirtualCamera& camera, const Lean& lean,
                         const std::array<double, 2>& kept) {
  const Direction d = levelled(lean, direction_of_pixel(camera, kept[0], kept[1]));
  const double ahead = -d[2];  // of what is at axial distance 1 from the leaning camera
  const double off = std::atan2(std::hypot(d[0], d[1]), ahead) * 180.0 / std::numbers::pi;
  if (!(ahead > 0.0) || off >= 80.0) {
    throw OpticsError(
        fmt::format("({:.0f}, {:.0f}) px is seen {:.0f} deg off the level axis: no level camera "
                    "shows it; keep a place nearer to the horizon",
                    kept[0], kept[1], off));
  }
  LevelCamera level;
  level.kept = kept;
  VirtualCamera& c = level.camera;
  c = camera;
  c.focal = camera.focal * ahead;
  c.f_number = c.focal / (2.0 * camera.aperture_radius);
  c.focus = camera.focus * ahead;
  c.magnification = c.focal / c.focus;
  const Length right = (kept[0] - 0.5 * camera.pixels.width) * camera.pixel_pitch_x();
  const Length up = (0.5 * camera.pixels.height - kept[1]) * camera.pixel_pitch();
  c.shift_right = c.focal * (d[0] / ahead) - right;
  c.shift_up = c.focal * (d[1] / ahead) - up;
  level.image_circle =
      2.0 * Length::from_mm(std::hypot(c.picture.width.mm() / 2.0 + std::abs(c.shift_right.mm()),
                                       c.picture.height.mm() / 2.0 + std::abs(c.shift_up.mm())));
  return level;
}

std::array<double, 2> place_when_level(const VirtualCamera& camera, const Lean& lean,
                                       const LevelCamera& level, const std::array<double, 2>& px) {
  return seen(level.camera, levelled(lean, direction_of_pixel(camera, px[0], px[1])));
}

std::array<double, 2> place_when_leaning(const VirtualCamera& camera, const Lean& lean,
                                         const LevelCamera& level,
                                         const std::array<double, 2>& px) {
  return seen(camera, leaning(lean, direction_of_pixel(level.camera, px[0], px[1])));
}

Angle max_convergence(const VirtualCamera& camera, const Lean& lean) {
  // A vertical through the middle of each side: the way it runs in the picture there.
  const Direction up = leaning(lean, {0.0, 1.0, 0.0});
  double max = 0.0;
  for (const double x : {0.0, static_cast<double>(camera.pixels.width)}) {
    const Direction d = direction_of_pixel(camera, x, 0.5 * camera.pixels.height);
    // Derivative of (x, y) / −z along `up`.
    const double right = up[0] + d[0] * up[2];
    const double rise = up[1] + d[1] * up[2];
    if (rise == 0.0 && right == 0.0) continue;
    max = std::max(max, std::abs(std::atan2(right, std::abs(rise))));
  }
  return Angle::from_radians(max);
}

}  // namespace jolly_iris
