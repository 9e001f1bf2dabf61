#include "jolly_iris/scene.hpp"

#include <fmt/format.h>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"

namespace jolly_iris {

Eigen::AlignedBox3d bounds_of(const Scene& scene, std::size_t node) {
  Eigen::AlignedBox3d box;
  std::vector<std::size_t> open{node};
  while (!open.empty()) {
    const Node& here = scene.nodes[open.back()];
    open.pop_back();
    if (here.mesh && !scene.meshes[*here.mesh].bounds.isEmpty()) {
      const Eigen::AlignedBox3d& local = scene.meshes[*here.mesh].bounds;
      for (int corner = 0; corner < 8; ++corner) {
        box.extend(here.world * local.corner(static_cast<Eigen::AlignedBox3d::CornerType>(corner)));
      }
    }
    open.insert(open.end(), here.children.begin(), here.children.end());
  }
  return box;
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
