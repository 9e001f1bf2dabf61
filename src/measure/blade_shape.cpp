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
double area_of(int blades, double q) {
  constexpr int n = 16;
  const double half = pi / blades;
  double sum = 0.0;
  for (int i = 0; i <= n; ++i) {
    const double r = unit_radius(q, std::cos(half * i / n));
    sum += (i == 0 || i == n ? 1.0 : i % 2 == 1 ? 4.0 : 2.0) * 0.5 * r * r;
  }
  return 2.0 * blades * half / (3.0 * n) * sum;
}

}  // namespace

BladeShape::BladeShape(int blades, double curvature, double rotation) : blades_(blades) {
  if (blades_ == 0 || curvature >= 1.0) return;
  // q = curvature × m, and m hangs on q: a few rounds settle it, since m is nearly 1.
  m_ = 1.0;
  for (int i = 0; i < 30; ++i) {
    q_ = std::clamp(curvature * m_, -0.8, 1.0);
    const double next = std::sqrt(pi / area_of(blades_, q_));
    if (std::abs(next - m_) < 1e-13) break;
    m_ = next;
  }
  const double half = pi / blades_;
  cells_a_radian_ = cells / half;
  first_ = pi / 2.0 + rotation;
  blades_a_radian_ = blades_ / (2.0 * pi);
  for (int i = 0; i <= cells + 1; ++i) table_.push_back(exact_radius(half * i / cells));
}

double BladeShape::exact_radius(double from_middle) const {
  return m_ * unit_radius(q_, std::cos(from_middle));
}

}  // namespace jolly_iris::measuring
