// The lamps of a scene: what out-of-focus discs of a plate may be.
#pragma once

#include <string>
#include <vector>
#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct SceneLamp {
  std::string name{};  ///< its node's, with a number where there are several
  Vec3 at{};           ///< in camera space, metres; z < 0 is in front
  double diameter_m = 0.0;
};

/// All points that glow, in front of the camera.
/// @param place camera → world
std::vector<SceneLamp> lamps_of(const Scene& scene, const Pose& place);

}  // namespace jolly_iris
