#include <algorithm>
#include <cmath>

#include "jolly_iris/scene.hpp"

namespace jolly_iris {

namespace {

// Between which keys a time lies, and how far.
struct Span {
  std::size_t from = 0;
  std::size_t to = 0;
  double share = 0.0;
  double seconds = 0.0;  // from key to key
};
Span span_of(const std::vector<double>& times, double t) {
  if (t <= times.front()) return {};
  if (t >= times.back()) return {times.size() - 1, times.size() - 1, 0.0, 0.0};
  const auto to =
      static_cast<std::size_t>(std::upper_bound(times.begin(), times.end(), t) - times.begin());
  const double length = times[to] - times[to - 1];
  return {to - 1, to, (t - times[to - 1]) / length, length};
}

Eigen::Vector4d hermite(const Channel& c, const Span& at) {
  // Three values a key: in-tangent, value, out-tangent.
  const double t = at.share;
  const double t2 = t * t;
  const double t3 = t2 * t;
  return (2 * t3 - 3 * t2 + 1) * c.values[3 * at.from + 1] +
         at.seconds * (t3 - 2 * t2 + t) * c.values[3 * at.from + 2] +
         (-2 * t3 + 3 * t2) * c.values[3 * at.to + 1] +
         at.seconds * (t3 - t2) * c.values[3 * at.to];
}

Eigen::Quaterniond turn(const Eigen::Vector4d& v) {
  return Eigen::Quaterniond(v[3], v[0], v[1], v[2]);
}

Eigen::Vector4d value_at(const Channel& c, double t) {
  const Span at = span_of(c.times, t);
  if (c.step == Channel::Step::cubic) {
    return at.from == at.to ? c.values[3 * at.from + 1] : hermite(c, at);
  }
  if (c.step == Channel::Step::hold || at.from == at.to) return c.values[at.from];
  if (c.path == Channel::Path::rotation) {
    return turn(c.values[at.from])
        .normalized()
        .slerp(at.share, turn(c.values[at.to]).normalized())
        .coeffs();
  }
  return (1.0 - at.share) * c.values[at.from] + at.share * c.values[at.to];
}

}  // namespace

void pose(Scene& scene, double seconds) {
  for (const Channel& c : scene.channels) {
    Node& node = scene.nodes[c.node];
    const Eigen::Vector4d v = value_at(c, seconds);
    switch (c.path) {
      case Channel::Path::translation:
        node.translation = v.head<3>();
        break;
      case Channel::Path::rotation:
        if (v.norm() > 1e-12) node.rotation = turn(v).normalized();
        break;
      case Channel::Path::scale:
        node.scale = v.head<3>();
        break;
    }
  }
  for (Node& node : scene.nodes) {
    Eigen::Affine3d local = Eigen::Affine3d::Identity();
    if (node.matrix) {
      local = *node.matrix;
    } else {
      local.translate(node.translation).rotate(node.rotation).scale(node.scale);
    }
    node.world = node.parent ? scene.nodes[*node.parent].world * local
                             : Eigen::Affine3d(Eigen::Scaling(scene.scale)) * local;
  }
}

double duration_of(const Scene& scene) {
  double last = 0.0;
  for (const Channel& c : scene.channels) last = std::max(last, c.times.back());
  return last;
}

}  // namespace jolly_iris
