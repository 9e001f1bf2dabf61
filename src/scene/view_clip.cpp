#include "view_clip.hpp"

#include <algorithm>
#include <array>
#include <limits>
#include <vector>

namespace jolly_iris {

namespace {

using Polygon = std::vector<Eigen::Vector3d>;

// Sides as normals: a point is inside where its dot product is ≥ 0. All pass through the pupil.
std::array<Eigen::Vector3d, 4> sides_of(const ViewPyramid& v) {
  return {Eigen::Vector3d(1.0, 0.0, v.left), Eigen::Vector3d(-1.0, 0.0, -v.right),
          Eigen::Vector3d(0.0, 1.0, v.bottom), Eigen::Vector3d(0.0, -1.0, -v.top)};
}

// Keeps the part on the inner side of a plane (Sutherland and Hodgman 1974).
void clip(Polygon& polygon, Polygon& scratch, const Eigen::Vector3d& normal, double offset) {
  scratch.clear();
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Eigen::Vector3d& a = polygon[i];
    const Eigen::Vector3d& b = polygon[(i + 1) % polygon.size()];
    const double da = normal.dot(a) + offset;
    const double db = normal.dot(b) + offset;
    if (da >= 0.0) scratch.push_back(a);
    if ((da >= 0.0) != (db >= 0.0)) scratch.push_back(a + (b - a) * (da / (da - db)));
  }
  polygon.swap(scratch);
}

}  // namespace

std::optional<Reach> reach_in_view(const Scene& scene, std::size_t node,
                                   const Eigen::Isometry3d& stand, const ViewPyramid& view) {
  constexpr double nearest = 1e-3;  // metres in front of the pupil
  constexpr double none = std::numeric_limits<double>::infinity();
  const auto sides = sides_of(view);
  // Wholly within, nothing needs to be cut; wholly beyond one side, nothing is seen.
  const Eigen::AlignedBox3d box = bounds_of(scene, node);
  if (box.isEmpty()) return std::nullopt;
  std::vector<Eigen::Vector3d> planes(sides.begin(), sides.end());
  planes.emplace_back(-Eigen::Vector3d::UnitZ());
  bool inside = true;
  for (const Eigen::Vector3d& plane : planes) {
    int within = 0;
    for (int i = 0; i < 8; ++i) {
      const Eigen::Vector3d corner =
          stand.inverse() * box.corner(static_cast<Eigen::AlignedBox3d::CornerType>(i));
      within += plane.dot(corner) > (&plane == &planes.back() ? nearest : 0.0) ? 1 : 0;
    }
    if (within == 0) return std::nullopt;
    inside = inside && within == 8;
  }
  if (inside) {
    const Eigen::Vector3d forward = -stand.linear().col(2);
    const double eye = forward.dot(stand.translation());
    auto whole = reach_of(scene, node, forward);
    if (whole) *whole = {whole->least - eye, whole->most - eye};
    return whole;
  }
  Reach reach{none, -none};
  Polygon polygon;
  Polygon scratch;
  const auto count = [&] {
    clip(polygon, scratch, -Eigen::Vector3d::UnitZ(), -nearest);
    for (const Eigen::Vector3d& side : sides) clip(polygon, scratch, side, 0.0);
    for (const Eigen::Vector3d& p : polygon) {
      reach.least = std::min(reach.least, -p.z());
      reach.most = std::max(reach.most, -p.z());
    }
  };
  std::vector<std::size_t> open{node};
  while (!open.empty()) {
    const Node& here = scene.nodes[open.back()];
    open.pop_back();
    open.insert(open.end(), here.children.begin(), here.children.end());
    if (!here.mesh) continue;
    const Eigen::Affine3d to_view = stand.inverse() * here.world;
    for (const Primitive& part : scene.meshes[*here.mesh].primitives) {
      std::vector<Eigen::Vector3d> seen;
      seen.reserve(part.positions.size());
      for (const Eigen::Vector3f& p : part.positions) seen.push_back(to_view * p.cast<double>());
      if (part.kind == Primitive::Kind::points) {
        for (const Eigen::Vector3d& p : seen) {
          polygon.assign(1, p);
          count();
        }
      }
      for (const auto& triangle : part.triangles) {
        polygon = {seen[triangle[0]], seen[triangle[1]], seen[triangle[2]]};
        count();
      }
    }
  }
  if (!(reach.least <= reach.most)) return std::nullopt;
  return reach;
}

}  // namespace jolly_iris
