#include "edge.hpp"

#include <fmt/format.h>

#include <cmath>

namespace jolly_iris::measuring {

Edge edge_through(const std::vector<std::array<double, 2>>& points) {
  Edge edge;
  const auto n = static_cast<double>(points.size());
  for (const auto& p : points) {
    edge.middle[0] += p[0] / n;
    edge.middle[1] += p[1] / n;
  }
  double xx = 0.0;
  double xy = 0.0;
  double yy = 0.0;
  for (const auto& p : points) {
    const double x = p[0] - edge.middle[0];
    const double y = p[1] - edge.middle[1];
    xx += x * x;
    xy += x * y;
    yy += y * y;
  }
  const double angle = 0.5 * std::atan2(2.0 * xy, xx - yy);
  edge.along = {std::cos(angle), std::sin(angle)};
  const double half = 0.5 * (xx + yy);
  const double apart = std::hypot(0.5 * (xx - yy), xy);
  edge.lever = std::sqrt(half + apart);
  edge.residual2 = 0.0;
  for (const auto& p : points) {
    const double distance =
        (p[0] - edge.middle[0]) * -edge.along[1] + (p[1] - edge.middle[1]) * edge.along[0];
    edge.residual2 += distance * distance;
  }
  return edge;
}

std::string name_of(const DrawnLine& line, std::size_t index) {
  return line.name.empty() ? fmt::format("line {}", index + 1) : line.name;
}

double variance(double residual2, double freedom, double drawn_px) {
  constexpr double worth = 4.0;
  return (residual2 + worth * drawn_px * drawn_px) / (freedom + worth);
}

}  // namespace jolly_iris::measuring
