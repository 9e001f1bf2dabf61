// Scenes put together in a test.
#pragma once

#include <cstddef>
#include <utility>

#include "jolly_iris/scene/scene.hpp"

namespace jolly_iris::testing {

/// A node of its own for one thing of one material. @return its number
inline std::size_t add_node(Scene& scene, Primitive primitive, const Material& material) {
  primitive.material = scene.materials.size();
  scene.materials.push_back(material);
  Mesh mesh;
  for (const auto& p : primitive.positions) mesh.bounds.extend(Vec3(p));
  mesh.primitives.push_back(std::move(primitive));
  Node node;
  node.mesh = scene.meshes.size();
  scene.meshes.push_back(std::move(mesh));
  scene.nodes.push_back(node);
  return scene.nodes.size() - 1;
}

}  // namespace jolly_iris::testing
