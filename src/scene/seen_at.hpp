// What a ray from the camera meets first.
#pragma once

#include <Eigen/Geometry>
#include <optional>
#include <string>

#include "jolly_iris/scene.hpp"

namespace jolly_iris {

struct Seen {
  std::string name{};    ///< of the node, or of the nearest named one above it; may be empty
  double axial_m = 0.0;  ///< along the view axis
};

/// The first surface that the camera sees in a direction (x right, y up, z = −1); none for sky. By
/// every triangle in turn: for one ray that somebody asks about, not for pictures (trace.hpp).
/// Source: Möller and Trumbore, Fast, minimum storage ray/triangle intersection, 1997.
std::optional<Seen> seen_at(const Scene& scene, const Eigen::Isometry3d& stand,
                            const Eigen::Vector3d& direction);

}  // namespace jolly_iris
