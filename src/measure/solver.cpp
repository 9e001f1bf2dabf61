#include "solver.hpp"

#include <glog/logging.h>

#include "backend.hpp"

namespace jolly_iris::measuring {

namespace {

// A start that leads nowhere is no news: others follow. Ceres tells it on stderr all the same.
class Quiet {
 public:
  Quiet() : before_(FLAGS_minloglevel) { FLAGS_minloglevel = google::GLOG_FATAL; }
  ~Quiet() { FLAGS_minloglevel = before_; }
  Quiet(const Quiet&) = delete;
  Quiet& operator=(const Quiet&) = delete;

 private:
  int before_;
};

}  // namespace

std::optional<double> minimise(ceres::Problem& problem) {
  const Quiet quiet;
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
  const Quiet quiet;
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

bool covariance_of(ceres::Problem& problem, const double* block, double* matrix) {
  const Quiet quiet;
  ceres::Covariance::Options options;
  options.algorithm_type = ceres::SPARSE_QR;  // refuses what is not determined
  options.sparse_linear_algebra_library_type = ceres::EIGEN_SPARSE;
  options.num_threads = 1;
  ceres::Covariance covariance(options);
  const std::vector<std::pair<const double*, const double*>> blocks{{block, block}};
  return covariance.Compute(blocks, &problem) &&
         covariance.GetCovarianceBlock(block, block, matrix);
}

}  // namespace jolly_iris::measuring

extern "C" __attribute__((visibility("default"))) const void* jolly_iris_measure_backend() {
  static const jolly_iris::measuring::Backend backend{
      jolly_iris::measuring::distortion_from_lines, jolly_iris::measuring::perspective_from_lines,
      jolly_iris::measuring::discs_in_plate, jolly_iris::measuring::outline_of};
  return &backend;
}
