#include "disc_result.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "fast_atan2.hpp"
#include "measure/constants.hpp"
#include "normal_equations.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

}  // namespace

bool tell_edge(const std::vector<Sample>& samples, const BladeShape& shape, const LumaModel& look,
               FittedDisc& fitted) {
  const DrawnDisc& d = fitted.disc;
  std::array<double, profile_bins> top{};
  std::array<double, profile_bins> bottom{};
  std::array<double, profile_bins> slope{};
  std::array<double, profile_bins> radius{};
  std::array<double, profile_bins> count{};
  double left = 0.0;
  double near = 0.0;
  const Drawing drawing(d, shape, look);
  for (const Sample& s : samples) {
    const DrawnPixel p = drawing.at(s);
    const Against& a = p.at;
    const double t = a.inside / d.soft;
    if (std::abs(a.inside) > std::max(3.0 * d.soft, 0.13 / a.slope)) continue;
    const double off = p.value - s.value;
    if (std::abs(t) < 3.0 && !look.max(s.value)) {
      const double sigma = std::hypot(fitted.noise, 0.05 * s.slope);
      left += off * off / (sigma * sigma);
      near += 1.0;
    }
    if (look.max(s.value) && look.max(p.value)) continue;
    // Beyond the drawn edge's own slope residuals still tell: the area they cover is the shift.
    const double angle = fast_atan2(a.v, a.u);
    const auto bin = static_cast<std::size_t>(
        static_cast<int>(std::floor((angle / (2.0 * pi) + 1.0) * profile_bins)) % profile_bins);
    top[bin] -= p.edge * off;
    bottom[bin] += p.edge * p.edge;
    slope[bin] += a.slope;
    radius[bin] +=
        std::hypot(a.u, a.v) / a.fraction;  // of the outline there, the tube's rim over it
    count[bin] += 1.0;
  }
  fitted.left_over = near > 0.0 ? std::sqrt(left / near) : 0.0;
  for (std::size_t k = 0; k < profile_bins; ++k) {
    if (count[k] < 1.0 || bottom[k] <= 0.0) continue;
    const double per_px = slope[k] / count[k];
    const double limit = 2.5 * d.soft + 1.0;
    const double shift = std::clamp(top[k] / bottom[k], -limit, limit);
    fitted.profile.radius[k] = radius[k] / count[k] + shift * per_px;
    const double sigma = per_px * std::sqrt(fitted.noise * fitted.noise / bottom[k] + 0.03 * 0.03);
    fitted.profile.weight[k] = 1.0 / (sigma * sigma);
  }
  return near >= one_disc::fewest_on_edge;
}

void tell_light(const Picture& plate, const std::vector<Sample>& samples, const BladeShape& shape,
                const LumaModel& look, FittedDisc& fitted) {
  const DrawnDisc& d = fitted.disc;
  std::array<double, 3> larger{};
  // The opening has the circle's area; a rim makes its outer part brighter.
  double rim_mean = 0.0;
  constexpr int rings = 64;
  for (int k = 0; k < rings; ++k)
    rim_mean += std::exp2(d.rim * std::pow((k + 0.5) / rings, 3.0)) / rings;
  const double area = pi / 4.0 * d.height * d.height * d.aspect * rim_mean;
  // ground, slopes, contrast, size
  std::array<NormalEquations<5>, 3> normal;
  DrawnDisc even = d;
  even.contrast = 1.0;
  for (const Sample& s : samples) {
    const Rgba& pixel = plate.at(static_cast<int>(s.x), static_cast<int>(s.y));
    const Against a = against(d, shape, s.x, s.y);
    const Terms<5> row{1.0, (s.x - d.x) / d.height, (s.y - d.y) / d.height, light_of(even, a),
                       edge_of(d, a).slope / d.soft};
    for (std::size_t c = 0; c < 3; ++c) {
      const auto value = static_cast<double>(pixel[c]);
      if (look.clip() && value >= one_disc::cut_from * *look.clip()) continue;
      normal[c].add(row, value - s.others[c], s.weight * s.weight);
    }
  }
  for (std::size_t c = 0; c < 3; ++c) {
    normal[c].damp(1.0, 1e-9);
    const Terms<5> found = normal[c].solve();
    const double value = fitted.cut[c] ? d.contrast * d.colour[c] : std::max(0.0, found[3]);
    fitted.shares[c] = value / d.contrast;
    fitted.light[c] = value * area;
    larger[c] = found[3] > 0.0 ? 2.0 * found[4] / found[3] : 0.0;
  }
  if (!fitted.clipped()) fitted.fringe_px = {larger[0] - larger[1], larger[2] - larger[1]};
}

}  // namespace jolly_iris::measuring
