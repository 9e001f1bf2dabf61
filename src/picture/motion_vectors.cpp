#include "jolly_iris/picture/motion_vectors.hpp"

#include <cmath>
#include <limits>

#include "disc_table.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris {

namespace {

constexpr float unknown = std::numeric_limits<float>::quiet_NaN();

// Where a picture of this size shows a point in a camera's space; NaN behind it.
std::array<double, 2> shown_at(const VirtualCamera& camera, const blur::GateMap& map,
                               const Vec3& p) {
  if (!(p.z < 0.0)) return {unknown, unknown};
  const double k = camera.focal.m() / -p.z;
  return {map.axis_x + p.x * k / map.pixel_width, map.axis_y - p.y * k / map.pixel_height};
}

}  // namespace

MotionVectors read_vectors(const Picture& vectors, const VectorMeaning& meaning) {
  MotionVectors out{vectors.size(), {}, {}};
  const float back = meaning.way == VectorMeaning::Way::to_last ? -1.0F : 1.0F;
  const float x = back * (meaning.of_the_width ? static_cast<float>(vectors.width()) : 1.0F);
  const float y = back * (meaning.up ? -1.0F : 1.0F) *
                  (meaning.of_the_width ? static_cast<float>(vectors.height()) : 1.0F);
  out.px_a_frame.reserve(vectors.pixels().size());
  for (const Rgba& p : vectors.pixels()) out.px_a_frame.push_back({x * p[0], y * p[1]});
  return out;
}

MotionVectors vectors_of_camera(const Frame& frame, const CameraMoment& now,
                                const CameraMoment& opens, const CameraMoment& closes,
                                const ShutterSpan& span, const Margin& margin) {
  if (!frame.has_depth()) {
    throw NoDepthError(
        "how far the camera's motion smears hangs on how far away things are; give a picture with "
        "depth, or let the scene tell (finish.smear.from = \"scene\")");
  }
  const PixelSize size = frame.colour.size();
  const blur::GateMap map = blur::gate_map(now.camera, size, margin);
  const blur::GateMap map_opens = blur::gate_map(opens.camera, size, margin);
  const blur::GateMap map_closes = blur::gate_map(closes.camera, size, margin);
  const Pose to_opens = opens.place.inverse() * now.place;
  const Pose to_closes = closes.place.inverse() * now.place;
  const double time = span.closes - span.opens;
  MotionVectors out{size, std::vector<std::array<float, 2>>(frame.depth.size()), {}};
  parallel_for(0, size.height, [&](int y) {
    for (int x = 0; x < size.width; ++x) {
      const std::size_t i = to_size(y) * to_size(size.width) + to_size(x);
      const Vec3 ray{(x + 0.5 - map.axis_x) * map.pixel_width / now.camera.focal.m(),
                     (map.axis_y - (y + 0.5)) * map.pixel_height / now.camera.focal.m(), -1.0};
      const auto z = static_cast<double>(frame.depth[i]);
      // Of the sky only the direction counts.
      const Vec3 a = std::isfinite(z) ? to_opens * (ray * z) : to_opens.linear * ray;
      const Vec3 b = std::isfinite(z) ? to_closes * (ray * z) : to_closes.linear * ray;
      const auto first = shown_at(opens.camera, map_opens, a);
      const auto last = shown_at(closes.camera, map_closes, b);
      out.px_a_frame[i] = {static_cast<float>((last[0] - first[0]) / time),
                           static_cast<float>((last[1] - first[1]) / time)};
    }
  });
  return out;
}

ShutterSpan shutter_span(double fraction, ShutterPlace place) {
  switch (place) {
    case ShutterPlace::from_frame:
      return {0.0, fraction};
    case ShutterPlace::to_frame:
      return {-fraction, 0.0};
    case ShutterPlace::centred:
      break;
  }
  return {-0.5 * fraction, 0.5 * fraction};
}

}  // namespace jolly_iris
