#include "jolly_iris/files/usda.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "scene_camera.hpp"
#include "scene_names.hpp"
#include "usda_polar.hpp"
#include "usda_text.hpp"

namespace jolly_iris {

namespace {

using usda::Attribute;
using usda::Prim;
using usda::Value;

constexpr double a_degree = std::numbers::pi / 180.0;

void flatten(const Value& value, std::vector<double>& into) {
  if (const auto* number = std::get_if<double>(&value.data)) into.push_back(*number);
  if (const auto* list = std::get_if<std::vector<Value>>(&value.data)) {
    for (const Value& item : *list) flatten(item, into);
  }
}

struct Reading {
  std::string file;
  double metres = 0.01;  // the schema's own default: centimetres
  bool z_up = false;
  double start = 0.0;
  double codes_a_second = 24.0;
  std::optional<double> time_code;
  std::size_t baked = 0;  // time codes so far
  Scene scene;

  [[noreturn]] void refuse(int line, const std::string& why) const {
    throw FileError(fmt::format("{}:{}: {}", file, line, why));
  }

  std::vector<double> numbers(const Value& value, std::size_t count,
                              const std::string& what) const {
    std::vector<double> out;
    flatten(value, out);
    if (out.size() != count) {
      refuse(value.line, fmt::format("{} has {} numbers; it needs {}", what, out.size(), count));
    }
    return out;
  }

