#include "jolly_iris/measure/finish_in_plate.hpp"

namespace jolly_iris {

namespace {

// Where nothing is cut off, bright light is as good a witness as any.
constexpr double nowhere_clipped = 1e30;
// Half of a block: marks beside bright things are strongest there.
constexpr int coded_beside_px = 4;

}  // namespace

FinishInPlate finish_in(const Picture& picture, const FileMarks& marks,
                        const std::optional<VirtualCamera>& camera, const Execution& execution,
                        bool halo) {
  const int beside = marks.coded ? coded_beside_px : 0;
  const double cut = marks.clips_at > 0.0 ? marks.clips_at : nowhere_clipped;
  FinishInPlate out;
  // Shares of the time, as they were measured on the demo's plates.
  execution.tell(0.0);
  if (halo) out.halo = halo_in(picture, {.clips_at = marks.clips_at, .codec_px = beside});
  execution.tell(0.3);
  execution.check();
  out.rays = rays_in(picture, {.clips_at = marks.clips_at, .codec_px = beside, .camera = camera});
  execution.tell(0.6);
  execution.check();
  out.smear = smear_in(picture, {.clips_at = marks.clips_at, .coded = marks.coded});
  execution.tell(0.8);
  execution.check();
  out.corners = corners_in(picture, {.clips_at = cut});
  out.grain = grain_in(picture, {.steps = marks.steps});
  execution.tell(1.0);
  return out;
}

}  // namespace jolly_iris
