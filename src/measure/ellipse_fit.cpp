#include "jolly_iris/measure/ellipse_fit.hpp"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

using Four = Eigen::Vector4d;  // x, y, half width, half height

// Distance of a point from the rim, to first order, and how it changes with the ellipse.
double off(const Four& e, const std::array<double, 2>& p, Four* slope) {
  const double u = (p[0] - e[0]) / e[2];
  const double v = (p[1] - e[1]) / e[3];
  const double r = std::max(std::hypot(u, v), 1e-12);
  const double steep = std::hypot(u / e[2], v / e[3]) / r;  // of r, per px
  if (slope != nullptr) {
    *slope = Four(-u / e[2], -v / e[3], -u * u / e[2], -v * v / e[3]) / (r * steep);
  }
  return (r - 1.0) / steep;
}

// x² + b y² + c x + d y + e = 0 by least squares, in units of the points' spread.
Four first_guess(const std::vector<std::array<double, 2>>& points) {
  Eigen::Vector2d middle = Eigen::Vector2d::Zero();
  for (const auto& p : points) middle += Eigen::Vector2d(p[0], p[1]);
  middle /= static_cast<double>(points.size());
  double spread = 0.0;
  for (const auto& p : points) spread += (Eigen::Vector2d(p[0], p[1]) - middle).squaredNorm();
  spread = std::sqrt(spread / static_cast<double>(points.size()));
  Eigen::MatrixXd m(static_cast<Eigen::Index>(points.size()), 4);
  Eigen::VectorXd v(m.rows());
  for (Eigen::Index i = 0; i < m.rows(); ++i) {
    const double x = (points[static_cast<std::size_t>(i)][0] - middle.x()) / spread;
    const double y = (points[static_cast<std::size_t>(i)][1] - middle.y()) / spread;
    m.row(i) << y * y, x, y, 1.0;
    v[i] = -x * x;
  }
  const Eigen::Vector4d q = m.colPivHouseholderQr().solve(v);
  const double x = -0.5 * q[1];
  const double y = -0.5 * q[2] / q[0];
  const double wide2 = x * x + q[0] * y * y - q[3];
  const double high2 = wide2 / q[0];
  if (!(q[0] > 0.0) || !(wide2 > 0.0) || !std::isfinite(wide2 + high2)) {
    throw OpticsError("the points lie on no upright ellipse; click along the rim, all around it");
  }
  return {middle.x() + spread * x, middle.y() + spread * y, spread * std::sqrt(wide2),
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
  Eigen::Matrix4d h;
  double sum = 0.0;
  for (int round = 0; round < 20; ++round) {
    h.setZero();
    Four g = Four::Zero();
    sum = 0.0;
    for (const auto& p : points) {
      Four slope;
      const double r = off(e, p, &slope);
      h += slope * slope.transpose();
      g += r * slope;
      sum += r * r;
    }
    const Four step = h.ldlt().solve(g);
    e -= step;
    if (!(e[2] > 0.0) || !(e[3] > 0.0) || !e.allFinite()) {
      throw OpticsError("the points lie on no upright ellipse; click along the rim, all around it");
    }
    if (step.norm() < 1e-9 * (e[2] + e[3])) break;
  }
  const auto n = static_cast<double>(points.size());
  EllipseFit out;
  out.residual_px = std::sqrt(sum / n);
  // What is believed of a hand counts as four points more.
  const double sigma = std::sqrt((sum + 4.0 * drawn_px * drawn_px) / n);
  const Eigen::Matrix4d covariance = sigma * sigma * h.inverse();
  out.at = {e[0], e[1]};
  out.width_px = {2.0 * e[2], 4.0 * std::sqrt(covariance(2, 2))};
  out.height_px = {2.0 * e[3], 4.0 * std::sqrt(covariance(3, 3))};
  const double ratio = e[3] / e[2];
  Four slope(0.0, 0.0, -ratio / e[2], 1.0 / e[2]);
  out.height_over_width = {ratio, 2.0 * std::sqrt(slope.dot(covariance * slope))};
  return out;
}

}  // namespace jolly_iris
