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

// Height on the film of something 1 mm high (at infinity: of a slope of 1), by the ray through the
// opening's middle, in one meridian.
double shown_height(const TracedGlass& glass, Length distance, Meridian meridian) {
  const RayMatrix m = matrix_of(glass, meridian);
  const RayMatrix front = matrix_to_stop(glass, meridian);
  const double behind = -glass.surfaces().back().z;
  double y = 0.0;
  double slope = 1.0;
  if (distance.is_finite()) {
    // a y + b (y − 1) / reach = 0 in the stop.
    const double reach = glass.surfaces().front().z + distance.mm();
    y = front.b / (reach * front.a + front.b);
    slope = (y - 1.0) / reach;
  } else if (std::abs(front.a) > 1e-12) {
    y = -front.b / front.a;
  }
  return std::abs((m.a + behind * m.c) * y + (m.b + behind * m.d) * slope);
}

}  // namespace

GlassMark mark_at(const Prescription& p, Length distance) {
  GlassMark out;
  out.distance = distance;
  out.travel = focused(p, distance).travel;
  const TracedGlass glass(p, out.travel);
  const ParaxialFacts facts = paraxial_facts(glass);
  // A slope of 1 through the entrance pupil's middle shows the focal length that frames alike.
  out.focal_scene = Length::from_mm(shown_height(glass, Length::infinity(), Meridian::up));
  if (distance.is_finite() && facts.entrance_pupil.is_finite()) {
    out.magnification = out.focal_scene.mm() / (distance.mm() + facts.entrance_pupil.mm());
  }
  if (!p.is_round()) {
    out.squeeze = shown_height(glass, distance, Meridian::up) /
                  shown_height(glass, distance, Meridian::across);
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
