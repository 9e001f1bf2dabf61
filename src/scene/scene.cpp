#include "jolly_iris/scene.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"

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

// The bounds of a node and all below it, in the space that `to` takes world points to.
Eigen::AlignedBox3d bounds_in(const Scene& scene, std::size_t node, const Eigen::Affine3d& to) {
  Eigen::AlignedBox3d box;
  each_below(scene, node, [&](const Node& here) {
    if (!here.mesh || scene.meshes[*here.mesh].bounds.isEmpty()) return;
    const Eigen::AlignedBox3d& local = scene.meshes[*here.mesh].bounds;
    const Eigen::Affine3d placed = to * here.world;
    for (int corner = 0; corner < 8; ++corner) {
      box.extend(placed * local.corner(static_cast<Eigen::AlignedBox3d::CornerType>(corner)));
    }
  });
  return box;
}

// Least and most of slope · p.
Reach reach_along(const Mesh& mesh, const Eigen::Vector3f& slope) {
  constexpr double none = std::numeric_limits<double>::infinity();
  if (!mesh.outline.empty()) {
    return {-static_cast<double>(mesh.outline.most(-slope)),
            static_cast<double>(mesh.outline.most(slope))};
  }
  Reach reach{none, -none};
  for (const Primitive& part : mesh.primitives) {
    for (const Eigen::Vector3f& p : part.positions) {
      const auto along = static_cast<double>(slope.dot(p));
      reach = {std::min(reach.least, along), std::max(reach.most, along)};
    }
  }
  return reach;
}

}  // namespace

Eigen::AlignedBox3d bounds_of(const Scene& scene, std::size_t node) {
  return bounds_in(scene, node, Eigen::Affine3d::Identity());
}

std::optional<Reach> reach_of(const Scene& scene, std::size_t node,
                              const Eigen::Vector3d& direction) {
  constexpr double none = std::numeric_limits<double>::infinity();
  Reach reach{none, -none};
  each_below(scene, node, [&](const Node& here) {
    if (!here.mesh) return;
    // direction · (R p + t): one dot product a vertex
    const Eigen::Vector3f slope = (here.world.linear().transpose() * direction).cast<float>();
    const double start = direction.dot(here.world.translation());
    const Reach own = reach_along(scene.meshes[*here.mesh], slope);
    reach.least = std::min(reach.least, start + own.least);
    reach.most = std::max(reach.most, start + own.most);
  });
  if (!(reach.least <= reach.most)) return std::nullopt;
  return reach;
}

void prepare_for_frames(Scene& scene) {
  for (Mesh& mesh : scene.meshes) {
    if (!mesh.outline.empty()) continue;
    std::vector<Eigen::Vector3f> points;
    for (const Primitive& part : mesh.primitives) {
      points.insert(points.end(), part.positions.begin(), part.positions.end());
    }
    mesh.outline = PointTree(std::move(points));
  }
}

std::optional<double> longest_side(const Scene& scene, std::size_t node) {
  const Eigen::Affine3d& world = scene.nodes[node].world;
  if (std::abs(world.linear().determinant()) < 1e-30) return std::nullopt;
  const Eigen::AlignedBox3d box = bounds_in(scene, node, world.inverse());
  if (box.isEmpty()) return std::nullopt;
  return box.sizes().cwiseProduct(world.linear().colwise().norm().transpose()).maxCoeff();
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

Eigen::Isometry3d camera_place(const Scene& scene, const std::optional<std::string>& name) {
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
  const Eigen::Vector3d back = node.world.linear().col(2).normalized();
  const Eigen::Vector3d up = node.world.linear().col(1);
  const Eigen::Vector3d right = up.cross(back);
  if (!(right.norm() > 1e-12)) {
    throw OpticsError(fmt::format("{}: the camera '{}' has a scale of zero, so it looks nowhere",
                                  scene.file, node.name),
                      "scene.camera");
  }
  Eigen::Isometry3d place = Eigen::Isometry3d::Identity();
  place.linear().col(0) = right.normalized();
  place.linear().col(1) = back.cross(right.normalized());
  place.linear().col(2) = back;
  place.translation() = node.world.translation();
  return place;
}

}  // namespace jolly_iris
