// A small, correct glTF document for tests to break.
#pragma once

#include <cstring>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "support.hpp"

namespace jolly_iris::testing {

/// A camera at the origin, a box-shaped node tree "float" → "flag" with one triangle each, in
/// front.
inline nlohmann::json small_gltf() {
  return nlohmann::json::parse(R"({
    "asset": {"version": "2.0"},
    "scene": 0,
    "scenes": [{"nodes": [0, 1]}],
    "nodes": [
      {"name": "view", "camera": 0},
      {"name": "float", "translation": [0, 0, -3], "children": [2]},
      {"name": "flag", "translation": [0, 1, -1], "mesh": 0}
    ],
    "cameras": [{"type": "perspective", "perspective": {"yfov": 0.4, "znear": 0.01}}],
    "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
    "accessors": [
      {"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3",
       "min": [0, 0, 0], "max": [2, 2, 0]},
      {"bufferView": 1, "componentType": 5125, "count": 3, "type": "SCALAR"}
    ],
    "bufferViews": [
      {"buffer": 0, "byteOffset": 0, "byteLength": 36},
      {"buffer": 0, "byteOffset": 36, "byteLength": 12}
    ],
    "buffers": [{"uri": "small.bin", "byteLength": 48}]
  })");
}

/// Writes the document and its buffer: a triangle (0,0,0) (2,0,0) (0,2,0).
inline std::string write_gltf(const TempFolder& folder, const nlohmann::json& json,
                              std::vector<float> positions = {0, 0, 0, 2, 0, 0, 0, 2, 0},
                              std::vector<std::uint32_t> indices = {0, 1, 2}) {
  std::string bytes(positions.size() * 4 + indices.size() * 4, '\0');
  std::memcpy(bytes.data(), positions.data(), positions.size() * 4);
  std::memcpy(bytes.data() + positions.size() * 4, indices.data(), indices.size() * 4);
  folder.write("small.bin", bytes);
  return folder.write("small.gltf", json.dump());
}

}  // namespace jolly_iris::testing