  // An attribute's numbers at a time: linear between samples, held outside them.
  std::vector<double> at(const Attribute& a, double code, std::size_t count,
                         const std::string& what) const {
    if (a.samples.empty()) return numbers(a.value, count, what);
    const auto after = a.samples.lower_bound(code);
    if (after == a.samples.end()) return numbers(a.samples.rbegin()->second, count, what);
    if (after == a.samples.begin() || after->first == code) {
      return numbers(after->second, count, what);
    }
    const auto before = std::prev(after);
    std::vector<double> from = numbers(before->second, count, what);
    const std::vector<double> to = numbers(after->second, count, what);
    const double t = (code - before->first) / (after->first - before->first);
    for (std::size_t i = 0; i < count; ++i) from[i] = (1.0 - t) * from[i] + t * to[i];
    return from;
  }
};

bool is_rotation_order(const std::string& kind) {
  static const std::set<std::string> orders{"rotateXYZ", "rotateXZY", "rotateYXZ",
                                            "rotateYZX", "rotateZXY", "rotateZYX"};
  return orders.contains(kind);
}

Vec3 vec3_of(const std::vector<double>& v) { return {v[0], v[1], v[2]}; }

Vec3 axis_of(char letter) {
  return letter == 'X' ? Vec3::unit_x() : letter == 'Y' ? Vec3::unit_y() : Vec3::unit_z();
}

Affine op_at(const Reading& in, const Prim& prim, const std::string& name, double code) {
  const auto found = prim.attributes.find(name);
  if (found == prim.attributes.end()) {
    in.refuse(prim.line,
              fmt::format("xformOpOrder of '{}' names {}, which is not there", prim.name, name));
  }
  const Attribute& a = found->second;
  const std::string what = fmt::format("{} of '{}'", name, prim.name);
  // "xformOp:rotateXYZ:rig" → "rotateXYZ"
  const std::string rest = name.substr(name.find(':') + 1);
  const std::string kind = rest.substr(0, rest.find(':'));
  auto op = Affine{};
  if (kind == "translate") {
    op.translation = vec3_of(in.at(a, code, 3, what));
  } else if (kind == "scale") {
    op.linear = Matrix3::scaling(vec3_of(in.at(a, code, 3, what)));
  } else if (kind == "rotateX" || kind == "rotateY" || kind == "rotateZ") {
    op = op.turned(Quaternion::about(axis_of(kind.back()), in.at(a, code, 1, what)[0] * a_degree));
  } else if (is_rotation_order(kind)) {
    // The first letter's turn is applied first to a point.
    const auto angles = in.at(a, code, 3, what);
    for (std::size_t i = 3; i-- > 0;) {
      const char letter = kind[6 + i];
      op = op.turned(Quaternion::about(axis_of(letter),
                                       angles[static_cast<std::size_t>(letter - 'X')] * a_degree));
    }
  } else if (kind == "orient") {
    const auto q = in.at(a, code, 4, what);  // real part first
    const Quaternion turn{q[0], q[1], q[2], q[3]};
    if (turn.length() > 1e-12) op = op.turned(turn.normalized());
  } else if (kind == "transform") {
    const auto m = in.at(a, code, 16, what);  // rows act on row vectors: the transpose of ours
    op.linear = {{Vec3{m[0], m[1], m[2]}, Vec3{m[4], m[5], m[6]}, Vec3{m[8], m[9], m[10]}}};
    op.translation = {m[12], m[13], m[14]};
  } else {
    in.refuse(a.line, fmt::format("{} is a transform we do not know; translate, rotate…, orient, "
                                  "scale and transform are",
                                  what));
  }
  return op;
}

std::vector<std::string> op_order(const Reading& in, const Prim& prim) {
  std::vector<std::string> order;
  const auto found = prim.attributes.find("xformOpOrder");
  if (found == prim.attributes.end()) return order;
  const auto* list = std::get_if<std::vector<Value>>(&found->second.value.data);
  if (list == nullptr) return order;
  for (const Value& item : *list) {
    const auto* name = std::get_if<std::string>(&item.data);
    if (name == nullptr) in.refuse(item.line, "xformOpOrder is a list of names");
    if (name->starts_with("!")) {
      in.refuse(item.line, fmt::format("{} in xformOpOrder is not supported; bake the camera's "
                                       "transform to a matrix",
                                       *name));
    }
    order.push_back(*name);
  }
  return order;
}

void place(Reading& in, const Prim& prim, std::size_t index) {
  Node& node = in.scene.nodes[index];
  const std::vector<std::string> order = op_order(in, prim);
  std::set<double> codes;
  for (const std::string& op : order) {
    const auto found = prim.attributes.find(op);
    if (found == prim.attributes.end()) continue;
    for (const auto& [code, value] : found->second.samples) codes.insert(code);
  }
  const auto local_at = [&](double code) {
    auto local = Affine{};
    for (const std::string& op : order) local = local * op_at(in, prim, op, code);
    return local;
  };
  if (codes.size() < 2) {
    node.matrix = local_at(codes.empty() ? in.start : *codes.begin());
    return;
  }
  // Ops are interpolated each by itself, which no one channel can follow: bake every time code.
  constexpr double max = 1e5;
  if (*codes.rbegin() - *codes.begin() < max) {
    for (double code = std::ceil(*codes.begin()); code < *codes.rbegin(); ++code) {
      codes.insert(code);
    }
  }
  // A short file can ask for many: of two samples far apart, for each of its prims.
  constexpr std::size_t most_baked = 2'000'000;
  in.baked += codes.size();
  if (in.baked > most_baked) {
    in.refuse(prim.line, fmt::format("its moves have more than {} time codes in all, too many to "
                                     "hold; keep the camera and what stands before it",
                                     most_baked));
  }
  std::array<Channel, 3> channels;
  channels[0].path = Channel::Path::translation;
  channels[1].path = Channel::Path::rotation;
  channels[2].path = Channel::Path::scale;
  for (const double code : codes) {
    const Affine local = local_at(code);
    const usda::Polar parts = usda::polar(local.linear);
    const Vec3& move = local.translation;
    const Quaternion turn = Quaternion::from(parts.rotation);
    channels[0].values.push_back({move.x, move.y, move.z, 0.0});
    channels[1].values.push_back({turn.x, turn.y, turn.z, turn.w});
    channels[2].values.push_back({parts.scale.x, parts.scale.y, parts.scale.z, 0.0});
    for (Channel& c : channels) {
      c.node = index;
      c.times.push_back((code - in.start) / in.codes_a_second);
    }
  }
  for (Channel& c : channels) in.scene.channels.push_back(std::move(c));
}

SceneCamera camera_of(const Reading& in, const Prim& prim) {
  const auto number = [&](const char* name, double otherwise) {
    const auto found = prim.attributes.find(name);
    if (found == prim.attributes.end()) return otherwise;
    const Attribute& a = found->second;
    if (a.samples.empty() && std::holds_alternative<std::monostate>(a.value.data)) return otherwise;
    return in.at(a, in.time_code.value_or(in.start), 1,
                 fmt::format("{} of '{}'", name, prim.name))[0];
  };
  SceneCamera camera;
  camera.name = prim.name;
  if (const auto p = prim.attributes.find("projection"); p != prim.attributes.end()) {
    const auto* word = std::get_if<std::string>(&p->second.value.data);
    if (word != nullptr && *word == "orthographic") {
      camera.projection = SceneCamera::Projection::orthographic;
      return camera;
    }
  }
  // The schema's defaults, and its tenths of a scene unit.
  const double mm = in.metres * 1000.0 / 10.0;
  const double focal = number("focalLength", 50.0) * mm;
  camera.gate_width_mm = number("horizontalAperture", 20.955) * mm;
  camera.gate_height_mm = number("verticalAperture", 15.2908) * mm;
  if (!(focal > 0.0 && *camera.gate_width_mm > 0.0 && *camera.gate_height_mm > 0.0)) {
    in.refuse(prim.line,
              fmt::format("the camera '{}' has a focal length or an aperture that is not "
                          "above zero",
                          prim.name));
  }
  camera.shift_right_mm = number("horizontalApertureOffset", 0.0) * mm;
  camera.shift_up_mm = number("verticalApertureOffset", 0.0) * mm;
  camera.yfov = 2.0 * std::atan(*camera.gate_height_mm / (2.0 * focal));
  camera.aspect = *camera.gate_width_mm / *camera.gate_height_mm;
  if (const double f = number("fStop", 0.0); f > 0.0) camera.f_number = f;
  if (const double d = number("focusDistance", 0.0); d > 0.0) camera.focus_m = d * in.metres;
  if (const std::string why = unusual(camera); !why.empty()) {
    in.refuse(prim.line, fmt::format("the camera '{}' has {}", prim.name, why));
  }
  return camera;
}

void add(Reading& in, const Prim& prim, std::size_t parent) {
  const std::size_t index = in.scene.nodes.size();
  Node node;
  node.name = prim.name;
  node.parent = parent;
  if (prim.type == "Camera") {
    node.camera = in.scene.cameras.size();
    in.scene.cameras.push_back(camera_of(in, prim));
  }
  in.scene.nodes[parent].children.push_back(index);
  in.scene.nodes.push_back(std::move(node));
  place(in, prim, index);
  for (const Prim& child : prim.children) add(in, child, index);
}

void read_stage(Reading& in, const std::map<std::string, Value>& metadata) {
  const auto number = [&](const char* key, double otherwise) {
    const auto found = metadata.find(key);
    if (found == metadata.end()) return otherwise;
    return in.numbers(found->second, 1, key)[0];
  };
  in.metres = number("metersPerUnit", in.metres);
  in.scene.metres_per_unit = in.metres;
  in.start = number("startTimeCode", 0.0);
  in.codes_a_second = number("timeCodesPerSecond", number("framesPerSecond", 24.0));
  if (!(in.metres > 0.0 && in.codes_a_second > 0.0)) {
    in.refuse(1, "metersPerUnit and timeCodesPerSecond are above zero");
  }
  const auto up = metadata.find("upAxis");
  const auto* word = up == metadata.end() ? nullptr : std::get_if<std::string>(&up->second.data);
  in.z_up = word != nullptr && *word == "Z";
}

}  // namespace

Scene read_usda(const std::filesystem::path& path, std::optional<double> time_code) {
  Reading in;
  in.file = path.string();
  in.time_code = time_code;
  in.scene.file = in.file;
  in.scene.files.push_back(in.file);
  const usda::Stage stage = usda::parse(read_whole_file(path), in.file);
  read_stage(in, stage.metadata);
  Node root;  // turns the stage's units and up axis into ours
  root.matrix = Affine{Matrix3::scaling(in.metres), {}};
  if (in.z_up)
    root.matrix = root.matrix->turned(Quaternion::about(Vec3::unit_x(), -90.0 * a_degree));
  in.scene.nodes.push_back(root);
  for (const Prim& prim : stage.prims) add(in, prim, 0);
  name_apart(in.scene);
  pose(in.scene, 0.0);
  return std::move(in.scene);
}

}  // namespace jolly_iris
