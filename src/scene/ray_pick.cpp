#include "ray_pick.hpp"

#include <limits>

namespace jolly_iris {

namespace {

// Distance along a ray in units of its direction, or none.
std::optional<double> meets(const Vec3& origin, const Vec3& direction, const Vec3& a, const Vec3& b,
                            const Vec3& c) {
  const Vec3 ab = b - a;
  const Vec3 ac = c - a;
  const Vec3 p = direction.cross(ac);
  const double det = ab.dot(p);
  if (det == 0.0) return std::nullopt;
  const Vec3 from = origin - a;
  const double u = from.dot(p) / det;
  const Vec3 q = from.cross(ab);
  const double v = direction.dot(q) / det;
  const double t = ac.dot(q) / det;
  if (u < 0.0 || v < 0.0 || u + v > 1.0 || !(t > 1e-6)) return std::nullopt;
  return t;
}

std::string name_of(const Scene& scene, std::size_t node) {
  while (scene.nodes[node].name.empty() && scene.nodes[node].parent) {
    node = *scene.nodes[node].parent;
  }
  return scene.nodes[node].name;
}

}  // namespace

std::optional<RayPick> ray_pick(const Scene& scene, const Pose& stand, const Vec3& direction) {
  RayPick seen;
  seen.axial_m = std::numeric_limits<double>::infinity();
  std::optional<std::size_t> hit;
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    const Node& node = scene.nodes[i];
    if (!node.mesh) continue;
    const Affine to_view = stand.inverse() * node.world;
    for (const Primitive& part : scene.meshes[*node.mesh].primitives) {
      const auto at = [&](std::uint32_t k) -> Vec3 { return to_view * Vec3(part.positions[k]); };
      for (const auto& [a, b, c] : part.triangles) {
        // The direction's z is −1, so the ray's parameter is the axial distance.
        const auto t = meets(Vec3{}, direction, at(a), at(b), at(c));
        if (!t || *t >= seen.axial_m) continue;
        seen.axial_m = *t;
        hit = i;
      }
    }
  }
  if (!hit) return std::nullopt;
  seen.name = name_of(scene, *hit);
  return seen;
}

}  // namespace jolly_iris
