#include "edge_line.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace jolly_iris::measuring {

EdgeLine on_a_line(const Picture& plate, const LumaModel& look, const std::vector<Sample>& samples,
                   const BladeShape& shape, const DrawnDisc& d) {
  constexpr double step = 0.125;  // px
  const double near = 5.0 * d.soft + 2.0;
  const int last = static_cast<int>(near / step) + 1;
  struct Cell {
    double weight = 0.0, value = 0.0, inside = 0.0;
    std::array<double, 3> others{}, channels{};
  };
  std::vector<Cell> cells(static_cast<std::size_t>(2 * last + 1));
  double radius = 0.0;
  double edge = 0.0;
  for (const Sample& s : samples) {
    const Against a = against(d, shape, s.x, s.y);
    const int k = std::clamp(static_cast<int>(std::lround(a.inside / step)), -last, last);
    Cell& cell = cells[static_cast<std::size_t>(k + last)];
    const double w = s.weight * s.weight;
    cell.weight += w;
    cell.value += w * s.value;
    cell.inside += w * a.inside;
    const Rgba& pixel = plate.at(static_cast<int>(s.x), static_cast<int>(s.y));
    for (std::size_t c = 0; c < 3; ++c) {
      cell.others[c] += w * s.others[c];
      cell.channels[c] += w * look.coded(static_cast<double>(pixel[c]));
    }
    if (std::abs(a.inside) > d.soft) continue;
    radius += w * (a.u * a.fu + a.v * a.fv) / a.slope;
    edge += w;
  }
  EdgeLine line;
  line.disc = d;
  line.disc.x = line.disc.y = 0.0;
  line.disc.height = edge > 0.0 ? 2.0 * radius / edge : d.height;
  line.disc.aspect = 1.0;
  line.disc.turned = false;
  line.disc.ground_x = line.disc.ground_y = 0.0;
  for (const Cell& cell : cells) {
    if (!(cell.weight > 0.0)) continue;
    Sample s{};
    s.x = std::max(0.5 * line.disc.height - cell.inside / cell.weight, 0.0);
    s.value = cell.value / cell.weight;
    for (std::size_t c = 0; c < 3; ++c) s.others[c] = cell.others[c] / cell.weight;
    s.weight = std::sqrt(cell.weight);
    line.samples.push_back(s);
    line.channels.push_back({cell.channels[0] / cell.weight, cell.channels[1] / cell.weight,
                             cell.channels[2] / cell.weight});
  }
  return line;
}

}  // namespace jolly_iris::measuring
