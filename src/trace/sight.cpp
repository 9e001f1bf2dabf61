// What of a scene the camera is to see, by the names of nodes.
#include <fmt/format.h>

#include "jolly_iris/optics/errors.hpp"
#include "optics/nearest.hpp"
#include "stage.hpp"

namespace jolly_iris::tracing {

namespace {

// By node, whether the camera sees it; nothing where it sees all.
std::vector<bool> seen_nodes(const Scene& scene, const TraceSettings& settings) {
  if (settings.just.empty() && settings.without.empty()) return {};
  std::vector<std::string> names;
  for (const Node& node : scene.nodes) names.push_back(node.name);
  std::vector<bool> seen(scene.nodes.size(), settings.just.empty());
  const auto mark = [&](const std::string& name, bool as) {
    bool found = false;
    std::vector<bool> below(scene.nodes.size(), false);
    for (std::size_t i = 0; i < scene.nodes.size(); ++i) {  // parents come before their children
      const Node& node = scene.nodes[i];
      below[i] = node.name == name || (node.parent && below[*node.parent]);
      found = found || node.name == name;
      if (below[i]) seen[i] = as;
    }
    if (!found) {
      throw UsageError(
          fmt::format("the scene has no node '{}'.{}", name, did_you_mean(name, names)));
    }
  };
  for (const std::string& name : settings.just) mark(name, true);
  for (const std::string& name : settings.without) mark(name, false);
  return seen;
}

}  // namespace

Sight sight_of(const Scene& scene, const TraceSettings& settings) {
  return {seen_nodes(scene, settings), settings.just.empty(), settings.density, settings.seed};
}

}  // namespace jolly_iris::tracing
