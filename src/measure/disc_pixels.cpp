#include "disc_pixels.hpp"

#include "measure/constants.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr double table_px = 0.125;  // px of the overshoot's table

double cell_at(int i) { return static_cast<double>(i) * table_px; }

}  // namespace

Overshoot::Overshoot(const DrawnDisc& d, const LumaModel& look) {
  const double amount = d.edges->kernel().sharpening;
  if (!(amount > 0.0)) return;
  constexpr double reach_sigmas = 3.5;
  const int beyond = static_cast<int>(reach_sigmas * kernels::sharpening_px / table_px);
  const int half = static_cast<int>(4.0 * d.soft / table_px) + beyond;
  reach_ = cell_at(half);
  // Values before sharpening, farther out than what is asked for by the mask's reach.
  std::vector<double> plain(static_cast<std::size_t>(2 * (half + beyond) + 1));
  const double lamp = lamp_fraction(d);
  for (int i = -half - beyond; i <= half + beyond; ++i) {
    const double cover = d.edges->light(cell_at(i) / d.soft, lamp).cover;
    std::array<double, 3> light;
    for (std::size_t c = 0; c < 3; ++c) {
      light[c] = d.ground_colour[c] * d.ground + d.contrast * d.colour[c] * cover;
    }
    plain[static_cast<std::size_t>(i + half + beyond)] = look.seen(light).value;
  }
  std::vector<double> weight;
  double sum = 0.0;
  for (int k = -beyond; k <= beyond; ++k) {
    const double z = cell_at(k) / kernels::sharpening_px;
    weight.push_back(std::exp(-0.5 * z * z));
    sum += weight.back();
  }
  for (double& w : weight) w /= sum;
  added_.resize(static_cast<std::size_t>(2 * half + 1));
  for (std::size_t i = 0; i < added_.size(); ++i) {
    double soft = 0.0;
    for (std::size_t k = 0; k < weight.size(); ++k) soft += weight[k] * plain[i + k];
    added_[i] = amount * (plain[i + static_cast<std::size_t>(beyond)] - soft);
  }
}

Overshoot::Added Overshoot::at(double inside) const {
  if (added_.empty() || !(std::abs(inside) < reach_)) return {};
  const double x = (inside + reach_) / table_px;
  const auto i = std::min(static_cast<std::size_t>(x), added_.size() - 2);
  const double step = added_[i + 1] - added_[i];
  return {added_[i] + (x - static_cast<double>(i)) * step, step / table_px};
}

DrawnPixel Drawing::at(const Sample& s) const {
  const DrawnDisc& d = disc_;
  DrawnPixel p;
  const double hr = 0.5 * d.height;
  p.at = against(d, shape_, s.x, s.y);
  const EdgeLight e = edge_of(d, p.at);
  const double r2 = std::min(p.at.fraction * p.at.fraction, 1.0);
  p.r6 = r2 * r2 * r2;
  const double brighter = d.rim == 0.0 ? 1.0 : std::exp2(d.rim * p.r6);
  const double cover = brighter * e.cover;
  const double ground = d.ground + d.ground_x * (s.x - d.x) / hr + d.ground_y * (s.y - d.y) / hr;
  std::array<double, 3> light;
  for (std::size_t c = 0; c < 3; ++c) {
    light[c] = d.ground_colour[c] * ground + d.contrast * d.colour[c] * cover + s.others[c];
  }
  const LumaModel::CodedValue seen = look_.seen(light);
  const Overshoot::Added added = overshoot_.at(inside_straight(d, p.at));
  p.value = seen.value + added.value;
  // What is sharpened is cut off once more: whatever changes, it stays there.
  if (look_.clip() && p.value >= 1.0) {
    p.value = 1.0;
    return p;
  }
  if (overshoot_.any() && p.value <= 0.0) {
    p.value = 0.0;
    return p;
  }
  double full = 0.0;
  for (std::size_t c = 0; c < 3; ++c) {
    full += seen.slope[c] * d.colour[c];
    p.ground += seen.slope[c] * d.ground_colour[c];
  }
  full *= d.contrast;
  p.edge = full * brighter * e.slope / d.soft + added.slope;
  p.shine = full * cover;
  p.red = seen.slope[0] * d.contrast * d.colour[0] * cover;
  p.blue = seen.slope[2] * d.contrast * d.colour[2] * cover;
  return p;
}

}  // namespace jolly_iris::measuring
