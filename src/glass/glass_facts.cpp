#include "jolly_iris/glass/glass_facts.hpp"

#include <cmath>

#include "jolly_iris/glass/focus_travel.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// Distances that barrels have marks at, m.
constexpr double barrel_marks[] = {10.0, 5.0, 3.0, 2.0, 1.5,  1.2, 1.0,
                                   0.8,  0.6, 0.5, 0.4, 0.35, 0.3};
// Marks stand a little apart from the barrel's end.
constexpr double beyond_the_end = 1.02;

}  // namespace

GlassMark mark_at(const Prescription& p, Length distance) {
  GlassMark out;
  out.distance = distance;
  out.travel = focused(p, distance).travel;
  const TracedGlass glass(p, out.travel);
  const ParaxialFacts facts = paraxial_facts(glass);
  const RayMatrix m = matrix_of(glass);
  const RayMatrix front = matrix_to_stop(glass);
  // A ray through the entrance pupil's middle with slope 1: its height at the first vertex is −b/a,
  // and on the film the focal length that frames alike.
  const double behind = -glass.surfaces().back().z;
  const double y = std::abs(front.a) > 1e-12 ? -front.b / front.a : 0.0;
  out.focal_scene = Length::from_mm(std::abs((m.a + behind * m.c) * y + m.b + behind * m.d));
  if (distance.is_finite() && facts.entrance_pupil.is_finite()) {
    out.magnification = out.focal_scene.mm() / (distance.mm() + facts.entrance_pupil.mm());
  }
  return out;
}

std::vector<GlassMark> marks_of(const Prescription& p) {
  const Length nearest = nearest_focus(p);
  std::vector<Length> distances{Length::infinity()};
  for (const double m : barrel_marks) {
    if (m > nearest.m() * beyond_the_end) distances.push_back(Length::from_m(m));
  }
  distances.push_back(nearest);
  std::vector<GlassMark> out;
  for (const Length d : distances) {
    try {
      out.push_back(mark_at(p, d));
    } catch (const OpticsError&) {
      continue;  // out of reach, which the nearest and the others say
    }
  }
  return out;
}

}  // namespace jolly_iris
