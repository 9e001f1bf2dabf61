#include "jolly_iris/measure/ellipse_fit.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <complex>

#include "jolly_iris/optics/errors.hpp"
#include "normal_equations.hpp"

namespace jolly_iris {

namespace {

using Four = measuring::Terms<4>;  // x, y, half width, half height

// Distance of a point from the rim, to first order, and how it changes with the ellipse.
double off(const Four& e, const std::array<double, 2>& p, Four* slope) {
  const double u = (p[0] - e[0]) / e[2];
  const double v = (p[1] - e[1]) / e[3];
  const double r = std::max(std::hypot(u, v), 1e-12);
  const double steep = std::hypot(u / e[2], v / e[3]) / r;  // of r, per px
  if (slope != nullptr) {
    const double per = 1.0 / (r * steep);
    *slope = {-u / e[2] * per, -v / e[3] * per, -u * u / e[2] * per, -v * v / e[3] * per};
  }
  return (r - 1.0) / steep;
}

// x² + b y² + c x + d y + e = 0 by least squares, in units of the points' spread.
Four first_guess(const std::vector<std::array<double, 2>>& points) {
  const auto n = static_cast<double>(points.size());
  std::array<double, 2> middle{};
  for (const auto& p : points) middle = {middle[0] + p[0] / n, middle[1] + p[1] / n};
  double spread = 0.0;
  for (const auto& p : points)
    spread += std::norm(std::complex(p[0] - middle[0], p[1] - middle[1]));
  spread = std::sqrt(spread / n);
  measuring::NormalEquations<4> normal;
  for (const auto& p : points) {
    const double x = (p[0] - middle[0]) / spread;
    const double y = (p[1] - middle[1]) / spread;
    normal.add({y * y, x, y, 1.0}, -x * x);
  }
  const Four q = normal.solve();
  const double x = -0.5 * q[1];
  const double y = -0.5 * q[2] / q[0];
  const double wide2 = x * x + q[0] * y * y - q[3];
  const double high2 = wide2 / q[0];
  if (!(q[0] > 0.0) || !(wide2 > 0.0) || !std::isfinite(wide2 + high2)) {
    throw OpticsError("the points lie on no upright ellipse; click along the rim, all around it");
  }
  return {middle[0] + spread * x, middle[1] + spread * y, spread * std::sqrt(wide2),
          spread * std::sqrt(high2)};
}

}  // namespace

EllipseFit fit_ellipse(const DrawnCircle& circle, double drawn_px) {
  const auto& points = circle.points;
  if (points.size() < 5) {
    throw OpticsError(fmt::format(
        "{} points do not tell an oval; click five or more, all around the rim", points.size()));
  }
  Four e = first_guess(points);
  measuring::NormalEquations<4> normal;
  double sum = 0.0;
  for (int round = 0; round < 20; ++round) {
    normal = measuring::NormalEquations<4>();
    sum = 0.0;
    for (const auto& p : points) {
      Four slope;
      const double r = off(e, p, &slope);
      normal.add(slope, r);
      sum += r * r;
    }
    const Four change = normal.solve();
    for (std::size_t i = 0; i < 4; ++i) e[i] -= change[i];
    if (!(e[2] > 0.0) || !(e[3] > 0.0) || !std::isfinite(e[0] + e[1] + e[2] + e[3])) {
      throw OpticsError("the points lie on no upright ellipse; click along the rim, all around it");
    }
    if (std::sqrt(measuring::dot(change, change)) < 1e-9 * (e[2] + e[3])) break;
  }
  const auto n = static_cast<double>(points.size());
  EllipseFit out;
  out.residual_px = std::sqrt(sum / n);
  // What is believed of a hand counts as four points more.
  const double sigma = std::sqrt((sum + 4.0 * drawn_px * drawn_px) / n);
  out.at = {e[0], e[1]};
  out.width_px = {2.0 * e[2], 4.0 * sigma * std::sqrt(normal.variance(2))};
  out.height_px = {2.0 * e[3], 4.0 * sigma * std::sqrt(normal.variance(3))};
  const double ratio = e[3] / e[2];
  const Four slope{0.0, 0.0, -ratio / e[2], 1.0 / e[2]};
  out.height_over_width = {ratio, 2.0 * sigma * std::sqrt(normal.variance(slope))};
  return out;
}

}  // namespace jolly_iris
