#include "jolly_iris/handoff.hpp"

#include <cmath>
#include <nlohmann/json.hpp>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"

namespace jolly_iris {

namespace {

using Json = nlohmann::ordered_json;

Json finite(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }

Json subject_json(const SubjectBlur& s) {
  Json j{{"name", s.name},
         {"axial_m", finite(s.axial.m())},
         {"radial_m", finite(s.radial.m())},
         {"tape_m", finite(s.tape.m())},
         {"front_m", finite(s.front.m())},
         {"back_m", finite(s.back.m())},
         {"coc_mm", s.coc.mm()},
         {"coc_px", s.coc_px},
         {"coc_front_px", s.coc_front_px ? Json(*s.coc_front_px) : Json(nullptr)},
         {"coc_back_px", s.coc_back_px},
         {"sharp", s.sharp},
         {"partly_sharp", s.partly_sharp},
         {"in_picture", s.in_picture}};
  if (s.size_px) j["size_px"] = *s.size_px;
  if (s.depth_code) j["depth_code"] = finite(*s.depth_code);
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
  return j;
}

Json camera_json(const Answer& a) {
  const VirtualCamera& c = a.camera;
  return {{"focal_mm", c.focal.mm()},
          {"f_number", c.f_number},
          {"aperture_radius_mm", c.aperture_radius.mm()},
          {"aperture_radius_units", c.aperture_radius / a.unit},
          {"gate_mm", {c.gate.width.mm(), c.gate.height.mm()}},
          {"fov_deg", {c.field_of_view_wide().degrees(), c.field_of_view_high().degrees()}},
          {"picture_mm", {c.picture.width.mm(), c.picture.height.mm()}},
          {"picture_fov_deg", {c.picture_view_wide().degrees(), c.picture_view_high().degrees()}},
          {"shift_mm", {c.shift_right.mm(), c.shift_up.mm()}},
          {"pupil_to_sensor_mm", c.pupil_to_sensor.mm()},
          {"focus_m", finite(c.focus.m())},
          {"focus_units", finite(c.focus / a.unit)},
          {"magnification", c.magnification},
          {"pixels", {c.pixels.width, c.pixels.height}},
          {"squeeze", c.squeeze},
          {"aperture_wide_to_high", c.pupil_aspect()},
          {"iris", iris_json(c.iris)}};
}

Json to_json(const Answer& a) {
  Json j;
  if (a.frame) j["frame"] = *a.frame;
  j["camera"] = camera_json(a);
  j["camera"]["mark_m"] = a.mark ? finite(a.mark->m()) : Json(nullptr);
  j["camera"]["margin_px"] = {a.margin.beside, a.margin.above};
  j["lens"] = {{"focal_mm", a.camera.lens_focal.mm()},
               {"f_number", a.camera.lens_f_number},
               {"t_number", a.camera.lens_t_number}};
  j["sharpness"] = {{"coc_limit_mm", a.coc_limit.mm()},
                    {"near_m", finite(a.sharp.near.m())},
                    {"far_m", finite(a.sharp.far.m())},
                    {"hyperfocal_m", finite(a.hyperfocal.m())}};
  j["subjects"] = Json::array();
  for (const SubjectBlur& s : a.subjects) j["subjects"].push_back(subject_json(s));
  j["subjects"].push_back(subject_json(a.infinity));
  j["exposure"] = {
      {"ev100", a.ev100 ? Json(*a.ev100) : Json(nullptr)},
      {"shutter_s", a.shutter ? Json(a.shutter->seconds()) : Json(nullptr)},
      {"shutter_deg", a.shutter_angle ? Json(a.shutter_angle->degrees()) : Json(nullptr)}};
  j["focus"] = a.focus_said;
  j["scale"] = Json::array();
  for (const ScaleFinding& f : a.scale) {
    j["scale"].push_back({{"name", f.name}, {"factor", f.factor}, {"said", f.said}});
  }
  j["notes"] = a.notes;
  j["origins"] = Json::object();
  for (const auto& [key, origin] : a.origins) {
    j["origins"][key] = {
        {"from", to_string(origin.source)}, {"at", origin.place}, {"value", origin.text}};
  }
  Json matrix = Json::array();
  for (int column = 0; column < 4; ++column) {
    for (int row = 0; row < 4; ++row) matrix.push_back(a.place.matrix()(row, column));
  }
  j["world_matrix"] = matrix;
  return j;
}

std::string dumped(const Json& j) {
  return j.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

// What is one step below a value: an object's key, or a list's number or name.
const Json* child(const Json& at, const std::string& part) {
  if (at.is_object()) return at.contains(part) ? &at.at(part) : nullptr;
  if (!at.is_array()) return nullptr;
  for (const Json& item : at) {
    if (item.is_object() && item.value("name", "") == part) return &item;
  }
  const bool digits =
      !part.empty() && part.size() < 6 && part.find_first_not_of("0123456789") == std::string::npos;
  if (!digits || std::stoul(part) >= at.size()) return nullptr;
  return &at.at(std::stoul(part));
}

std::vector<std::string> children(const Json& at, const std::string& prefix) {
  std::vector<std::string> names;
  for (const auto& [key, value] : at.items()) {
    const bool named = value.is_object() && value.contains("name");
    names.push_back(prefix + (named ? value.at("name").get<std::string>() : key));
  }
  return names;
}

}  // namespace

std::string answer_json(const Answer& answer) { return dumped(to_json(answer)); }

std::string answer_value(const Answer& answer, const std::string& key) {
  return json_value(answer_json(answer), key);
}

std::string json_value(const std::string& json, const std::string& key) {
  const Json all = Json::parse(json);
  const Json* at = &all;
  std::string walked;
  std::size_t from = 0;
  while (from <= key.size()) {
    // A subject's name may hold dots itself, so the longest part that fits is taken.
    const Json* next = nullptr;
    std::size_t end = key.size();
    for (;; end = key.rfind('.', end - 1)) {
      if (end == std::string::npos || end <= from) break;
      next = child(*at, key.substr(from, end - from));
      if (next != nullptr || end == 0) break;
    }
    if (next == nullptr) {
      const auto known = at->is_structured() ? children(*at, walked) : std::vector<std::string>{};
      throw UsageError("--only " + key + ": there is no such value." + did_you_mean(key, known));
    }
    walked = key.substr(0, end) + ".";
    at = next;
    from = end + 1;
  }
  if (at->is_structured() && !at->is_array()) {
    throw UsageError("--only " + key + ": that is a group; add one of its keys." +
                     did_you_mean(walked, children(*at, walked)));
  }
  if (at->is_null()) return "infinity";
  if (at->is_string()) return at->get<std::string>();
  return at->dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::string camera_gltf(const Answer& answer, const std::string& name) {
  const VirtualCamera& c = answer.camera;
  // It frames the picture, which need not be quite the gate's shape.
  const double aspect = c.picture.width / c.picture.height;
  const double yfov = c.picture_view_high().radians();
  Json extras = camera_json(answer);
  extras["lens_focal_mm"] = c.lens_focal.mm();
  extras["lens_f_number"] = c.lens_f_number;
  Json matrix = Json::array();
  for (int column = 0; column < 4; ++column) {
    for (int row = 0; row < 4; ++row) matrix.push_back(answer.place.matrix()(row, column));
  }
  const Json gltf{
      {"asset", {{"version", "2.0"}, {"generator", "Jolly Iris"}}},
      {"scene", 0},
      {"scenes", Json::array({{{"nodes", {0}}}})},
      {"nodes", Json::array({{{"name", name}, {"camera", 0}, {"matrix", matrix}}})},
      {"cameras",
       Json::array({{{"name", name},
                     {"type", "perspective"},
                     {"perspective", {{"yfov", yfov}, {"aspectRatio", aspect}, {"znear", 0.01}}},
                     {"extras", extras}}})}};
  return dumped(gltf);
}

}  // namespace jolly_iris
