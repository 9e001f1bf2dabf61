#include "usda_polar.hpp"

#include <Eigen/Dense>

namespace jolly_iris::usda {

Polar polar(const Matrix3& map) {
  Eigen::Matrix3d m;
  for (int row = 0; row < 3; ++row) {
    for (int column = 0; column < 3; ++column) {
      m(row, column) = map(static_cast<std::size_t>(row), static_cast<std::size_t>(column));
    }
  }
  const Eigen::JacobiSVD<Eigen::Matrix3d> svd(m, Eigen::ComputeFullU | Eigen::ComputeFullV);
  const double side = (svd.matrixU() * svd.matrixV().transpose()).determinant() < 0.0 ? -1.0 : 1.0;
  Eigen::Matrix3d u = svd.matrixU();
  u.col(2) *= side;
  Eigen::Vector3d values = svd.singularValues();
  values[2] *= side;
  const Eigen::Matrix3d rotation = u * svd.matrixV().transpose();
  const Eigen::Matrix3d resample = svd.matrixV() * values.asDiagonal() * svd.matrixV().transpose();
  Polar out;
  for (std::size_t column = 0; column < 3; ++column) {
    const auto c = static_cast<Eigen::Index>(column);
    out.rotation.column(column) = {rotation(0, c), rotation(1, c), rotation(2, c)};
    out.scale[column] = resample(c, c);
  }
  return out;
}

}  // namespace jolly_iris::usda
