#include "jolly_iris/handoff.hpp"

#include <cmath>
#include <cstdint>
#include <nlohmann/json.hpp>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"
#include "jolly_iris/undistort.hpp"

namespace jolly_iris {

namespace {

using Json = nlohmann::ordered_json;

Json finite(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }

Json subject_json(const SubjectBlur& s) {
  Json j{{"name", s.name},
         {"axial_m", finite(s.axial.m())},
         {"radial_m", finite(s.radial.m())},
         {"tape_m", finite(s.tape.m())},
         {"mark_m", s.mark ? finite(s.mark->m()) : Json(nullptr)},
         {"floor_m", s.floor ? finite(s.floor->m()) : Json(nullptr)},
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
  const auto some = [&](const char* key, double value) {
    if (value != 0.0) j[key] = value;
  };
  some("uneven", iris.uneven);
  some("obstruction", iris.obstruction);
  some("rim_stops", iris.rim);
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
  for (const BarrelRim& rim : c.barrel) {
    j["barrel"].push_back({{"radius_mm", rim.radius.mm()}, {"ahead_mm", rim.ahead.mm()}});
  }
  const LensFaults& f = c.faults;
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
  if (c.distortion.wide) j["wide"] = *c.distortion.wide;
  return j;
}

Json camera_json(const Answer& a) {
  const VirtualCamera& c = a.camera;
  Json j{{"focal_mm", c.focal.mm()},
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
  j["exposure"] = exposure_json(a);
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

namespace {

// RFC 4648.
std::string base64(const std::string& bytes) {
  constexpr std::string_view letters =
      "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string out;
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    std::uint32_t group = 0;
    for (std::size_t k = 0; k < 3; ++k) {
      const auto byte = i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U;
      group = group << 8U | byte;
    }
    for (std::size_t k = 0; k < 4; ++k) {
      const bool filling = i + k > bytes.size();
      out.push_back(filling ? '=' : letters[group >> (18U - 6U * k) & 63U]);
    }
  }
  return out;
}

// The camera's way over frames as an animation: times, places and turns one behind the other.
void add_motion(Json& gltf, const std::vector<Answer>& frames, double fps) {
  std::string bytes;
  const auto put = [&](double v) {
    const auto f = static_cast<float>(v);
    bytes.append(reinterpret_cast<const char*>(&f), sizeof f);
  };
  const double first = frames.front().frame.value_or(0.0);
  const auto seconds = [&](const Answer& a) { return (a.frame.value_or(0.0) - first) / fps; };
  for (const Answer& a : frames) put(seconds(a));
  for (const Answer& a : frames) {
    for (int i = 0; i < 3; ++i) put(a.place.translation()[i]);
  }
  Eigen::Quaterniond before = Eigen::Quaterniond::Identity();
  for (const Answer& a : frames) {
    Eigen::Quaterniond turn(a.place.linear());
    if (turn.dot(before) < 0.0) turn.coeffs() *= -1.0;  // the short way
    for (int i = 0; i < 4; ++i) put(turn.coeffs()[i]);
    before = turn;
  }
  const std::size_t n = frames.size();
  const auto view = [&](std::size_t offset, std::size_t length) {
    return Json{{"buffer", 0}, {"byteOffset", offset}, {"byteLength", length}};
  };
  const auto accessor = [&](int index, const char* type) {
    return Json{{"bufferView", index}, {"componentType", 5126}, {"count", n}, {"type", type}};
  };
  Json times = accessor(0, "SCALAR");
  times["min"] = {0.0};
  times["max"] = {static_cast<double>(static_cast<float>(seconds(frames.back())))};
  gltf["animations"] =
      Json::array({{{"name", "camera move"},
                    {"samplers",
                     {{{"input", 0}, {"output", 1}, {"interpolation", "LINEAR"}},
                      {{"input", 0}, {"output", 2}, {"interpolation", "LINEAR"}}}},
                    {"channels",
                     {{{"sampler", 0}, {"target", {{"node", 0}, {"path", "translation"}}}},
                      {{"sampler", 1}, {"target", {{"node", 0}, {"path", "rotation"}}}}}}}});
  gltf["accessors"] = Json::array({times, accessor(1, "VEC3"), accessor(2, "VEC4")});
  gltf["bufferViews"] = Json::array({view(0, 4 * n), view(4 * n, 12 * n), view(16 * n, 16 * n)});
  gltf["buffers"] =
      Json::array({{{"byteLength", bytes.size()},
                    {"uri", "data:application/octet-stream;base64," + base64(bytes)}}});
}

}  // namespace

std::string camera_gltf(const std::vector<Answer>& frames, const std::string& name,
                        std::optional<double> fps) {
  if (frames.empty()) throw UsageError("a camera without a single frame cannot be written");
  const Answer& answer = frames.front();
  const VirtualCamera& c = answer.camera;
  // It frames the picture, which need not be quite the gate's shape.
  const double aspect = c.picture.width / c.picture.height;
  const double yfov = c.picture_view_high().radians();
  Json extras = camera_json(answer);
  extras["lens_focal_mm"] = c.lens_focal.mm();
  extras["lens_f_number"] = c.lens_f_number;
  const Eigen::Quaterniond turn(answer.place.linear());
  const Eigen::Vector3d at = answer.place.translation();
  Json gltf{
      {"asset", {{"version", "2.0"}, {"generator", "Jolly Iris"}}},
      {"scene", 0},
      {"scenes", Json::array({{{"nodes", {0}}}})},
      {"nodes", Json::array({{{"name", name},
                              {"camera", 0},
                              {"translation", {at.x(), at.y(), at.z()}},
                              {"rotation", {turn.x(), turn.y(), turn.z(), turn.w()}}}})},
      {"cameras",
       Json::array({{{"name", name},
                     {"type", "perspective"},
                     {"perspective", {{"yfov", yfov}, {"aspectRatio", aspect}, {"znear", 0.01}}},
                     {"extras", extras}}})}};
  if (frames.size() > 1) add_motion(gltf, frames, fps.value_or(24.0));
  return dumped(gltf);
}

}  // namespace jolly_iris
