#include "blade_shape.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

double unit_radius(double q, double cosine) {
  const double a = (1.0 - q) * cosine;
  return (2.0 - q) / (a + std::sqrt(std::max(0.0, a * a + q * (2.0 - q))));
}

// Mean of r²/2 over half a blade, by Simpson's rule: the edge is smooth there.
constexpr int area_steps = 16;
using Cosines = std::array<double, area_steps + 1>;

Cosines cosines_of(int blades) {
  Cosines out{};
  for (std::size_t i = 0; i < out.size(); ++i) {
    out[i] = std::cos(pi / blades * static_cast<double>(i) / area_steps);
  }
  return out;
}

double area_of(const Cosines& cosines, double q) {
  double sum = 0.0;
  for (std::size_t i = 0; i < cosines.size(); ++i) {
    const double r = unit_radius(q, cosines[i]);
    sum += (i == 0 || i == area_steps ? 1.0 : i % 2 == 1 ? 4.0 : 2.0) * 0.5 * r * r;
  }
  return 2.0 * pi / (3.0 * area_steps) * sum;
}

}  // namespace

BladeShape::BladeShape(int blades, double curvature, double rotation) : blades_(blades) {
  if (blades_ == 0 || curvature >= 1.0) return;
  // q = curvature × m, and m hangs on q: a few rounds settle it, since m is nearly 1.
  m_ = 1.0;
  const Cosines cosines = cosines_of(blades_);
  for (int i = 0; i < 30; ++i) {
    q_ = std::clamp(curvature * m_, -0.8, 1.0);
    const double next = std::sqrt(pi / area_of(cosines, q_));
    if (std::abs(next - m_) < 1e-13) break;
    m_ = next;
  }
  const double half = pi / blades_;
  cells_a_radian_ = cells / half;
  first_ = pi / 2.0 + rotation;
  blades_a_radian_ = blades_ / (2.0 * pi);
  for (std::size_t i = 0; i < table_.size(); ++i) {
    table_[i] = exact_radius(half * static_cast<double>(i) / cells);
  }
}

BladeShape BladeShape::turned_to(double rotation) const {
  BladeShape out = *this;
  out.first_ = pi / 2.0 + rotation;
  return out;
}

BladeShape BladeShape::smoothed(double blur) const {
  if (round()) return *this;
  // Gauss and Hermite's five points.
  constexpr std::array<double, 3> at{0.0, 1.3556262, 2.8569700};
  constexpr std::array<double, 3> weight{0.53333333, 0.22207592, 0.01125741};
  BladeShape out = *this;
  for (std::size_t i = 0; i + 1 < table_.size(); ++i) {
    const double direction =
        first_ + (0.5 + 0.5 * static_cast<double>(i) / cells) / blades_a_radian_;
    double sum = weight[0] * radius(direction);
    for (std::size_t k = 1; k < at.size(); ++k) {
      sum += weight[k] * (radius(direction + at[k] * blur) + radius(direction - at[k] * blur));
    }
    out.table_[i] = sum;
  }
  out.table_[cells + 1] = out.table_[cells - 1];  // beyond the corner is another blade
  return out;
}

double BladeShape::exact_radius(double from_middle) const {
  return m_ * unit_radius(q_, std::cos(from_middle));
}

}  // namespace jolly_iris::measuring
