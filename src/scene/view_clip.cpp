#include "view_clip.hpp"

#include <algorithm>
#include <array>
#include <limits>
#include <vector>

namespace jolly_iris {

namespace {

using Polygon = std::vector<Vec3>;

// Sides as normals: a point is inside where its dot product is ≥ 0. All pass through the pupil.
std::array<Vec3, 4> sides_of(const ViewPyramid& v) {
  return {Vec3(1.0, 0.0, v.left), Vec3(-1.0, 0.0, -v.right), Vec3(0.0, 1.0, v.bottom),
          Vec3(0.0, -1.0, -v.top)};
}

// Keeps the part on the inner side of a plane (Sutherland and Hodgman 1974).
void clip(Polygon& polygon, Polygon& scratch, const Vec3& normal, double offset) {
  scratch.clear();
  for (std::size_t i = 0; i < polygon.size(); ++i) {
    const Vec3& a = polygon[i];
    const Vec3& b = polygon[(i + 1) % polygon.size()];
    const double da = normal.dot(a) + offset;
    const double db = normal.dot(b) + offset;
    if (da >= 0.0) scratch.push_back(a);
    if ((da >= 0.0) != (db >= 0.0)) scratch.push_back(a + (b - a) * (da / (da - db)));
  }
  polygon.swap(scratch);
}

}  // namespace

std::optional<Reach> reach_in_view(const Scene& scene, std::size_t node, const Pose& stand,
                                   const ViewPyramid& view) {
  constexpr double nearest = 1e-3;  // metres in front of the pupil
  constexpr double none = std::numeric_limits<double>::infinity();
  const auto sides = sides_of(view);
  // Wholly within, nothing needs to be cut; wholly beyond one side, nothing is seen.
  const Box3<double> box = bounds_of(scene, node);
  if (box.empty()) return std::nullopt;
  std::vector<Vec3> planes(sides.begin(), sides.end());
  planes.emplace_back(-Vec3::unit_z());
  bool inside = true;
  for (const Vec3& plane : planes) {
    int within = 0;
    for (int i = 0; i < 8; ++i) {
      const Vec3 corner = stand.inverse() * box.corner(static_cast<std::size_t>(i));
      within += plane.dot(corner) > (&plane == &planes.back() ? nearest : 0.0) ? 1 : 0;
    }
    if (within == 0) return std::nullopt;
    inside = inside && within == 8;
  }
  if (inside) {
    const Vec3 forward = -stand.linear.column(2);
    const double eye = forward.dot(stand.translation);
    auto whole = reach_of(scene, node, forward);
    if (whole) *whole = {whole->min - eye, whole->max - eye};
    return whole;
  }
  Reach reach{none, -none};
  Polygon polygon;
  Polygon scratch;
  const auto count = [&] {
    clip(polygon, scratch, -Vec3::unit_z(), -nearest);
    for (const Vec3& side : sides) clip(polygon, scratch, side, 0.0);
    for (const Vec3& p : polygon) {
      reach.min = std::min(reach.min, -p.z);
      reach.max = std::max(reach.max, -p.z);
    }
  };
  std::vector<std::size_t> open{node};
  while (!open.empty()) {
    const Node& here = scene.nodes[open.back()];
    open.pop_back();
    open.insert(open.end(), here.children.begin(), here.children.end());
    if (!here.mesh) continue;
    const Affine to_view = stand.inverse() * here.world;
    for (const Primitive& part : scene.meshes[*here.mesh].primitives) {
      std::vector<Vec3> seen;
      seen.reserve(part.positions.size());
      for (const Vec3f& p : part.positions) seen.push_back(to_view * Vec3(p));
      if (part.kind == Primitive::Kind::points) {
        for (const Vec3& p : seen) {
          polygon.assign(1, p);
          count();
        }
      }
      for (const auto& line : part.lines) {
        polygon = {seen[line[0]], seen[line[1]]};
        count();
      }
      for (const auto& triangle : part.triangles) {
        polygon = {seen[triangle[0]], seen[triangle[1]], seen[triangle[2]]};
        count();
      }
    }
  }
  if (!(reach.min <= reach.max)) return std::nullopt;
  return reach;
}

}  // namespace jolly_iris
