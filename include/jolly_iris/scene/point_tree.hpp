// How far a cloud of points reaches in any direction, quickly: asked again for every frame.
#pragma once

#include <cstddef>
#include <vector>
#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/geometry.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Points halved again and again across their longest side, with the bounds of every half; whole
/// halves that cannot reach farther than what was found are never looked at. Exact.
class PointTree {
 public:
  PointTree() = default;
  explicit PointTree(std::vector<Vec3f> points);

  bool empty() const { return points_.empty(); }
  /// The largest direction · p over all points. The tree must not be empty.
  float max(const Vec3f& direction) const;

 private:
  struct Half {
    Box3<float> box;
    std::size_t first = 0;
    std::size_t count = 0;
    std::size_t children = 0;  // index of the first of two, 0 for a leaf
  };
  void split(std::size_t half);
  void search(std::size_t half, const Vec3f& direction, float& best) const;

  std::vector<Vec3f> points_;
  std::vector<Half> halves_;
};

}  // namespace jolly_iris
