#include "edge_line.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "measure/constants.hpp"

namespace jolly_iris::measuring {

namespace {

struct Cell {
  double weight = 0.0, value = 0.0, inside = 0.0;
  double value2 = 0.0, inside2 = 0.0, both = 0.0;
  int count = 0;
  std::array<double, 3> others{}, channels{};
};

// Of a cell's mean: by how its pixels scatter around a straight line, if that is more than their
// noise. What is off all the way round is added. Outlines are a little off for some way along, so
// that many pixels say no more than a few.
double deviation_of(const Cell& cell, double shared) {
  const double noise2 = cell.count / cell.weight;
  const double n = std::min(static_cast<double>(cell.count), edge_line::independent);
  if (cell.count < 4) return std::sqrt(noise2 / n + shared * shared);
  const double w = cell.weight;
  const double values = cell.value2 / w - cell.value / w * (cell.value / w);
  const double insides = cell.inside2 / w - cell.inside / w * (cell.inside / w);
  const double both = cell.both / w - cell.value / w * (cell.inside / w);
  const double scatter2 = values - (insides > 1e-12 ? both * both / insides : 0.0);
  return std::sqrt(std::max(noise2, scatter2) / n + shared * shared);
}

}  // namespace

EdgeLine on_a_line(const Picture& plate, const LumaModel& look, const std::vector<Sample>& samples,
                   const BladeShape& shape, const DrawnDisc& d, double shared) {
  constexpr double step = 0.2;  // px: half a cell blurs an edge by nothing that is seen
  const double near = 5.0 * d.soft + 2.0;
  const int last = static_cast<int>(near / step) + 1;
  std::vector<Cell> cells(static_cast<std::size_t>(2 * last + 1));
  double radius = 0.0;
  double edge = 0.0;
  for (const Sample& s : samples) {
    const Against a = against(d, shape, s.x, s.y);
    if (!shape.round() && std::abs(a.inside) < near &&
        shape.from_corner(std::atan2(a.v, a.u)) * 0.5 * d.height * std::min(1.0, d.aspect) <
            edge_line::corner * d.soft) {
      continue;
    }
    const int k = std::clamp(static_cast<int>(std::lround(a.inside / step)), -last, last);
    Cell& cell = cells[static_cast<std::size_t>(k + last)];
    const double w = s.weight * s.weight;
    cell.weight += w;
    cell.value += w * s.value;
    cell.inside += w * a.inside;
    cell.value2 += w * s.value * s.value;
    cell.inside2 += w * a.inside * a.inside;
    cell.both += w * s.value * a.inside;
    ++cell.count;
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
    s.weight = 1.0 / deviation_of(cell, shared);
    line.samples.push_back(s);
    line.channels.push_back({cell.channels[0] / cell.weight, cell.channels[1] / cell.weight,
                             cell.channels[2] / cell.weight});
  }
  return line;
}

}  // namespace jolly_iris::measuring
