// What each way of solving hands to the verb.
#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "verbs.hpp"

namespace jolly_iris::cli {

using Json = nlohmann::ordered_json;

/// What was found: the sentence, the numbers, and what to try it with.
struct Found {
  std::string text{};
  Json json = Json::object();
  std::vector<std::string> tries{};
  std::vector<std::string> notes{};
};

/// solve --level.
Found solve_level(const SolveOptions& options, const LoadedShot& loaded);
/// solve --clip.
Found solve_clip(const SolveOptions& options, const LoadedShot& loaded);

}  // namespace jolly_iris::cli
