#include "jolly_iris/optics/cg_camera.hpp"

namespace jolly_iris {

CgCamera as_cg_camera(const VirtualCamera& camera) {
  CgCamera cg;
  cg.picture = camera.picture;
  cg.focal = camera.focal;
  cg.aperture_radius = camera.aperture_radius;
  cg.focus = camera.focus;
  cg.width_to_height = camera.pupil_aspect();
  cg.blades = camera.iris.blades;
  cg.rotation = camera.iris.rotation;
  cg.shift_right = camera.shift_right;
  cg.shift_up = camera.shift_up;
  cg.pixel_aspect = camera.pixel_pitch_x() / camera.pixel_pitch();
  return cg;
}

RealLens real_lens_of(const CgCamera& cg, const VirtualCamera& wanted, const Lens& lens,
                      Length focus) {
  const double v = cg.focal.mm() * (wanted.picture.width / cg.picture.width);
  const Length s = cg.focus.value_or(focus);
  // v = A k f s_b / (s_b − f); with nothing in front, f = v / (A + v / s)
  const double f = v / (lens.adapter * lens.converter + v / s.mm());
  RealLens real;
  real.focal = Length::from_mm(f);
  if (cg.aperture_radius) {
    real.stop = lens.converter * f / (2.0 * cg.aperture_radius->mm());
  }
  return real;
}

}  // namespace jolly_iris
