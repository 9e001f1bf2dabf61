#include "jolly_iris/measure/finish_in_plate.hpp"

#include <algorithm>
#include <cmath>

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

Finish finish_like(const FinishInPlate& found) {
  Finish out;
  const auto most_of = [](const std::array<Measured, 3>& of) {
    return std::max({of[0].value, of[1].value, of[2].value});
  };
  if (found.halo.halo) {
    const HaloInPlate& h = *found.halo.halo;
    out.halo = Halo{{h.fraction[0].value, h.fraction[1].value, h.fraction[2].value},
                    {BlurSize::Kind::pixels, h.reach_px.value},
                    h.power.value};
  }
  if (found.rays.streak && found.rays.streak->reach_px.margin > 0.0) {
    const PlateStreak& s = *found.rays.streak;
    const double most = most_of(s.fraction);
    if (most > 0.0) {
      out.streak = Streak{
          most,
          Angle::from_degrees(s.direction_deg.value),
          {BlurSize::Kind::pixels, s.reach_px.value},
          s.power.value,
          {std::max(0.0, s.fraction[0].value) / most, std::max(0.0, s.fraction[1].value) / most,
           std::max(0.0, s.fraction[2].value) / most}};
    }
  }
  if (found.corners.stops && std::abs(found.corners.stops->value) > found.corners.stops->margin) {
    out.corners = Corners{found.corners.stops->value, 2.0};
    if (found.corners.power) out.corners->power = found.corners.power->value;
  }
  if (found.grain.grain) out.grain = grain_like(*found.grain.grain);
  return out;
}

}  // namespace jolly_iris
