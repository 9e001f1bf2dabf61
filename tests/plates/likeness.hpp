// CG that is finished as a plate was found to be, and how far what is told of both lies apart.
#pragma once

#include <fmt/format.h>

#include <cmath>
#include <numbers>
#include <string>
#include <vector>

#include "jolly_iris/measure/finish_comparison.hpp"
#include "jolly_iris/picture/finish.hpp"
#include "jolly_iris/picture/smear.hpp"

namespace jolly_iris::plates {

inline bool is_told(const FinishInPlate& found, FinishPart part) {
  switch (part) {
    case FinishPart::halo:
      return found.halo.halo.has_value();
    case FinishPart::spikes:
      return found.rays.spikes.has_value();
    case FinishPart::streak:
      return found.rays.streak && found.rays.streak->reach_px.margin > 0.0;
    case FinishPart::smear:
      return found.smear.smear.has_value();
    case FinishPart::corners:
      return found.corners.stops.has_value();
    case FinishPart::grain:
      return found.grain.grain.has_value();
  }
  return false;
}

/// A scene without any finish, given all that was found.
inline Picture finished_like(Picture scene, const FinishInPlate& found) {
  VirtualCamera camera;
  camera.pixels = scene.size();
  camera.focal = camera.lens_focal = Length::from_mm(50.0);
  camera.f_number = camera.lens_f_number = camera.lens_t_number = 2.8;
  camera.aperture_radius = Length::from_mm(50.0 / 2.8 / 2.0);
  camera.gate = {Length::from_mm(0.006 * scene.width()), Length::from_mm(0.006 * scene.height())};
  camera.picture = camera.gate;
  camera.focus = Length::infinity();
  if (found.smear.smear) {
    const SmearWay& way = *found.smear.smear;
    const double turn = way.direction_deg.value * std::numbers::pi / 180.0;
    const MotionVectors vectors{
        scene.size(),
        std::vector<std::array<float, 2>>(
            scene.pixels().size(),
            {static_cast<float>(2.0 * way.length_px.value * std::cos(turn)),
             static_cast<float>(-2.0 * way.length_px.value * std::sin(turn))}),
        {}};
    const Frame frame{std::move(scene), {}, {}};
    scene = smeared(frame, vectors, shutter_span(0.5, ShutterPlace::centred)).picture;
  }
  return after_lens(std::move(scene), camera, finish_like(found)).picture;
}

struct Likeness {
  double chi2 = 0.0;
  int free = 0;
  double limit = 0.0;     ///< that 99 of 100 stay below
  int missing = 0;        ///< parts that one has and the other has not
  double most_db = -1.0;  ///< of grain's power; below 0: it has none that is told
  std::string worst{};    ///< the number that is farthest off
};

inline Likeness likeness(const FinishComparison& of) {
  Likeness out;
  double most = 0.0;
  for (const FinishDifference& d : of.numbers) {
    const double off = 2.0 * d.off.value / d.off.margin;
    out.chi2 += off * off;
    ++out.free;
    if (std::abs(off) <= most) continue;
    most = std::abs(off);
    out.worst = fmt::format("; {}: {:.4g} for {:.4g} ({:+.1f})", d.name, d.cg, d.plate, off);
  }
  out.missing = static_cast<int>(of.missing.size());
  for (const GrainBand& b : of.grain_bands) {
    out.most_db = std::max(out.most_db, std::abs(b.db.value));
  }
  // Wilson and Hilferty 1931.
  const double k = 2.0 / (9.0 * std::max(1, out.free));
  out.limit = out.free * std::pow(1.0 - k + 2.326 * std::sqrt(k), 3.0);
  return out;
}

}  // namespace jolly_iris::plates
