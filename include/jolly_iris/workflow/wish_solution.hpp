// Wishes as people say them, all at once, for a shot as it is.
//
//   solve_wishes(loaded, {"buoy 3 by 3 px", "footbridge at least 20 px", "ISO up to 1600"},
//                "stop,focus");
//
// What can be wished:
//   NAME sharp · NAME and NAME sharp · NAME [by] 3 px · NAME at least 20 px · NAME at most 5 px ·
//   NAME as large as now · no wider than f/1.4 · no smaller than f/11 · ISO up to 1600
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/match/wishes.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct WishSolution {
  std::vector<std::string> said{};    ///< one for each of problem.wishes
  std::vector<std::string> limits{};  ///< those that are kept in any case, as they were said
  WishProblem problem{};
  WishAnswer found{};
  std::optional<double> frame{};
  bool limited_by_iso = false;  ///< the smallest opening is what an ISO limit leaves
  std::optional<double> iso{};  ///< that keeps the picture as bright as now, where the ISO is known
};

/// @param free what may change, with commas: stop, focus, focal, camera, and names of subjects
/// @throws UsageError for a wish that is none, a name that there is not, a camera that is to move
/// in a
///         shot without a scene; OpticsError as fulfil
WishSolution solve_wishes(const LoadedShot& loaded, const std::vector<std::string>& wishes,
                          const std::string& free = "stop,focus");

/// What to lay over the shot to try it. Nodes of the scene stay where they are: only somebody's own
/// program can move them.
std::vector<Override> overrides_for(const WishSolution& s, const LoadedShot& loaded);

}  // namespace jolly_iris
