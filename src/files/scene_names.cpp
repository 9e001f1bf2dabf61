#include "scene_names.hpp"

#include <fmt/format.h>

#include <string>
#include <unordered_map>
#include <unordered_set>
#include <vector>

namespace jolly_iris {

void name_apart(Scene& scene) {
  std::unordered_map<std::string, int> count;
  for (const Node& node : scene.nodes) ++count[node.name];
  std::vector<std::string> names;
  for (const Node& node : scene.nodes) names.push_back(node.name);
  std::unordered_map<std::string, int> used;
  std::unordered_set<std::string> taken;
  for (const auto& [name, n] : count) {
    if (n == 1) taken.insert(name);
  }
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    Node& node = scene.nodes[i];
    if (node.name.empty() || count[node.name] == 1) continue;
    const std::string above = node.parent ? names[*node.parent] : std::string();
    const std::string base = above.empty() ? node.name : above + "/" + node.name;
    // Numbers of one base go on where they were: many of a name shall not take time squared.
    int& number = used[base];
    std::string name;
    do {
      ++number;
      name = number == 1 && !above.empty() ? base : fmt::format("{} ({})", base, number);
    } while (!taken.insert(name).second);
    node.name = std::move(name);
  }
}

}  // namespace jolly_iris
