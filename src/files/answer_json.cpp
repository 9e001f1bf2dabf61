#include "files/answer_json.hpp"

#include <cmath>

#include "jolly_iris/files/handoff.hpp"
#include "jolly_iris/optics/undistort.hpp"

namespace jolly_iris {

namespace {

Json subject_json(const SubjectBlur& s) {
  Json j{{"name", s.name},
         {"axial_m", finite_json(s.axial.m())},
         {"radial_m", finite_json(s.radial.m())},
         {"tape_m", finite_json(s.tape.m())},
         {"mark_m", s.mark ? finite_json(s.mark->m()) : Json(nullptr)},
         {"floor_m", s.floor ? finite_json(s.floor->m()) : Json(nullptr)},
         {"front_m", finite_json(s.front.m())},
         {"back_m", finite_json(s.back.m())},
         {"coc_mm", s.coc.mm()},
         {"coc_px", s.coc_px},
         {"coc_front_px", s.coc_front_px ? Json(*s.coc_front_px) : Json(nullptr)},
         {"coc_back_px", s.coc_back_px},
         {"sharp", s.sharp},
         {"partly_sharp", s.partly_sharp},
         {"in_picture", s.in_picture}};
  if (s.size_px) j["size_px"] = *s.size_px;
  if (s.depth_code) j["depth_code"] = finite_json(*s.depth_code);
  return j;
}

Json iris_json(const Iris& iris) {
  Json j{{"blades", iris.blades}, {"rotation_deg", iris.rotation.degrees()}};
  switch (iris.blade_radius.kind) {
    case BladeRadius::Kind::straight:
      j["blade_radius"] = "straight";
      break;
    case BladeRadius::Kind::multiple:
      j["blade_radius_times"] = iris.blade_radius.times;
      break;
    case BladeRadius::Kind::length:
      j["blade_radius_mm"] = iris.blade_radius.length.mm();
      break;
  }
  const auto some = [&](const char* key, double value) {
    if (value != 0.0) j[key] = value;
  };
  some("uneven", iris.uneven);
  some("obstruction", iris.obstruction);
  some("rim_stops", iris.edge_falloff);
  if (iris.rings > 0) {
    j["rings"] = iris.rings;
    j["ring_strength_stops"] = iris.ring_strength;
  }
  if (iris.dust > 0) {
    j["dust"] = iris.dust;
    j["dust_size"] = iris.dust_size;
  }
  if (iris.scratches > 0) j["scratches"] = iris.scratches;
  if (iris.uneven != 0.0 || iris.dust > 0 || iris.scratches > 0) j["seed"] = iris.seed;
  if (!iris.outline.empty()) {
    j["outline"] = Json::array();
    for (const Point2& p : iris.outline) j["outline"].push_back({p.x, p.y});
  }
  if (!iris.picture_file.empty()) j["picture"] = iris.picture_file;
  return j;
}

// The rims of the barrel and the lens's faults, where there are any.
void add_lens_json(const VirtualCamera& c, Json& j) {
  for (const VignettingRim& rim : c.vignetting) {
    j["barrel"].push_back({{"radius_mm", rim.radius.mm()}, {"ahead_mm", rim.ahead.mm()}});
  }
  const Aberrations& f = c.aberrations;
  if (!f.bends() && !f.coloured() && f.curvature.dioptres() == 0.0) return;
  Json shifts = Json::array();
  for (const Power& p : f.focus_shift) shifts.push_back(p.dioptres());
  j["faults"] = {{"open_against_widest", c.open_against_widest},
                 {"spherical_mm", f.spherical.mm()},
                 {"coma_mm", f.coma.mm()},
                 {"curvature_dpt", f.curvature.dioptres()},
                 {"height_mm", f.height.mm()},
                 {"focus_shift_dpt", shifts},
                 {"magnification", f.magnification}};
}

Json distortion_json(const VirtualCamera& c) {
  if (!c.distortion.any()) return nullptr;
  const DistortionFigures figures = figures_of_distortion(c);
  const Margin margin = DistortionMap(c).margin();
  Json j{{"k", c.distortion.k},
         {"p", c.distortion.p},
         {"radius_mm", c.distortion.radius->mm()},
         {"kind", figures.kind},
         {"corner_px", figures.corner_px},
         {"margin_px", {margin.beside, margin.above}}};
  if (c.distortion.width) j["wide"] = *c.distortion.width;
  return j;
}

}  // namespace

Json camera_json(const Answer& a) {
  const VirtualCamera& c = a.camera;
  Json j{
      {"focal_mm", c.focal.mm()},
      {"f_number", c.f_number},
      {"aperture_radius_mm", c.aperture_radius.mm()},
      {"aperture_radius_units", c.aperture_radius / a.unit},
      {"gate_mm", {c.gate.width.mm(), c.gate.height.mm()}},
      {"fov_deg", {c.horizontal_field_of_view().degrees(), c.vertical_field_of_view().degrees()}},
      {"picture_mm", {c.picture.width.mm(), c.picture.height.mm()}},
      {"pixel_aspect", c.pixel_pitch_x() / c.pixel_pitch()},
      {"picture_fov_deg",
       {c.horizontal_picture_view().degrees(), c.vertical_picture_view().degrees()}},
      {"shift_mm", {c.shift_right.mm(), c.shift_up.mm()}},
      {"pupil_to_sensor_mm", c.pupil_to_sensor.mm()},
      {"focus_m", finite_json(c.focus.m())},
      {"focus_units", finite_json(c.focus / a.unit)},
      {"magnification", c.magnification},
      {"pixels", {c.pixels.width, c.pixels.height}},
      {"squeeze", c.squeeze},
      {"aperture_wide_to_high", c.pupil_aspect()},
      {"iris", iris_json(c.iris)},
      {"distortion", distortion_json(c)}};
  add_lens_json(c, j);
  return j;
}

Json exposure_json(const Answer& a) {
  const auto maybe = [](const auto& value) { return value ? Json(*value) : Json(nullptr); };
  Json j{{"ev100", maybe(a.ev100)},
         {"ev_is_given", a.exposure.ev_is_given},
         {"working_t", a.exposure.working_t},
         {"iso", maybe(a.exposure.iso)},
         {"nd_stops", a.exposure.nd_stops},
         {"shutter_s", a.shutter ? Json(a.shutter->seconds()) : Json(nullptr)},
         {"shutter_deg", a.shutter_angle ? Json(a.shutter_angle->degrees()) : Json(nullptr)},
         {"value_per_cd_m2", maybe(a.value_per_candela)},
         {"anchor", to_string(a.anchor)},
         {"light", to_string(a.light)},
         {"corner_stops", a.corner.stops}};
  if (a.cg_shutter) {
    j["open_fraction"] = a.cg_shutter->open_fraction;
    j["open_centred"] = {a.cg_shutter->centred.opens, a.cg_shutter->centred.closes};
    j["open_from_frame"] = {a.cg_shutter->from_frame.opens, a.cg_shutter->from_frame.closes};
  }
  if (a.white) {
    j["white_K"] = a.white->temperature.kelvin();
    j["white_tint"] = a.white->tint;
  }
  return j;
}

Json finite_json(double value) { return std::isfinite(value) ? Json(value) : Json(nullptr); }

Json to_json(const Answer& a) {
  Json j;
  if (a.frame) j["frame"] = *a.frame;
  j["camera"] = camera_json(a);
  j["camera"]["mark_m"] = a.mark ? finite_json(a.mark->m()) : Json(nullptr);
  j["camera"]["margin_px"] = {a.margin.beside, a.margin.above};
  j["lens"] = {{"focal_mm", a.camera.lens_focal.mm()},
               {"f_number", a.camera.lens_f_number},
               {"t_number", a.camera.lens_t_number}};
  j["sharpness"] = {{"coc_limit_mm", a.coc_limit.mm()},
                    {"near_m", finite_json(a.sharp.near.m())},
                    {"far_m", finite_json(a.sharp.far.m())},
                    {"hyperfocal_m", finite_json(a.hyperfocal.m())}};
  if (a.nothing_sharp) {
    j["sharpness"]["near_m"] = j["sharpness"]["far_m"] = nullptr;
    j["sharpness"]["least_blur_px"] = a.least_blur_px;
  }
  j["subjects"] = Json::array();
  for (const SubjectBlur& s : a.subjects) j["subjects"].push_back(subject_json(s));
  j["subjects"].push_back(subject_json(a.infinity));
  j["exposure"] = exposure_json(a);
  j["focus"] = a.focus_description;
  j["scale"] = Json::array();
  for (const ScaleFinding& f : a.scale) {
    j["scale"].push_back({{"name", f.name}, {"factor", f.factor}, {"said", f.message}});
  }
  j["notes"] = a.notes;
  Json origins = Json::object();
  for (const auto& [key, origin] : a.origins) {
    Json one{{"from", to_string(origin.source)}, {"at", origin.place}, {"value", origin.text}};
    if (!origin.why.empty()) one["why"] = origin.why;
    origins.add(key, std::move(one));
  }
  j["origins"] = std::move(origins);
  Json matrix = Json::array();
  for (std::size_t column = 0; column < 4; ++column) {
    const Vec3& v = column < 3 ? a.place.linear.column(column) : a.place.translation;
    for (const double number : {v.x, v.y, v.z, column < 3 ? 0.0 : 1.0}) matrix.push_back(number);
  }
  j["world_matrix"] = matrix;
  return j;
}

std::string answer_json(const Answer& answer) { return to_json(answer).dump(2) + "\n"; }

std::string answer_value(const Answer& answer, const std::string& key) {
  return value_at(to_json(answer), key);
}

}  // namespace jolly_iris
