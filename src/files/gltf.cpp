#include "jolly_iris/files/gltf.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "gltf_animation.hpp"
#include "gltf_model.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/range.hpp"
#include "scene_camera.hpp"
#include "scene_names.hpp"

namespace jolly_iris {

namespace {

using gltf::CheckedModel;

Vec3f colour(const std::vector<double>& v, const Vec3f& otherwise) {
  if (v.size() < 3) return otherwise;
  return {static_cast<float>(v[0]), static_cast<float>(v[1]), static_cast<float>(v[2])};
}

// A number in extras or an extension: whole numbers and fractions are the same to us, text is not.
double number(const CheckedModel& m, const tinygltf::Value& object, const char* key,
              double otherwise, double min, const std::string& what) {
  if (!object.IsObject() || !object.Has(key)) return otherwise;
  const tinygltf::Value& v = object.Get(key);
  const double value = v.IsNumber() ? v.GetNumberAsDouble() : std::nan("");
  if (!range::entry.holds(value) || value < min) {
    throw FileError(fmt::format("{}: {} has a {} that is not a number of {:g} or more", m.file,
                                what, key, min));
  }
  return value;
}

Vec3f extras_colour(const CheckedModel& m, const tinygltf::Value& extras, const char* key) {
  Vec3f c = Vec3f{};
  if (!extras.IsObject() || !extras.Has(key)) return c;
  const tinygltf::Value& v = extras.Get(key);
  for (int i = 0; i < 3; ++i) {
    const bool good = v.IsArray() && v.Size() == 3 && v.Get(i).IsNumber();
    const double value = good ? v.Get(i).GetNumberAsDouble() : std::nan("");
    if (!(value >= 0.0) || !range::entry.holds(value)) {
      throw FileError(
          fmt::format("{}: the scene's extras.{} should be three numbers ≥ 0", m.file, key));
    }
    c[static_cast<std::size_t>(i)] = static_cast<float>(value);
  }
  return c;
}

bool is_negative(const Vec3f& colour) { return std::min({colour.x, colour.y, colour.z}) < 0.0F; }

Material read_material(const CheckedModel& m, const tinygltf::Material& from) {
  Material material;
  material.name = from.name;
  const std::string what = fmt::format("material '{}'", from.name);
  material.base = colour(from.pbrMetallicRoughness.baseColorFactor, material.base);
  double strength = 1.0;
  if (const auto e = from.extensions.find("KHR_materials_emissive_strength");
      e != from.extensions.end()) {
    strength = number(m, e->second, "emissiveStrength", 1.0, 0.0, what);
  }
  material.emission = colour(from.emissiveFactor, material.emission) * static_cast<float>(strength);
  material.point_diameter_m =
      number(m, from.extras, "point_diameter_m", material.point_diameter_m, 1e-6, what);
  material.line_width_m = number(m, from.extras, "line_width_m", material.line_width_m, 1e-6, what);
  const bool good = material.base.is_finite() && material.emission.is_finite() &&
                    !is_negative(material.base) && !is_negative(material.emission);
  if (!good) {
    throw FileError(fmt::format("{}: {} has a colour that is negative or no number", m.file, what));
  }
  return material;
}

std::vector<std::array<std::uint32_t, 3>> triangles_of(int mode,
                                                       const std::vector<std::uint32_t>& index) {
  std::vector<std::array<std::uint32_t, 3>> out;
  const std::size_t n = index.size();
  for (std::size_t i = 0; i + 2 < n; mode == TINYGLTF_MODE_TRIANGLES ? i += 3 : ++i) {
    if (mode == TINYGLTF_MODE_TRIANGLE_FAN) {
      out.push_back({index[0], index[i + 1], index[i + 2]});
    } else if (mode == TINYGLTF_MODE_TRIANGLE_STRIP && i % 2 == 1) {
      out.push_back({index[i + 1], index[i], index[i + 2]});
    } else {
      out.push_back({index[i], index[i + 1], index[i + 2]});
    }
  }
  return out;
}

std::vector<std::array<std::uint32_t, 2>> lines_of(int mode,
                                                   const std::vector<std::uint32_t>& index) {
  std::vector<std::array<std::uint32_t, 2>> out;
  const std::size_t n = index.size();
  for (std::size_t i = 0; i + 1 < n; mode == TINYGLTF_MODE_LINE ? i += 2 : ++i) {
    out.push_back({index[i], index[i + 1]});
  }
  if (mode == TINYGLTF_MODE_LINE_LOOP && n > 2) out.push_back({index.back(), index.front()});
  return out;
}

std::vector<std::uint32_t> indices_of(const CheckedModel& m, const tinygltf::Primitive& from,
                                      std::size_t vertices, const std::string& what) {
  std::vector<std::uint32_t> index;
  if (from.indices < 0) {
    for (std::uint32_t i = 0; i < vertices; ++i) index.push_back(i);
    return index;
  }
  index = gltf::read_indices(m, from.indices);
  for (const std::uint32_t i : index) {
    if (i >= vertices) {
      throw FileError(
          fmt::format("{}: {} uses vertex {}, but there are {}", m.file, what, i, vertices));
    }
  }
  return index;
}

std::optional<Primitive> read_primitive(const CheckedModel& m, const tinygltf::Primitive& from,
                                        const std::string& what) {
  const int mode = from.mode < 0 ? TINYGLTF_MODE_TRIANGLES : from.mode;
  const bool points = mode == TINYGLTF_MODE_POINTS;
  const bool faces = mode == TINYGLTF_MODE_TRIANGLES || mode == TINYGLTF_MODE_TRIANGLE_STRIP ||
                     mode == TINYGLTF_MODE_TRIANGLE_FAN;
  const bool lines = mode == TINYGLTF_MODE_LINE || mode == TINYGLTF_MODE_LINE_LOOP ||
                     mode == TINYGLTF_MODE_LINE_STRIP;
  const auto position = from.attributes.find("POSITION");
  if ((!points && !faces && !lines) || position == from.attributes.end()) return std::nullopt;
  Primitive p;
  p.kind = points  ? Primitive::Kind::points
           : lines ? Primitive::Kind::lines
                   : Primitive::Kind::triangles;
  p.positions = gltf::read_vectors(m, position->second);
  const auto optional = [&](const char* name, std::vector<Vec3f>& into) {
    const auto found = from.attributes.find(name);
    if (found == from.attributes.end()) return;
    into = gltf::read_vectors(m, found->second);
    if (into.size() != p.positions.size()) {
      throw FileError(fmt::format("{}: {} has {} positions but {} of {}", m.file, what,
                                  p.positions.size(), into.size(), name));
    }
  };
  optional("NORMAL", p.normals);
  optional("COLOR_0", p.colours);
  if (faces) {
    p.triangles = triangles_of(mode, indices_of(m, from, p.positions.size(), what));
  }
  if (lines) p.lines = lines_of(mode, indices_of(m, from, p.positions.size(), what));
  if (from.material >= 0) p.material = static_cast<std::size_t>(from.material);
  return p;
}

Mesh read_mesh(const CheckedModel& m, const tinygltf::Mesh& from) {
  Mesh mesh;
  mesh.name = from.name;
  for (std::size_t i = 0; i < from.primitives.size(); ++i) {
    auto p =
        read_primitive(m, from.primitives[i], fmt::format("mesh '{}' primitive {}", from.name, i));
    if (!p) continue;
    for (const Vec3f& v : p->positions) mesh.bounds.extend(Vec3(v));
    mesh.primitives.push_back(std::move(*p));
  }
  return mesh;
}

Vec3 vector(const std::vector<double>& v) { return {v[0], v[1], v[2]}; }

void read_transform(const tinygltf::Node& from, Node& node) {
  if (from.matrix.size() == 16) {
    const auto& m = from.matrix;  // column by column, as ours
    node.matrix =
        Affine{{{Vec3{m[0], m[1], m[2]}, Vec3{m[4], m[5], m[6]}, Vec3{m[8], m[9], m[10]}}},
               {m[12], m[13], m[14]}};
    return;
  }
  if (from.translation.size() == 3) node.translation = vector(from.translation);
  if (from.rotation.size() == 4) {
    const auto& q = from.rotation;  // glTF: x, y, z, w
    const Quaternion turn{q[3], q[0], q[1], q[2]};
    if (turn.length() > 1e-12) node.rotation = turn.normalized();
  }
  if (from.scale.size() == 3) node.scale = vector(from.scale);
}

SceneCamera read_camera(const CheckedModel& m, const tinygltf::Camera& from) {
  SceneCamera camera;
  camera.name = from.name;
  if (from.type == "orthographic") {
    camera.projection = SceneCamera::Projection::orthographic;
    return camera;
  }
  camera.yfov = from.perspective.yfov;
  if (from.perspective.aspectRatio > 0.0) camera.aspect = from.perspective.aspectRatio;
  // What core glTF has no word for, as our own handoff writes it (docs/report-json.md).
  const std::string what = "camera '" + from.name + "'";
  const auto extra = [&](const char* key) -> std::optional<double> {
    const double v = number(m, from.extras, key, -1.0, 1e-12, what);
    return v > 0.0 ? std::optional(v) : std::nullopt;
  };
  if (from.extras.IsObject() && from.extras.Has("focus_m") &&
      from.extras.Get("focus_m").IsNumber()) {
    camera.focus_m = extra("focus_m");
  }
  camera.f_number = extra("f_number");
  if (const auto focal = extra("focal_mm")) {
    camera.gate_height_mm = 2.0 * *focal * std::tan(camera.yfov / 2.0);
    if (camera.aspect) camera.gate_width_mm = *camera.gate_height_mm * *camera.aspect;
  }
  if (const std::string why = unusual(camera); !why.empty()) {
    throw FileError(fmt::format("{}: {} has {}", m.file, what, why));
  }
  return camera;
}

std::optional<std::size_t> light_of(const CheckedModel& m, const tinygltf::Node& node,
                                    const Scene& scene) {
  const auto e = node.extensions.find("KHR_lights_punctual");
  if (e == node.extensions.end()) return std::nullopt;
  const double index = number(m, e->second, "light", -1.0, 0.0, "node '" + node.name + "'");
  if (index < 0.0 || index >= static_cast<double>(scene.lights.size())) {
    throw FileError(fmt::format("{}: node '{}' points at light {}, but there are {}", m.file,
                                node.name, index, scene.lights.size()));
  }
  return static_cast<std::size_t>(index);
}

Light read_light(const CheckedModel& m, const tinygltf::Light& from) {
  Light light;
  light.kind = from.type == "directional" ? Light::Kind::directional
               : from.type == "spot"      ? Light::Kind::spot
                                          : Light::Kind::point;
  light.intensity = colour(from.color, Vec3f::all(1.0F)) * static_cast<float>(from.intensity);
  light.range_m = std::isfinite(from.range) ? std::max(0.0, from.range) : 0.0;
  light.inner_cone = from.spot.innerConeAngle;
  light.outer_cone = from.spot.outerConeAngle;
  const bool good = light.intensity.is_finite() && !is_negative(light.intensity) &&
                    light.inner_cone >= 0.0 && light.outer_cone >= light.inner_cone;
  if (!good) {
    throw FileError(
        fmt::format("{}: light '{}' has an intensity or a cone that cannot be", m.file, from.name));
  }
  return light;
}

Scene to_scene(const CheckedModel& m) {
  Scene scene;
  scene.file = m.file;
  scene.files.push_back(m.file);
  const auto folder = std::filesystem::path(m.file).parent_path();
  for (const tinygltf::Buffer& b : m.model.buffers) {
    const bool beside = !b.uri.empty() && !b.uri.starts_with("data:");
    if (beside) scene.files.push_back((folder / b.uri).string());
  }
  for (const auto& from : m.model.materials) scene.materials.push_back(read_material(m, from));
  for (const auto& from : m.model.meshes) scene.meshes.push_back(read_mesh(m, from));
  for (const auto& from : m.model.lights) scene.lights.push_back(read_light(m, from));
  for (const auto& from : m.model.cameras) scene.cameras.push_back(read_camera(m, from));
  std::vector<std::optional<std::size_t>> place(m.model.nodes.size());  // glTF node → ours
  for (const int index : m.order) {
    const auto i = static_cast<std::size_t>(index);
    const tinygltf::Node& from = m.model.nodes[i];
    Node node;
    node.name = from.name;
    read_transform(from, node);
    if (from.mesh >= 0) node.mesh = static_cast<std::size_t>(from.mesh);
    if (from.camera >= 0) node.camera = static_cast<std::size_t>(from.camera);
    node.light = light_of(m, from, scene);
    place[i] = scene.nodes.size();
    if (m.parents[i] >= 0) node.parent = place[static_cast<std::size_t>(m.parents[i])];
    if (node.parent) scene.nodes[*node.parent].children.push_back(scene.nodes.size());
    scene.nodes.push_back(std::move(node));
  }
  scene.channels = gltf::read_channels(m, place);
  name_apart(scene);
  pose(scene, 0.0);
  const int shown = m.model.defaultScene < 0 ? 0 : m.model.defaultScene;
  if (!m.model.scenes.empty()) {
    const tinygltf::Value& extras = m.model.scenes[static_cast<std::size_t>(shown)].extras;
    scene.sky = extras_colour(m, extras, "sky");
    scene.ground = extras_colour(m, extras, "ground");
  }
  return scene;
}

}  // namespace

Scene read_gltf(const std::filesystem::path& path) {
  return to_scene(gltf::load_checked(path.string()));
}

}  // namespace jolly_iris
