#include "jolly_iris/workflow/glass_twin.hpp"

#include <cmath>

#include "jolly_iris/glass/coating.hpp"
#include "jolly_iris/glass/paraxial.hpp"

namespace jolly_iris {

GlassTwin twin_of(const GlassLook& look) {
  const GlassCamera camera = camera_of(look);
  GlassTwin out;
  out.focal = camera.scene_focal();
  out.film_behind = camera.pupil_to_film();
  out.squeeze = camera.squeeze();
  out.stop_radius = look.opening;
  const TracedGlass& green = camera.green();
  const ParaxialFacts facts = paraxial_facts(green);
  out.pupil = facts.entrance_diameter;
  out.f_number = out.focal / out.pupil;
  out.focus = look.request.distance.is_finite() ? look.request.distance - out.film_behind
                                                : look.request.distance;
  out.passes = look.passes;
  Prescription bare = look.prescription;
  for (GlassSurface& s : bare.surfaces) s.coat.reset();
  out.bare = axis_transmission(bare)[1];
  out.solid_angle = camera.middle_light();
  for (std::size_t i = 0; i < green.surfaces().size(); ++i) {
    const TracedSurface& s = green.surfaces()[i];
    const GlassSurface& written = look.prescription.surfaces[i];
    TwinSurface t;
    t.from_pupil = Length::from_mm(s.z) + out.film_behind;
    t.radius = written.radius;
    t.clear = s.stop ? out.stop_radius * 2.0 : Length::from_mm(2.0 * std::sqrt(s.clear_sq));
    t.conic = s.conic;
    t.terms = s.terms;
    t.curved = s.curved;
    t.stop = s.stop;
    for (std::size_t c = 0; c < 3; ++c) t.index[c] = camera.glass(c).surfaces()[i].after;
    if (!s.stop) ++out.crossings;
    out.surfaces.push_back(std::move(t));
  }
  return out;
}

}  // namespace jolly_iris
