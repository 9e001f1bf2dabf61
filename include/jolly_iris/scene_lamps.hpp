// The lamps of a scene: what out-of-focus discs of a plate may be.
#pragma once

#include <Eigen/Geometry>
#include <string>
#include <vector>

#include "jolly_iris/scene.hpp"

namespace jolly_iris {

struct SceneLamp {
  std::string name{};    ///< its node's, with a number where there are several
  Eigen::Vector3d at{};  ///< in camera space, metres; z < 0 is in front
  double diameter_m = 0.0;
};

/// All points that glow, in front of the camera.
/// @param place camera → world
std::vector<SceneLamp> lamps_of(const Scene& scene, const Eigen::Isometry3d& place);

}  // namespace jolly_iris
