#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <initializer_list>
#include <utility>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/range.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace jolly_iris {

namespace {

// Between which keys a time lies, and how far.
struct Span {
  std::size_t from = 0;
  std::size_t to = 0;
  double fraction = 0.0;
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

using Four = std::array<double, 4>;

// a · x + b · y + …, number by number.
Four sum(std::initializer_list<std::pair<double, const Four*>> terms) {
  Four out{};
  for (const auto& [factor, values] : terms) {
    for (std::size_t i = 0; i < 4; ++i) out[i] += factor * (*values)[i];
  }
  return out;
}

Four hermite(const Channel& c, const Span& at) {
  // Three values a key: in-tangent, value, out-tangent.
  const double t = at.fraction;
  const double t2 = t * t;
  const double t3 = t2 * t;
  return sum({{2 * t3 - 3 * t2 + 1, &c.values[3 * at.from + 1]},
              {at.seconds * (t3 - 2 * t2 + t), &c.values[3 * at.from + 2]},
              {-2 * t3 + 3 * t2, &c.values[3 * at.to + 1]},
              {at.seconds * (t3 - t2), &c.values[3 * at.to]}});
}

Quaternion turn(const Four& v) { return {v[3], v[0], v[1], v[2]}; }

Four value_at(const Channel& c, double t) {
  const Span at = span_of(c.times, t);
  if (c.step == Channel::Step::cubic) {
    return at.from == at.to ? c.values[3 * at.from + 1] : hermite(c, at);
  }
  if (c.step == Channel::Step::hold || at.from == at.to) return c.values[at.from];
  if (c.path == Channel::Path::rotation) {
    const Quaternion q =
        turn(c.values[at.from]).normalized().slerp(at.fraction, turn(c.values[at.to]).normalized());
    return {q.x, q.y, q.z, q.w};
  }
  return sum({{1.0 - at.fraction, &c.values[at.from]}, {at.fraction, &c.values[at.to]}});
}

}  // namespace

namespace {

// Far from where products of it overflow.
bool is_usual(const Affine& a) {
  for (const Vec3& v :
       {a.linear.columns[0], a.linear.columns[1], a.linear.columns[2], a.translation}) {
    if (!range::entry.holds(v.x) || !range::entry.holds(v.y) || !range::entry.holds(v.z)) {
      return false;
    }
  }
  return true;
}

}  // namespace

void pose(Scene& scene, double seconds) {
  for (const Channel& c : scene.channels) {
    Node& node = scene.nodes[c.node];
    const Four v = value_at(c, seconds);
    switch (c.path) {
      case Channel::Path::translation:
        node.translation = {v[0], v[1], v[2]};
        break;
      case Channel::Path::rotation:
        if (turn(v).length() > 1e-12) node.rotation = turn(v).normalized();
        break;
      case Channel::Path::scale:
        node.scale = {v[0], v[1], v[2]};
        break;
    }
  }
  for (Node& node : scene.nodes) {
    const Affine local = node.matrix.value_or(
        Affine{}.moved(node.translation).turned(node.rotation).scaled(node.scale));
    node.world = node.parent ? scene.nodes[*node.parent].world * local
                             : Affine{Matrix3::scaling(scene.scale), {}} * local;
    if (!is_usual(node.world)) {
      throw FileError(fmt::format(
          "{}: the node '{}' lands, with all above it, where no scene reaches: numbers are {}",
          scene.file, node.name, words_of(range::entry)));
    }
  }
}

double duration_of(const Scene& scene) {
  double last = 0.0;
  for (const Channel& c : scene.channels) last = std::max(last, c.times.back());
  return last;
}

}  // namespace jolly_iris
