// What a ray from the camera meets first.
#pragma once

#include <optional>
#include <string>
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/scene/scene.hpp"

namespace jolly_iris {

struct RayPick {
  std::string name{};    ///< of the node, or of the nearest named one above it; may be empty
  double axial_m = 0.0;  ///< along the view axis
};

/// The first surface that the camera sees in a direction (x right, y up, z = −1); none for sky. By
/// every triangle in turn: for one ray that somebody asks about, not for pictures (trace.hpp).
/// Source: Möller and Trumbore, Fast, minimum storage ray/triangle intersection, 1997.
std::optional<RayPick> ray_pick(const Scene& scene, const Pose& stand, const Vec3& direction);

}  // namespace jolly_iris
