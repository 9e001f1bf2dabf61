#include "jolly_iris/scene/point_tree.hpp"

#include <algorithm>
#include <limits>
#include <utility>

namespace jolly_iris {

namespace {

constexpr std::size_t leaf = 16;

// The most that any point in a box can reach.
float bound(const Box3<float>& box, const Vec3f& direction) {
  return direction.dot(box.centre()) + 0.5F * direction.abs().dot(box.sizes());
}

}  // namespace

PointTree::PointTree(std::vector<Vec3f> points) : points_(std::move(points)) {
  if (points_.empty()) return;
  Half root;
  root.count = points_.size();
  halves_.push_back(root);
  for (std::size_t i = 0; i < halves_.size(); ++i) split(i);
}

void PointTree::split(std::size_t index) {
  Half& half = halves_[index];
  const auto begin = points_.begin() + static_cast<std::ptrdiff_t>(half.first);
  const auto end = begin + static_cast<std::ptrdiff_t>(half.count);
  for (auto p = begin; p != end; ++p) half.box.extend(*p);
  if (half.count <= leaf) return;
  const Vec3f sizes = half.box.sizes();
  const std::size_t axis = sizes.x >= sizes.y && sizes.x >= sizes.z ? 0
                           : sizes.y >= sizes.z                     ? 1
                                                                    : 2;
  const std::size_t lower = half.count / 2;
  std::nth_element(begin, begin + static_cast<std::ptrdiff_t>(lower), end,
                   [axis](const auto& a, const auto& b) { return a[axis] < b[axis]; });
  half.children = halves_.size();
  Half first;
  first.first = half.first;
  first.count = lower;
  Half second;
  second.first = half.first + lower;
  second.count = half.count - lower;
  halves_.push_back(first);  // `half` is no longer valid from here on
  halves_.push_back(second);
}

void PointTree::search(std::size_t index, const Vec3f& direction, float& best) const {
  const Half& half = halves_[index];
  if (half.children == 0) {
    for (std::size_t i = half.first; i < half.first + half.count; ++i) {
      best = std::max(best, direction.dot(points_[i]));
    }
    return;
  }
  std::size_t near = half.children;
  std::size_t other = half.children + 1;
  float near_bound = bound(halves_[near].box, direction);
  float other_bound = bound(halves_[other].box, direction);
  if (other_bound > near_bound) {
    std::swap(near, other);
    std::swap(near_bound, other_bound);
  }
  if (near_bound > best) search(near, direction, best);
  if (other_bound > best) search(other, direction, best);
}

float PointTree::max(const Vec3f& direction) const {
  float best = -std::numeric_limits<float>::infinity();
  search(0, direction, best);
  return best;
}

}  // namespace jolly_iris
