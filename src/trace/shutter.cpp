#include "jolly_iris/trace/shutter.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "picture/parallel.hpp"
#include "splat.hpp"
#include "stage.hpp"

namespace jolly_iris {

namespace {

using namespace tracing;

// A pixel's lamps are found among so many places of them.
constexpr int lamp_samples = 16;

// From camera space at the frame's moment to camera space at another one.
class Way {
 public:
  Way(const SceneMoment& now, const SceneMoment& then, PixelSize size)
      : now_(now),
        then_(then),
        back_(then.seen_by.place.inverse()),
        view_(then.seen_by.camera, size, true) {}

  /// Where a point of a node is seen then; of the sky (no node) a direction.
  Point2 seen(const Vec3& p, const std::optional<std::size_t>& node) const {
    if (!node) return projected((back_.linear * now_.seen_by.place.linear) * p);
    const Vec3 world = now_.seen_by.place * p;
    const Vec3 own = now_.scene.nodes[*node].world.inverse() * world;
    return projected(back_ * (then_.scene.nodes[*node].world * own));
  }

 private:
  Point2 projected(const Vec3& p) const {
    if (!(p.z < 0.0)) {
      const double unknown = std::numeric_limits<double>::quiet_NaN();
      return {unknown, unknown};
    }
    return view_.project(p);
  }

  const SceneMoment& now_;
  const SceneMoment& then_;
  Pose back_;
  LensView view_;
};

}  // namespace

Frame trace_shutter(const MomentAt& moment_at, double frame, const ShutterSpan& span, int moments,
                    const TraceSettings& settings) {
  if (moments < 1) {
    throw UsageError(
        fmt::format("{} moments of the shutter show nothing; use at least 1", moments));
  }
  TraceSettings part = settings;
  part.samples = std::max(1, settings.samples / moments);
  Frame sum;
  for (int k = 0; k < moments; ++k) {
    const double at = frame + span.opens + (k + 0.5) / moments * (span.closes - span.opens);
    const SceneMoment moment = moment_at(at);
    part.first_ray = k * part.samples;
    part.execution = settings.execution.part(static_cast<double>(k) / moments,
                                             static_cast<double>(k + 1) / moments);
    const Frame now = trace(moment.scene, moment.seen_by.camera, moment.seen_by.place, part);
    if (k == 0) sum.colour = Picture(now.colour.size());
    const float fraction = 1.0F / static_cast<float>(moments);
    for (std::size_t i = 0; i < now.colour.pixels().size(); ++i) {
      for (std::size_t c = 0; c < 4; ++c) {
        sum.colour.pixels()[i][c] += fraction * now.colour.pixels()[i][c];
      }
    }
  }
  if (settings.pinhole) {
    TraceSettings once = settings;
    once.samples = 1;
    once.first_ray = 0;
    once.execution = {settings.execution.threads, {}, settings.execution.stop};
    const SceneMoment now = moment_at(frame);
    sum.depth = trace(now.scene, now.seen_by.camera, now.seen_by.place, once).depth;
  }
  return sum;
}

MotionVectors trace_motion(const MomentAt& moment_at, double frame, const ShutterSpan& span,
                           const TraceSettings& settings) {
  const SceneMoment now = moment_at(frame);
  const SceneMoment opens = moment_at(frame + span.opens);
  const SceneMoment closes = moment_at(frame + span.closes);
  const PixelSize size = settings.size.value_or(now.seen_by.camera.pixels);
  const Box box = settings.box.value_or(Box{0, 0, size.width, size.height});
  require_within(box, size);
  const LensView view(now.seen_by.camera, size, true);
  const Stage stage(now.scene, now.seen_by.place, view, sight_of(now.scene, settings));
  const Way first(now, opens, size);
  const Way last(now, closes, size);
  const double time = span.closes - span.opens;
  const auto pixels = static_cast<std::size_t>(box.width) * static_cast<std::size_t>(box.height);
  MotionVectors out{{box.width, box.height},
                    std::vector<std::array<float, 2>>(pixels),
                    std::vector<float>(pixels, std::numeric_limits<float>::infinity())};
  with_threads(settings.execution.threads, [&] {
    const Splats lamps = splat_emitters({stage, view, box, size, lamp_samples, 0, settings.seed,
                                         settings.density, settings.execution.part(0.0, 0.3)});
    parallel_for(0, box.height, [&](int row) {
      for (int column = 0; column < box.width; ++column) {
        const std::size_t i = static_cast<std::size_t>(row) * static_cast<std::size_t>(box.width) +
                              static_cast<std::size_t>(column);
        const ViewRay ray = view.straight(box.x + column + 0.5, box.y + row + 0.5);
        double depth = 0.0;
        std::optional<std::size_t> node = stage.node(ray.origin, ray.direction, depth);
        if (lamps.brightest[i] > stage.look(ray.origin, ray.direction).radiance.mean()) {
          node = lamps.node[i];
          depth = static_cast<double>(lamps.depth[i]);
        }
        if (node) out.depth[i] = static_cast<float>(depth);
        const Vec3 p = node ? ray.direction * depth : ray.direction;
        const Point2 from = first.seen(p, node);
        const Point2 to = last.seen(p, node);
        out.px_a_frame[i] = {static_cast<float>((to.x - from.x) / time),
                             static_cast<float>((to.y - from.y) / time)};
      }
    });
  });
  settings.execution.tell(1.0);
  return out;
}

}  // namespace jolly_iris
