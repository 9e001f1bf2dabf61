#include <fmt/format.h>

#include <limits>
#include <map>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/trace/trace.hpp"
#include "picture/parallel.hpp"
#include "stage.hpp"

namespace jolly_iris {

Survey survey(const Scene& scene, const VirtualCamera& camera, const Pose& place, PixelSize size) {
  if (size.width < 1 || size.height < 1) {
    throw UsageError(fmt::format("a grid of {} x {} has no places", size.width, size.height));
  }
  const tracing::LensView view(camera, size, true);
  const tracing::Stage stage(scene, place, view);
  Survey result;
  result.size = size;
  const std::size_t count =
      static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height);
  result.depth.assign(count, std::numeric_limits<float>::infinity());
  result.thing.assign(count, -1);
  parallel_for(0, size.height, [&](int y) {
    for (int x = 0; x < size.width; ++x) {
      const tracing::ViewRay ray = view.straight(x + 0.5, y + 0.5);
      double depth = 0.0;
      const auto node = stage.node(ray.origin, ray.direction, depth);
      const std::size_t at = static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) +
                             static_cast<std::size_t>(x);
      result.depth[at] = static_cast<float>(depth);
      if (node) result.thing[at] = static_cast<int>(*node);
    }
  });
  // From nodes to the names that people know.
  std::map<std::string, int> numbers;
  for (int& thing : result.thing) {
    if (thing < 0) continue;
    auto n = static_cast<std::size_t>(thing);
    while (scene.nodes[n].name.empty() && scene.nodes[n].parent) n = *scene.nodes[n].parent;
    const std::string& name = scene.nodes[n].name;
    thing = name.empty()
                ? -1
                : numbers.try_emplace(name, static_cast<int>(numbers.size())).first->second;
  }
  result.names.resize(numbers.size());
  for (const auto& [name, number] : numbers) result.names[static_cast<std::size_t>(number)] = name;
  return result;
}

}  // namespace jolly_iris
