// What became of wishes, and the ways to more blur side by side, in words and as JSON.
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/blur_ways.hpp"
#include "jolly_iris/workflow/wish_solution.hpp"
#include "report/solve_report.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

Solved say(const WishSolution& s, const LoadedShot& loaded);
/// Over frames: a row each.
Solved say(const std::vector<WishSolution>& frames, const LoadedShot& loaded);
Solved say(const BlurWays& ways, const LoadedShot& loaded);

}  // namespace report
}  // namespace jolly_iris
