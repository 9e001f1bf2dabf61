#include "jolly_iris/scene/clip.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "optics/nearest.hpp"
#include "view_clip.hpp"

namespace jolly_iris {

namespace {

constexpr double unbounded = std::numeric_limits<double>::infinity();

struct Resampler {
  std::string name{};
  Reach reach{unbounded, -unbounded};
};

struct Parted {
  std::vector<Resampler> gone{};  // one a name
  Resampler nearest_kept{};       // whose `least` is the least
  Resampler farthest_kept{};      // whose `most` is the most
};

std::size_t index_of(const Scene& scene, const std::string& name) {
  std::vector<std::string> names;
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    if (scene.nodes[i].name == name) return i;
    if (!scene.nodes[i].name.empty()) names.push_back(scene.nodes[i].name);
  }
  throw UsageError(
      fmt::format("the scene has no node '{}' to clip away.{}", name, did_you_mean(name, names)));
}

// Everything that the picture shows, parted into what shall go and what shall stay. A node's own
// mesh is asked alone, so that a parent of both is no obstacle.
Parted part(const Scene& scene, const Pose& stand, const ViewPyramid& view,
            const std::vector<std::string>& names) {
  Parted unmixed;
  std::vector<int> owner(scene.nodes.size(), -1);
  for (std::size_t i = 0; i < names.size(); ++i) {
    unmixed.gone.push_back({names[i], {unbounded, -unbounded}});
    owner[index_of(scene, names[i])] = static_cast<int>(i);
  }
  Scene alone = scene;  // with every node's children cut off
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    const Node& node = scene.nodes[i];
    if (owner[i] < 0 && node.parent) owner[i] = owner[*node.parent];
    alone.nodes[i].children.clear();
  }
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    if (!scene.nodes[i].mesh) continue;
    const auto reach = reach_in_view(alone, i, stand, view);
    if (!reach) continue;
    if (owner[i] >= 0) {
      Reach& whole = unmixed.gone[static_cast<std::size_t>(owner[i])].reach;
      whole = {std::min(whole.min, reach->min), std::max(whole.max, reach->max)};
      continue;
    }
    std::size_t n = i;
    while (scene.nodes[n].name.empty() && scene.nodes[n].parent) n = *scene.nodes[n].parent;
    const Resampler kept{scene.nodes[n].name, *reach};
    if (kept.reach.min < unmixed.nearest_kept.reach.min) unmixed.nearest_kept = kept;
    if (kept.reach.max > unmixed.farthest_kept.reach.max) unmixed.farthest_kept = kept;
  }
  return unmixed;
}

}  // namespace

Clip clip_away(const Scene& scene, const Pose& stand, const VirtualCamera& camera,
               const std::vector<std::string>& names) {
  const auto low = direction_of_pixel(camera, 0.0, camera.pixels.height);
  const auto high = direction_of_pixel(camera, camera.pixels.width, 0.0);
  const Parted unmixed = part(scene, stand, {low[0], high[0], low[1], high[1]}, names);
  const Resampler& first = unmixed.nearest_kept;
  const Resampler& last = unmixed.farthest_kept;
  double gone_near = -unbounded;
  double gone_far = unbounded;
  for (const Resampler& s : unmixed.gone) {
    if (s.reach.min > s.reach.max) {
      throw OpticsError(
          fmt::format("'{}' is not in the picture: there is nothing to clip away", s.name));
    }
    if (s.reach.max < first.reach.min) {
      gone_near = std::max(gone_near, s.reach.max);
    } else if (s.reach.min > last.reach.max) {
      gone_far = std::min(gone_far, s.reach.min);
    } else {
      throw OpticsError(fmt::format(
          "no clip distance removes '{}' and keeps everything else: it reaches from {:.4g} to "
          "{:.4g} m along the view, but '{}' stands at {:.4g} m already and '{}' at {:.4g} m still",
          s.name, s.reach.min, s.reach.max, first.name, first.reach.min, last.name,
          last.reach.max));
    }
  }
  const auto span = [](double from, double to) {
    // Midway, so that neither side is touched; where nothing is beyond, a tenth farther.
    const double at = to < unbounded ? 0.5 * (from + to) : 1.1 * from;
    return ClipSpan{Length::from_m(from), Length::from_m(to), Length::from_m(at)};
  };
  Clip clip;
  if (gone_near > 0.0) clip.near = span(gone_near, first.reach.min);
  if (gone_far < unbounded) clip.far = span(last.reach.max, gone_far);
  return clip;
}

}  // namespace jolly_iris
