#include "workflow/standard_header.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <array>
#include <cmath>
#include <utility>

#include "jolly_iris/optics/exposure.hpp"

namespace jolly_iris {

namespace {

using Rows = std::array<double, 16>;

std::string numbers(const Rows& m) { return fmt::format("{:.9g}", fmt::join(m, " ")); }

// World to a camera that looks along its +z, a place being a row: the camera's axes are columns.
Rows world_to_camera(const Pose& place) {
  const Pose back = place.inverse();
  const Vec3 origin = back * Vec3{0, 0, 0};
  Rows m{};
  const std::array<Vec3, 3> axes{Vec3{1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, 0, 1}};
  for (std::size_t i = 0; i < 3; ++i) {
    const Vec3 seen = back * axes[i] - origin;
    m[4 * i] = seen.x;
    m[4 * i + 1] = seen.y;
    m[4 * i + 2] = -seen.z;
  }
  m[12] = origin.x;
  m[13] = origin.y;
  m[14] = -origin.z;
  m[15] = 1.0;
  return m;
}

Rows product(const Rows& a, const Rows& b) {
  Rows m{};
  for (std::size_t i = 0; i < 4; ++i) {
    for (std::size_t j = 0; j < 4; ++j) {
      for (std::size_t k = 0; k < 4; ++k) m[4 * i + j] += a[4 * i + k] * b[4 * k + j];
    }
  }
  return m;
}

// From that camera to 0 … 1 over the picture; divided by depth.
Rows camera_to_ndc(const VirtualCamera& c) {
  Rows m{};
  m[0] = c.focal / c.picture.width;
  m[5] = -(c.focal / c.picture.height);
  m[8] = 0.5 - c.shift_right / c.picture.width;
  m[9] = 0.5 + c.shift_up / c.picture.height;
  m[10] = 1.0;
  m[11] = 1.0;
  return m;
}

// A frame rate as films count it: whole, or by 1001.
std::string rate(double fps) {
  const double whole = std::round(fps);
  if (std::abs(fps - whole) < 1e-6) return fmt::format("{:.0f}/1", whole);
  const double by_1001 = std::round(fps * 1.001);
  if (std::abs(fps - by_1001 / 1.001) < 1e-3) return fmt::format("{:.0f}/1001", 1000.0 * by_1001);
  return fmt::format("{:.0f}/1000", std::round(1000.0 * fps));
}

}  // namespace

std::map<std::string, std::string> standard_header(const LoadedShot& loaded) {
  const Answer& a = loaded.answer;
  const VirtualCamera& c = a.camera;
  const Take& take = loaded.now.take;
  const auto text = [](double v) { return fmt::format("{:.9g}", v); };
  const Rows to_camera = world_to_camera(a.place);
  std::map<std::string, std::string> out{
      {"focus", text(a.mark.value_or(c.focus).m())},
      {"FNumber", text(c.lens_f_number / loaded.now.lens.adapter)},
      {"tStop", text(c.lens_t_number / loaded.now.lens.adapter)},
      {"nominalFocalLength", text(loaded.now.lens.focal.mm())},
      {"pinholeFocalLength", text(c.focal.mm())},
      {"worldtocamera", numbers(to_camera)},
      {"worldtoNDC", numbers(product(to_camera, camera_to_ndc(c)))}};
  if (take.iso) out["isoSpeed"] = text(*take.iso);
  if (a.shutter) out["ExposureTime"] = text(a.shutter->seconds());
  if (a.shutter_angle) out["shutterAngle"] = text(a.shutter_angle->degrees());
  if (take.fps) out["framesPerSecond"] = rate(*take.fps);
  // ITU-R BT.709 and S-2014-004.
  out["chromaticities"] = loaded.now.primaries == Primaries::acescg
                              ? "0.713 0.293 0.165 0.83 0.128 0.044 0.32168 0.33767"
                              : "0.64 0.33 0.3 0.6 0.15 0.06 0.3127 0.329";
  return out;
}

}  // namespace jolly_iris
