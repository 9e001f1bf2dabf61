#include "jolly_iris/scene/scene_lamps.hpp"

#include <fmt/format.h>

namespace jolly_iris {

std::vector<SceneLamp> lamps_of(const Scene& scene, const Pose& place) {
  std::vector<SceneLamp> out;
  const Pose to_camera = place.inverse();
  for (const Node& node : scene.nodes) {
    if (!node.mesh) continue;
    int number = 0;
    for (const Primitive& p : scene.meshes[*node.mesh].primitives) {
      const bool glows = p.kind == Primitive::Kind::points && p.material &&
                         scene.materials[*p.material].emission.largest() > 0.0F;
      if (!glows) continue;
      for (const Vec3f& v : p.positions) {
        ++number;
        const Vec3 at = to_camera * (node.world * Vec3(v));
        if (at.z < 0.0)
          out.push_back({fmt::format("{} {}", node.name, number), at,
                         scene.materials[*p.material].point_diameter_m});
      }
    }
  }
  return out;
}

}  // namespace jolly_iris
