#include "jolly_iris/scene/scene.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "jolly_iris/optics/errors.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

// A node and all below it.
template <class Visit>
void each_below(const Scene& scene, std::size_t node, const Visit& visit) {
  visit(scene.nodes[node]);
  if (scene.nodes[node].children.empty()) return;  // mostly; and this is asked every frame
  std::vector<std::size_t> open = scene.nodes[node].children;
  while (!open.empty()) {
    const Node& here = scene.nodes[open.back()];
    open.pop_back();
    visit(here);
    open.insert(open.end(), here.children.begin(), here.children.end());
  }
}

void hold(Box3<double>& box, const Scene& scene, const Node& node, const Affine& to) {
  if (!node.mesh || scene.meshes[*node.mesh].bounds.empty()) return;
  const Box3<double>& local = scene.meshes[*node.mesh].bounds;
  const Affine placed = to * node.world;
  for (int corner = 0; corner < 8; ++corner) {
    box.extend(placed * local.corner(static_cast<std::size_t>(corner)));
  }
}

// The bounds of a node and all below it, in the space that `to` takes world points to.
Box3<double> bounds_in(const Scene& scene, std::size_t node, const Affine& to) {
  Box3<double> box;
  each_below(scene, node, [&](const Node& here) { hold(box, scene, here, to); });
  return box;
}

// Least and most of slope · p.
Reach reach_along(const Scene& scene, std::size_t index, const Vec3f& slope) {
  constexpr double nowhere = std::numeric_limits<double>::infinity();
  if (scene.outlines && !(*scene.outlines)[index].empty()) {
    const PointTree& outline = (*scene.outlines)[index];
    return {-static_cast<double>(outline.max(-slope)), static_cast<double>(outline.max(slope))};
  }
  const Mesh& mesh = scene.meshes[index];
  Reach reach{nowhere, -nowhere};
  for (const Primitive& part : mesh.primitives) {
    for (const Vec3f& p : part.positions) {
      const auto along = static_cast<double>(slope.dot(p));
      reach = {std::min(reach.min, along), std::max(reach.max, along)};
    }
  }
  return reach;
}

// The same of a node's own mesh where it stands.
Reach own_reach(const Scene& scene, const Node& node, const Vec3& direction) {
  // direction · (R p + t): one dot product a vertex
  const Vec3f slope(node.world.linear.transposed() * direction);
  const double start = direction.dot(node.world.translation);
  const Reach own = reach_along(scene, *node.mesh, slope);
  return {start + own.min, start + own.max};
}

}  // namespace

std::vector<NodeExtent> extents_of(const Scene& scene, const Vec3& direction) {
  std::vector<NodeExtent> extents(scene.nodes.size());
  for (std::size_t i = scene.nodes.size(); i-- > 0;) {  // parents stand before their children
    const Node& node = scene.nodes[i];
    NodeExtent& here = extents[i];
    hold(here.box, scene, node, Affine{});
    if (node.mesh) here.hold(own_reach(scene, node, direction));
    if (!node.parent) continue;
    NodeExtent& above = extents[*node.parent];
    above.hold(here.reach);
    if (here.box.empty()) continue;
    above.box.extend(here.box.min);
    above.box.extend(here.box.max);
  }
  return extents;
}

Box3<double> bounds_of(const Scene& scene, std::size_t node) {
  return bounds_in(scene, node, Affine{});
}

std::optional<Reach> reach_of(const Scene& scene, std::size_t node, const Vec3& direction) {
  NodeExtent all;
  each_below(scene, node, [&](const Node& here) {
    if (here.mesh) all.hold(own_reach(scene, here, direction));
  });
  if (!all.any()) return std::nullopt;
  return all.reach;
}

void prepare_for_frames(Scene& scene) {
  if (scene.outlines) return;
  auto outlines = std::make_shared<std::vector<PointTree>>();
  for (const Mesh& mesh : scene.meshes) {
    std::vector<Vec3f> points;
    for (const Primitive& part : mesh.primitives) {
      points.insert(points.end(), part.positions.begin(), part.positions.end());
    }
    outlines->emplace_back(std::move(points));
  }
  scene.outlines = std::move(outlines);
}

std::optional<double> longest_side(const Scene& scene, std::size_t node) {
  const Affine& world = scene.nodes[node].world;
  if (std::abs(world.linear.determinant()) < 1e-30) return std::nullopt;
  const Box3<double> box = bounds_in(scene, node, world.inverse());
  if (box.empty()) return std::nullopt;
  const auto& axes = world.linear.columns;
  return box.sizes().times({axes[0].length(), axes[1].length(), axes[2].length()}).largest();
}

namespace {

std::size_t find_camera(const Scene& scene, const std::optional<std::string>& name) {
  std::vector<std::string> names;
  std::vector<std::size_t> nodes;
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    const Node& node = scene.nodes[i];
    if (!node.camera) continue;
    const std::string& own = scene.cameras[*node.camera].name;
    if (name && (node.name == *name || own == *name)) return i;
    names.push_back(node.name.empty() ? own : node.name);
    nodes.push_back(i);
  }
  if (name) {
    throw UsageError(
        fmt::format("{} has no camera '{}'.{}", scene.file, *name,
                    names.empty() ? " It has no camera at all." : did_you_mean(*name, names)));
  }
  if (nodes.empty()) throw UsageError(fmt::format("{} has no camera", scene.file));
  if (nodes.size() > 1) {
    std::string list;
    for (const std::string& n : names) list += (list.empty() ? "'" : ", '") + n + "'";
    throw UsageError(fmt::format("{} has {} cameras; say which one took the picture: {}",
                                 scene.file, nodes.size(), list));
  }
  return nodes.front();
}

}  // namespace

std::size_t camera_node(const Scene& scene, const std::optional<std::string>& name) {
  return find_camera(scene, name);
}

Pose camera_place(const Scene& scene, const std::optional<std::string>& name) {
  const Node& node = scene.nodes[find_camera(scene, name)];
  if (scene.cameras[*node.camera].projection == SceneCamera::Projection::orthographic) {
    throw OpticsError(
        fmt::format("{}: the camera '{}' is orthographic: it has no focal length and no depth of "
                    "field, so it is out of scope; choose a perspective camera",
                    scene.file, node.name),
        "scene.camera");
  }
  // Scale, mirroring and shear come from parents and are no part of where a camera looks: keep the
  // view axis, and up as far as it is square to it.
  const Vec3 back = node.world.linear.column(2).normalized();
  const Vec3 up = node.world.linear.column(1);
  const Vec3 right = up.cross(back);
  if (!(right.length() > 1e-12)) {
    throw OpticsError(fmt::format("{}: the camera '{}' has a scale of zero, so it looks nowhere",
                                  scene.file, node.name),
                      "scene.camera");
  }
  Pose place = Pose{};
  place.linear.column(0) = right.normalized();
  place.linear.column(1) = back.cross(right.normalized());
  place.linear.column(2) = back;
  place.translation = node.world.translation;
  return place;
}

}  // namespace jolly_iris
