// What was solved for, in words and as JSON.
#pragma once

#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/solutions.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// A sentence with its numbers, what is to be known besides, and the numbers for programs.
struct Solved {
  std::string text{};
  Json json = Json::object();
  std::vector<std::string> notes{};
};

/// @param a, b as they were asked for
Solved say(const HoldSolution& s, const LoadedShot& loaded, const std::string& a,
           const std::string& b);
Solved say(const BlurSolution& s, const LoadedShot& loaded);
Solved say(const BodySolution& s, const LoadedShot& loaded);
Solved say(const LevelSolution& s, const LoadedShot& loaded);
Solved say(const Clip& clip, const LoadedShot& loaded, const std::vector<std::string>& nodes);

}  // namespace report
}  // namespace jolly_iris
