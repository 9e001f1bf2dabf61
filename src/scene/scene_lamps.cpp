#include "jolly_iris/scene_lamps.hpp"

#include <fmt/format.h>

namespace jolly_iris {

std::vector<SceneLamp> lamps_of(const Scene& scene, const Eigen::Isometry3d& place) {
  std::vector<SceneLamp> out;
  const Eigen::Isometry3d to_camera = place.inverse();
  for (const Node& node : scene.nodes) {
    if (!node.mesh) continue;
    int number = 0;
    for (const Primitive& p : scene.meshes[*node.mesh].primitives) {
      const bool glows = p.kind == Primitive::Kind::points && p.material &&
                         scene.materials[*p.material].emission.maxCoeff() > 0.0F;
      if (!glows) continue;
      for (const Eigen::Vector3f& v : p.positions) {
        ++number;
        const Eigen::Vector3d at = to_camera * (node.world * v.cast<double>());
        if (at.z() < 0.0)
          out.push_back({fmt::format("{} {}", node.name, number), at,
                         scene.materials[*p.material].point_diameter_m});
      }
    }
  }
  return out;
}

}  // namespace jolly_iris
