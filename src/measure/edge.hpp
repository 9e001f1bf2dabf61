// A straight line fitted to points, and what the two measurements of edges share.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "jolly_iris/measure/lines.hpp"

namespace jolly_iris::measuring {

/// The line that is nearest to points in the sense of total least squares.
struct Edge {
  std::array<double, 2> middle{};  ///< of the points
  std::array<double, 2> along{};   ///< unit
  double lever = 0.0;              ///< root of the sum of squared distances from the middle
  double residual2 = 0.0;          ///< sum of squared distances from the line
};
Edge edge_through(const std::vector<std::array<double, 2>>& points);

/// "door frame", or "line 3" for the third one.
std::string name_of(const DrawnLine& line, std::size_t index);

/// Variance of a drawn point, px²: what the points say, tempered by what was believed before, which
/// counts as much as four of them.
double variance(double residual2, double freedom, double drawn_px);

}  // namespace jolly_iris::measuring
