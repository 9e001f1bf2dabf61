// The part of a node that the picture shows.
#pragma once

#include <cstddef>
#include <optional>
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/scene/scene.hpp"

namespace jolly_iris {

/// A pyramid from the pupil: x / −z and y / −z of its four sides, in camera space.
struct ViewPyramid {
  double left = 0.0;
  double right = 0.0;
  double bottom = 0.0;
  double top = 0.0;
};

/// From where to where, axially, the surfaces and points of a node and all below it reach within a
/// pyramid, in metres; none if they do not.
std::optional<Reach> reach_in_view(const Scene& scene, std::size_t node, const Pose& stand,
                                   const ViewPyramid& view);

}  // namespace jolly_iris
