#include "solver.hpp"

#include <Eigen/Dense>
namespace jolly_iris::measuring {

std::optional<double> minimise(ceres::Problem& problem) {
  ceres::Solver::Options options;
  options.logging_type = ceres::SILENT;
  options.minimizer_progress_to_stdout = false;
  options.linear_solver_type = ceres::DENSE_QR;
  options.max_num_iterations = 200;
  options.function_tolerance = 1e-14;
  options.parameter_tolerance = 1e-13;
  options.gradient_tolerance = 1e-16;
  options.num_threads = 1;
  ceres::Solver::Summary summary;
  ceres::Solve(options, &problem, &summary);
  if (!summary.IsSolutionUsable()) return std::nullopt;
  return summary.final_cost;
}

std::optional<double> minimise_pixels(ceres::Problem& problem, int steps) {
  ceres::Solver::Options options;
  options.logging_type = ceres::SILENT;
  options.linear_solver_type = ceres::DENSE_NORMAL_CHOLESKY;
  options.max_num_iterations = steps;
  // Near a bound a step is shortened by the trust region; a search along each step as well would
  // draw all pixels once more.
  options.max_num_line_search_step_size_iterations = 0;
  options.function_tolerance = 1e-4;
  options.parameter_tolerance = 1e-6;
  options.num_threads = 1;
  ceres::Solver::Summary summary;
  ceres::Solve(options, &problem, &summary);
  if (!summary.IsSolutionUsable()) return std::nullopt;
  return summary.final_cost;
}

// Of the cost's own linearisation, (JᵀJ)⁻¹ by a QR decomposition that knows its rank: Ceres's own
// covariance tells what is not determined on stderr as well.
bool covariance_of(ceres::Problem& problem, const double* block, double* matrix) {
  ceres::CRSMatrix sparse;
  ceres::Problem::EvaluateOptions options;
  std::vector<double*>& blocks = options.parameter_blocks;  // in the order of the columns
  problem.GetParameterBlocks(&blocks);
  if (!problem.Evaluate(options, nullptr, nullptr, nullptr, &sparse)) return false;
  Eigen::Index first = -1;  // column of the block
  Eigen::Index columns = 0;
  for (double* b : blocks) {
    if (problem.IsParameterBlockConstant(b)) continue;
    if (b == block) first = columns;
    columns += problem.ParameterBlockTangentSize(b);
  }
  if (first < 0 || columns != sparse.num_cols || sparse.num_rows < columns) return false;
  Eigen::MatrixXd jacobian = Eigen::MatrixXd::Zero(sparse.num_rows, sparse.num_cols);
  for (int row = 0; row < sparse.num_rows; ++row) {
    const auto r = static_cast<std::size_t>(row);
    for (int k = sparse.rows[r]; k < sparse.rows[r + 1]; ++k) {
      const auto at = static_cast<std::size_t>(k);
      jacobian(row, sparse.cols[at]) = sparse.values[at];
    }
  }
  if (!jacobian.allFinite()) return false;
  const Eigen::ColPivHouseholderQR<Eigen::MatrixXd> qr(jacobian);
  if (qr.rank() < columns) return false;
  const Eigen::MatrixXd root =
      qr.matrixR().topRows(columns).template triangularView<Eigen::Upper>().solve(
          Eigen::MatrixXd::Identity(columns, columns));
  const Eigen::MatrixXd all =
      qr.colsPermutation() * (root * root.transpose()) * qr.colsPermutation().transpose();
  // Back from what is free to all of the block's numbers: what is held does not vary.
  using RowMajor = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
  const Eigen::Index free = problem.ParameterBlockTangentSize(block);
  const Eigen::Index size = problem.ParameterBlockSize(block);
  RowMajor lift = RowMajor::Identity(size, free);
  if (const ceres::Manifold* manifold = problem.GetManifold(block)) {
    if (!manifold->PlusJacobian(block, lift.data())) return false;
  }
  Eigen::Map<RowMajor>(matrix, size, size) =
      lift * all.block(first, first, free, free) * lift.transpose();
  return true;
}

}  // namespace jolly_iris::measuring
