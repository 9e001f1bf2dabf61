#include "jolly_iris/glass/paraxial.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// Widest stops are marked to about a hundredth.
constexpr double as_marked = 0.01;

double curvature_in(const TracedSurface& s, Meridian meridian) {
  if (s.curved == Curved::round) return s.curvature;
  const bool bends = (s.curved == Curved::up) == (meridian == Meridian::up);
  return bends ? s.curvature : 0.0;
}

// From just before surface `first` to just behind surface `last`.
RayMatrix between(const TracedGlass& glass, std::size_t first, std::size_t last,
                  Meridian meridian) {
  const std::vector<TracedSurface>& all = glass.surfaces();
  RayMatrix out;
  for (std::size_t i = first; i <= last; ++i) {
    const TracedSurface& s = all[i];
    if (i > first) out = RayMatrix{1.0, (s.z - all[i - 1].z) / s.before, 0.0, 1.0}.after(out);
    const double power = (s.after - s.before) * curvature_in(s, meridian);
    out = RayMatrix{1.0, 0.0, -power, 1.0}.after(out);
  }
  return out;
}

Length place(double z) { return std::isfinite(z) ? Length::from_mm(z) : Length::infinity(); }

}  // namespace

RayMatrix matrix_of(const TracedGlass& glass, Meridian meridian) {
  return between(glass, 0, glass.surfaces().size() - 1, meridian);
}

RayMatrix matrix_to_stop(const TracedGlass& glass, Meridian meridian) {
  return between(glass, 0, glass.stop(), meridian);
}

RayMatrix matrix_from_stop(const TracedGlass& glass, Meridian meridian) {
  return between(glass, glass.stop(), glass.surfaces().size() - 1, meridian);
}

ParaxialFacts paraxial_facts(const TracedGlass& glass, Meridian meridian) {
  const RayMatrix m = matrix_of(glass, meridian);
  const RayMatrix front = matrix_to_stop(glass, meridian);
  const RayMatrix rear = matrix_from_stop(glass, meridian);
  const double first = glass.surfaces().front().z;
  const double last = glass.surfaces().back().z;
  // Weaker than a lens of ten kilometres: light leaves as it came.
  constexpr double no_power = 1e-7;
  if (!(std::abs(m.c) > no_power)) {
    throw OpticsError("the glass has no power, so it forms no image: light leaves it as it came");
  }
  ParaxialFacts out;
  out.focal = Length::from_mm(-1.0 / m.c);
  out.back_focus = Length::from_mm(-m.a / m.c);
  out.front_principal = Length::from_mm(first + (m.d - 1.0) / m.c);
  out.back_principal = Length::from_mm(last + (1.0 - m.a) / m.c);
  const double radius = glass.opening().mm();
  out.entrance_pupil = place(first + front.b / front.a);
  out.entrance_diameter = place(2.0 * radius / std::abs(front.a));
  out.exit_pupil = place(last - rear.b / rear.d);
  out.exit_diameter = place(2.0 * radius / std::abs(rear.d));
  out.f_number = std::abs(out.focal.mm() * front.a) / (2.0 * radius);
  return out;
}

Length opening_for(const TracedGlass& glass, double f_number) {
  if (!(f_number > 0.0) || !std::isfinite(f_number)) {
    throw OpticsError(fmt::format("{:g} is no f-number above zero", f_number), "take.stop");
  }
  const RayMatrix m = matrix_of(glass);
  const RayMatrix front = matrix_to_stop(glass);
  const double radius = std::abs(front.a / m.c) / (2.0 * f_number);
  const double widest = std::sqrt(glass.surfaces()[glass.stop()].clear_sq);
  if (!(radius <= widest * (1.0 + as_marked))) {
    throw OpticsError(fmt::format("the glass does not open to f/{:g}: its widest stop is f/{:.3g}",
                                  f_number, f_number * radius / widest),
                      "take.stop");
  }
  return Length::from_mm(std::min(radius, widest));
}

}  // namespace jolly_iris
