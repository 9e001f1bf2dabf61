#include "gltf_model.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <string_view>

#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/range.hpp"
#include "nesting.hpp"

namespace jolly_iris::gltf {

namespace {

template <class... Args>
[[noreturn]] void refuse(const std::string& file, fmt::format_string<Args...> format,
                         Args&&... args) {
  throw FileError(file + ": " + fmt::format(format, std::forward<Args>(args)...));
}

void check_index(const std::string& file, int index, std::size_t size, std::string_view what,
                 std::string_view target) {
  if (index < 0 || static_cast<std::size_t>(index) >= size) {
    refuse(file, "{} points at {} {}, but there are {}", what, target, index, size);
  }
}

std::string trimmed(std::string text) {
  while (!text.empty() && (text.back() == '\n' || text.back() == ' ')) text.pop_back();
  return text;
}

// The JSON part of a .gltf (all of it) or a .glb (its first chunk, behind 20 bytes of headers).
std::string_view json_part(std::string_view bytes) {
  constexpr std::size_t headers = 20;
  if (!bytes.starts_with("glTF")) return bytes;
  std::uint32_t length = 0;
  if (bytes.size() >= headers) std::memcpy(&length, bytes.data() + 12, sizeof length);
  return bytes.size() < headers ? std::string_view{} : bytes.substr(headers, length);
}

nlohmann::json parse_json(const std::string& file, const std::string& bytes) {
  if (json_depth(json_part(bytes)) > deepest_nesting) {
    refuse(file, "has lists within lists, more than {} deep; no scene has", deepest_nesting);
  }
  nlohmann::json json = nlohmann::json::parse(json_part(bytes), nullptr, false);
  if (json.is_discarded() || !json.is_object()) refuse(file, "is not a glTF file (no valid JSON)");
  return json;
}

// Cameras of kinds that glTF does not know are a question of optics, not of a broken file.
void check_projections(const std::string& file, const nlohmann::json& json) {
  const auto cameras = json.find("cameras");
  if (cameras == json.end() || !cameras->is_array()) return;
  for (const auto& camera : *cameras) {
    const auto type = camera.is_object() ? camera.find("type") : camera.end();
    if (!camera.is_object() || type == camera.end() || !type->is_string()) continue;
    const auto name = type->get<std::string>();
    if (name == "perspective" || name == "orthographic") continue;
    throw OpticsError(
        fmt::format("{}: has a camera of type '{}', which is out of scope: blur and framing are "
                    "computed for one rectilinear lens (perspective)",
                    file, name),
        "scene.camera");
  }
}

// Textures play no part here, and a missing picture file shall not keep a scene from being read.
std::string without_pictures(const std::string& file, nlohmann::json json) {
  for (const char* key : {"images", "textures", "samplers"}) json.erase(key);
  for (auto& material : json.value("materials", nlohmann::json::array())) {
    if (!material.is_object()) refuse(file, "has a material that is not an object");
  }
  return json.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
}

bool ignore_image(tinygltf::Image*, const int, std::string*, std::string*, int, int,
                  const unsigned char*, int, void*) {
  return true;
}

// Buffers beside the file are read as every other input is: no pipe is waited for, no device read.
bool read_beside(std::vector<unsigned char>* into, std::string* error, const std::string& path,
                 void*) {
  try {
    const std::string bytes = read_whole_file(path);
    into->assign(bytes.begin(), bytes.end());
    return true;
  } catch (const FileError& e) {
    if (error != nullptr) *error += std::string(e.what()) + "\n";
    return false;
  }
}

// Asked without opening it, which would wait at a pipe.
bool is_beside(const std::string& path, void*) {
  std::error_code error;
  return std::filesystem::exists(path, error);
}

// As much of what a reader says as a person reads: it may quote a whole buffer.
std::string shortened(const std::string& text) {
  constexpr std::size_t most = 300;
  return text.size() <= most ? text : text.substr(0, most) + " …";
}

void load(CheckedModel& m) {
  const std::string bytes = read_whole_file(m.file);
  const std::string folder = std::filesystem::path(m.file).parent_path().string();
  const nlohmann::json json = parse_json(m.file, bytes);
  check_projections(m.file, json);
  tinygltf::TinyGLTF loader;
  loader.SetImageLoader(ignore_image, nullptr);
  loader.SetFsCallbacks(
      {is_beside, tinygltf::ExpandFilePath, read_beside, tinygltf::WriteWholeFile, nullptr});
  std::string error;
  std::string warning;
  bool good = false;
  if (bytes.starts_with("glTF")) {
    good = loader.LoadBinaryFromMemory(&m.model, &error, &warning,
                                       reinterpret_cast<const unsigned char*>(bytes.data()),
                                       static_cast<unsigned>(bytes.size()), folder);
  } else {
    const std::string text = without_pictures(m.file, json);
    good = loader.LoadASCIIFromString(&m.model, &error, &warning, text.data(),
                                      static_cast<unsigned>(text.size()), folder);
  }
  if (!good || !error.empty()) {
    const std::string why = trimmed(error);
    refuse(m.file, "cannot be read as glTF 2.0: {}",
           why.empty() ? "no reason given" : shortened(why));
  }
}

void check_extensions(const CheckedModel& m) {
  constexpr std::array<std::string_view, 3> known{"KHR_materials_emissive_strength",
                                                  "KHR_lights_punctual", "KHR_materials_unlit"};
  for (const std::string& name : m.model.extensionsRequired) {
    if (std::find(known.begin(), known.end(), name) == known.end()) {
      refuse(m.file, "requires the extension {}, which is not supported; export without it", name);
    }
  }
}

void check_buffers(const CheckedModel& m) {
  const tinygltf::Model& g = m.model;
  for (std::size_t i = 0; i < g.bufferViews.size(); ++i) {
    const tinygltf::BufferView& view = g.bufferViews[i];
    check_index(m.file, view.buffer, g.buffers.size(), fmt::format("buffer view {}", i), "buffer");
    const std::size_t size = g.buffers[static_cast<std::size_t>(view.buffer)].data.size();
    if (view.byteOffset > size || view.byteLength > size - view.byteOffset) {
      refuse(m.file, "buffer view {} ends at byte {}, but buffer {} has {}", i,
             view.byteOffset + view.byteLength, view.buffer, size);
    }
  }
  for (std::size_t i = 0; i < g.accessors.size(); ++i) {
    const tinygltf::Accessor& a = g.accessors[i];
    if (a.sparse.isSparse) refuse(m.file, "accessor {} is sparse, which is not supported", i);
    if (a.bufferView < 0) continue;
    check_index(m.file, a.bufferView, g.bufferViews.size(), fmt::format("accessor {}", i),
                "buffer view");
    const tinygltf::BufferView& view = g.bufferViews[static_cast<std::size_t>(a.bufferView)];
    const int stride = a.ByteStride(view);
    const int component = tinygltf::GetComponentSizeInBytes(static_cast<uint32_t>(a.componentType));
    const int components = tinygltf::GetNumComponentsInType(static_cast<uint32_t>(a.type));
    if (stride <= 0 || component <= 0 || components <= 0) {
      refuse(m.file, "accessor {} has an unknown type", i);
    }
    const auto step = static_cast<std::size_t>(stride);
    const auto last = static_cast<std::size_t>(component) * static_cast<std::size_t>(components);
    const bool fits = a.count == 0 ||
                      (a.byteOffset <= view.byteLength && last <= view.byteLength - a.byteOffset &&
                       (a.count - 1) <= (view.byteLength - a.byteOffset - last) / step);
    if (!fits) {
      refuse(m.file, "accessor {} reads {} elements, beyond the {} bytes of its buffer view {}", i,
             a.count, view.byteLength, a.bufferView);
    }
  }
}

void check_meshes(const CheckedModel& m) {
  const tinygltf::Model& g = m.model;
  for (std::size_t i = 0; i < g.meshes.size(); ++i) {
    for (std::size_t j = 0; j < g.meshes[i].primitives.size(); ++j) {
      const tinygltf::Primitive& p = g.meshes[i].primitives[j];
      const std::string what = fmt::format("mesh {} ('{}') primitive {}", i, g.meshes[i].name, j);
      for (const auto& [name, accessor] : p.attributes) {
        check_index(m.file, accessor, g.accessors.size(), fmt::format("{} {}", what, name),
                    "accessor");
      }
      if (p.indices != -1) {
        check_index(m.file, p.indices, g.accessors.size(), what + " indices", "accessor");
      }
      if (p.material != -1) {
        check_index(m.file, p.material, g.materials.size(), what, "material");
      }
    }
  }
}

bool usual(const std::vector<double>& numbers) {
  return std::all_of(numbers.begin(), numbers.end(),
                     [](double v) { return range::entry.holds(v); });
}

void check_node(const CheckedModel& m, std::size_t i) {
  const tinygltf::Model& g = m.model;
  const tinygltf::Node& node = g.nodes[i];
  const std::string what = fmt::format("node {} ('{}')", i, node.name);
  for (const int child : node.children) {
    check_index(m.file, child, g.nodes.size(), what + " children", "node");
  }
  if (node.mesh != -1) check_index(m.file, node.mesh, g.meshes.size(), what, "mesh");
  if (node.camera != -1) check_index(m.file, node.camera, g.cameras.size(), what, "camera");
  const auto sized = [&](const std::vector<double>& v, std::size_t n, std::string_view name) {
    if (!v.empty() && v.size() != n) {
      refuse(m.file, "{} has a {} of {} numbers; it needs {}", what, name, v.size(), n);
    }
    if (!usual(v)) {
      refuse(m.file, "{} has a {} that is not all numbers {}", what, name, words_of(range::entry));
    }
  };
  sized(node.matrix, 16, "matrix");
  sized(node.translation, 3, "translation");
  sized(node.rotation, 4, "rotation");
  sized(node.scale, 3, "scale");
}

void check_cameras(const CheckedModel& m) {
  for (std::size_t i = 0; i < m.model.cameras.size(); ++i) {
    const tinygltf::Camera& c = m.model.cameras[i];
    if (c.type == "orthographic") continue;
    if (!(c.perspective.yfov > 0.0 && c.perspective.yfov < 3.1415)) {
      refuse(m.file, "camera {} ('{}') has a yfov of {:g}; it must lie between 0 and pi", i, c.name,
             c.perspective.yfov);
    }
  }
}

// Walks the scene's trees without recursion; a node met twice is a cycle or has two parents.
void order_nodes(CheckedModel& m) {
  const tinygltf::Model& g = m.model;
  m.parents.assign(g.nodes.size(), -1);
  std::vector<bool> has_parent(g.nodes.size(), false);
  for (std::size_t i = 0; i < g.nodes.size(); ++i) {
    check_node(m, i);
    for (const int child : g.nodes[i].children) {
      const auto c = static_cast<std::size_t>(child);
      if (has_parent[c]) {
        refuse(m.file, "node {} ('{}') has two parents, {} and {}; glTF nodes form a tree", child,
               g.nodes[c].name, m.parents[c], i);
      }
      has_parent[c] = true;
      m.parents[c] = static_cast<int>(i);
    }
  }
  // With at most one parent each, whoever cannot be reached from a root lies on a cycle or below.
  std::vector<int> open;
  for (std::size_t i = g.nodes.size(); i-- > 0;) {
    if (!has_parent[i]) open.push_back(static_cast<int>(i));
  }
  while (!open.empty()) {
    const int node = open.back();
    open.pop_back();
    m.order.push_back(node);
    const std::vector<int>& children = g.nodes[static_cast<std::size_t>(node)].children;
    open.insert(open.end(), children.rbegin(), children.rend());
  }
  if (m.order.size() == g.nodes.size()) return;
  std::vector<bool> reached(g.nodes.size(), false);
  for (const int node : m.order) reached[static_cast<std::size_t>(node)] = true;
  const auto lost =
      static_cast<std::size_t>(std::find(reached.begin(), reached.end(), false) - reached.begin());
  refuse(m.file, "node {} ('{}') is its own ancestor: a cycle; glTF nodes form a tree", lost,
         g.nodes[lost].name);
}

// Nodes that no scene shows are not part of it.
void keep_scene(CheckedModel& m) {
  const tinygltf::Model& g = m.model;
  for (std::size_t i = 0; i < g.scenes.size(); ++i) {
    for (const int root : g.scenes[i].nodes) {
      check_index(m.file, root, g.nodes.size(), fmt::format("scene {}", i), "node");
    }
  }
  if (g.scenes.empty()) return;
  const int shown = g.defaultScene < 0 ? 0 : g.defaultScene;
  check_index(m.file, shown, g.scenes.size(), "the default scene", "scene");
  std::vector<bool> in(g.nodes.size(), false);
  for (const int root : g.scenes[static_cast<std::size_t>(shown)].nodes) {
    in[static_cast<std::size_t>(root)] = true;
  }
  std::vector<int> kept;
  for (const int node : m.order) {
    const auto n = static_cast<std::size_t>(node);
    if (m.parents[n] >= 0 && in[static_cast<std::size_t>(m.parents[n])]) in[n] = true;
    if (in[n]) kept.push_back(node);
  }
  m.order = std::move(kept);
}

struct View {
  const unsigned char* data;
  std::size_t stride;
};

View view_of(const CheckedModel& m, const tinygltf::Accessor& a) {
  const tinygltf::BufferView& view = m.model.bufferViews[static_cast<std::size_t>(a.bufferView)];
  const auto& bytes = m.model.buffers[static_cast<std::size_t>(view.buffer)].data;
  return {bytes.data() + view.byteOffset + a.byteOffset,
          static_cast<std::size_t>(a.ByteStride(view))};
}

double component(const unsigned char* at, int type, bool normalised) {
  switch (type) {
    case TINYGLTF_COMPONENT_TYPE_FLOAT: {
      float v = 0.0F;
      std::memcpy(&v, at, sizeof v);
      return static_cast<double>(v);
    }
    case TINYGLTF_COMPONENT_TYPE_BYTE: {
      std::int8_t v = 0;
      std::memcpy(&v, at, sizeof v);
      return normalised ? std::max(v / 127.0, -1.0) : v;
    }
    case TINYGLTF_COMPONENT_TYPE_SHORT: {
      std::int16_t v = 0;
      std::memcpy(&v, at, sizeof v);
      return normalised ? std::max(v / 32767.0, -1.0) : v;
    }
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_BYTE:
      return normalised ? *at / 255.0 : *at;
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_SHORT: {
      std::uint16_t v = 0;
      std::memcpy(&v, at, sizeof v);
      return normalised ? v / 65535.0 : v;
    }
    case TINYGLTF_COMPONENT_TYPE_UNSIGNED_INT: {
      std::uint32_t v = 0;
      std::memcpy(&v, at, sizeof v);
      return static_cast<double>(v);
    }
    default:
      return std::nan("");
  }
}

// One buffer may be read many times over: what a file says shall stay within what it is. A million
// vertices a megabyte is more than any file has that shares nothing.
void spend(const CheckedModel& m, int accessor) {
  constexpr std::size_t always = 10'000'000;
  std::size_t most = always;
  for (const tinygltf::Buffer& b : m.model.buffers) most += b.data.size();
  const std::size_t count = m.model.accessors[static_cast<std::size_t>(accessor)].count;
  if (count > most - std::min(most, m.elements)) {
    refuse(m.file, "accessor {} has {} elements: more in all than a file of this size has ({})",
           accessor, count, most);
  }
  m.elements += count;
}

}  // namespace

CheckedModel load_checked(const std::string& file) {
  CheckedModel m;
  m.file = file;
  load(m);
  check_extensions(m);
  check_buffers(m);
  check_meshes(m);
  check_cameras(m);
  order_nodes(m);
  keep_scene(m);
  return m;
}

std::vector<Vec3f> read_vectors(const CheckedModel& m, int accessor) {
  const tinygltf::Accessor& a = m.model.accessors[static_cast<std::size_t>(accessor)];
  if (a.type != TINYGLTF_TYPE_VEC3 && a.type != TINYGLTF_TYPE_VEC4) {
    refuse(m.file, "accessor {} should hold vectors of three numbers", accessor);
  }
  spend(m, accessor);
  std::vector<Vec3f> out(a.count, Vec3f{});
  if (a.bufferView < 0) return out;  // glTF: no view means zeros
  const View view = view_of(m, a);
  const auto size = static_cast<std::size_t>(
      tinygltf::GetComponentSizeInBytes(static_cast<uint32_t>(a.componentType)));
  for (std::size_t i = 0; i < a.count; ++i) {
    for (std::size_t k = 0; k < 3; ++k) {
      const double v =
          component(view.data + i * view.stride + k * size, a.componentType, a.normalized);
      if (!range::entry.holds(v)) {
        refuse(m.file, "accessor {} element {} is not a number {}", accessor, i,
               words_of(range::entry));
      }
      out[i][k] = static_cast<float>(v);
    }
  }
  return out;
}

std::vector<std::array<double, 4>> read_numbers(const CheckedModel& m, int accessor,
                                                int components) {
  const tinygltf::Accessor& a = m.model.accessors[static_cast<std::size_t>(accessor)];
  if (tinygltf::GetNumComponentsInType(static_cast<uint32_t>(a.type)) != components) {
    refuse(m.file, "accessor {} should hold rows of {} numbers", accessor, components);
  }
  spend(m, accessor);
  std::vector<std::array<double, 4>> out(a.count, std::array<double, 4>{});
  if (a.bufferView < 0) return out;
  const View view = view_of(m, a);
  const auto size = static_cast<std::size_t>(
      tinygltf::GetComponentSizeInBytes(static_cast<uint32_t>(a.componentType)));
  for (std::size_t i = 0; i < a.count; ++i) {
    for (int k = 0; k < components; ++k) {
      const double v = component(view.data + i * view.stride + static_cast<std::size_t>(k) * size,
                                 a.componentType, a.normalized);
      if (!range::entry.holds(v)) {
        refuse(m.file, "accessor {} element {} is not a number {}", accessor, i,
               words_of(range::entry));
      }
      out[i][static_cast<std::size_t>(k)] = v;
    }
  }
  return out;
}

std::vector<std::uint32_t> read_indices(const CheckedModel& m, int accessor) {
  const tinygltf::Accessor& a = m.model.accessors[static_cast<std::size_t>(accessor)];
  if (a.type != TINYGLTF_TYPE_SCALAR || a.componentType == TINYGLTF_COMPONENT_TYPE_FLOAT) {
    refuse(m.file, "accessor {} should hold indices (whole numbers)", accessor);
  }
  spend(m, accessor);
  std::vector<std::uint32_t> out(a.count, 0);
  if (a.bufferView < 0) return out;
  const View view = view_of(m, a);
  for (std::size_t i = 0; i < a.count; ++i) {
    const double v = component(view.data + i * view.stride, a.componentType, false);
    if (!(v >= 0.0)) refuse(m.file, "accessor {} should hold unsigned indices", accessor);
    out[i] = static_cast<std::uint32_t>(v);
  }
  return out;
}

}  // namespace jolly_iris::gltf
