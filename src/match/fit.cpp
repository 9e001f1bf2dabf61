#include "fit.hpp"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <cmath>
#include <limits>
#include <optional>

#include "jolly_iris/optics/errors.hpp"
#include "parameter_layout.hpp"
#include "residuals.hpp"

namespace jolly_iris::matching {

namespace {

struct Solved {
  std::vector<double> x{};
  double cost = 0.0;
};

// Whether there is a camera there, and around it: Ceres complains aloud where there is none.
bool can_begin(const Residuals& cost, const std::vector<double>& x) {
  std::vector<double> r(static_cast<std::size_t>(cost.num_residuals()));
  std::vector<double> slopes(r.size() * x.size());
  const double* at[] = {x.data()};
  double* to[] = {slopes.data()};
  return cost.Evaluate(at, r.data(), to);
}

std::optional<Solved> solve(Residuals* cost, std::vector<double> x) {
  if (!can_begin(*cost, x)) return std::nullopt;
  ceres::Problem::Options owning;
  owning.cost_function_ownership = ceres::DO_NOT_TAKE_OWNERSHIP;
  ceres::Problem problem(owning);
  problem.AddResidualBlock(cost, nullptr, x.data());
  // Far beyond what a wrong note does; it keeps steps from running off.
  for (int k = 0; k < static_cast<int>(x.size()); ++k) {
    problem.SetParameterLowerBound(x.data(), k, -150.0);
    problem.SetParameterUpperBound(x.data(), k, 150.0);
  }
  ceres::Solver::Options options;
  options.logging_type = ceres::SILENT;
  options.linear_solver_type = ceres::DENSE_QR;
  options.max_num_iterations = 25;
  options.max_num_line_search_step_size_iterations = 0;  // nothing lies near a bound
  options.function_tolerance = 1e-7;
  options.num_threads = 1;
  ceres::Solver::Summary summary;
  ceres::Solve(options, &problem, &summary);
  if (!summary.IsSolutionUsable()) return std::nullopt;
  return Solved{std::move(x), summary.final_cost};
}

// The start, all noted but parameter k, that leaves least over.
std::vector<double> nearest_on(const Residuals& cost, std::size_t k) {
  constexpr double farthest = 60.0;  // usual deviations: far beyond what is typed by mistake
  constexpr double step = 1.0;
  std::vector<double> x(cost.size(), 0.0);
  std::vector<double> r(static_cast<std::size_t>(cost.num_residuals()));
  double least = std::numeric_limits<double>::infinity();
  double at = 0.0;
  for (double v = -farthest; v <= farthest; v += step) {
    x[k] = v;
    const double* in[] = {x.data()};
    if (!cost.Evaluate(in, r.data(), nullptr)) continue;
    double sum = 0.0;
    for (const double one : r) sum += one * one;
    if (sum < least) {
      least = sum;
      at = v;
    }
  }
  x[k] = at;
  return x;
}

void check(const std::vector<Observation>& seen) {
  if (seen.empty()) {
    throw UsageError(
        "there is nothing to match the notes with; measure discs in the plate, or draw lamps of "
        "known distance");
  }
  for (const Observation& o : seen) {
    if (o.value > 0.0 && o.sigma > 0.0 && std::isfinite(o.value + o.sigma)) continue;
    throw UsageError("'" + o.name + "' was seen with a value or deviation that is not above zero");
  }
}

void check(const MatchSettings& settings) {
  for (const PriorOverride& d : settings.doubts) {
    if (!d.deviation || (*d.deviation > 0.0 && *d.deviation < 10.0)) continue;
    throw UsageError(fmt::format("the {} is doubted by {:g}; a deviation is above zero, as a share",
                                 to_string(d.of), *d.deviation));
  }
}

// The margins, from the curvature of the cost.
Eigen::MatrixXd covariance_of(const Residuals& cost, const std::vector<double>& x,
                              double& log_det) {
  const auto n = static_cast<Eigen::Index>(x.size());
  std::vector<double> r(static_cast<std::size_t>(cost.num_residuals()));
  Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor> j(cost.num_residuals(), n);
  const double* at[] = {x.data()};
  double* to[] = {j.data()};
  cost.Evaluate(at, r.data(), to);
  const Eigen::MatrixXd h = j.transpose() * j;
  const Eigen::LDLT<Eigen::MatrixXd> ldlt(h);
  log_det = ldlt.vectorD().array().max(1e-300).log().sum();
  return ldlt.solve(Eigen::MatrixXd::Identity(n, n));
}

MatchResult result_of(const NotedPlate& plate, std::size_t number, const ParameterLayout& layout,
                      const Residuals& cost, const Solved& best,
                      const Eigen::MatrixXd& covariance) {
  MatchResult out;
  out.estimate = layout.moved(plate.estimate, number, best.x.data());
  for (const ParameterLayout::ParameterSlot& s : layout.of_plate(number)) {
    FittedParameter f;
    f.parameter = s.of;
    f.noted = value_of(plate.estimate, s.of);
    f.mended = f.noted;
    f.value = value_of(out.estimate, s.of);
    const auto i = static_cast<Eigen::Index>(s.at);
    const double sigma = std::sqrt(std::max(0.0, covariance(i, i)));
    f.margin = 2.0 * sigma * usual_deviation(s.of) * unit_of(plate.estimate, out.estimate, s.of);
    f.moved = best.x[s.at];
    f.determined = sigma < 0.7 * layout.prior_sigma(s.at);
    out.parameters.push_back(f);
  }
  const VirtualCamera noted = camera_of(plate.estimate);
  const VirtualCamera found = camera_of(out.estimate);
  for (const Observation& o : plate.seen) {
    ObservationFit f{o, predicted(o, plate.estimate, noted) + typical_own_fraction * o.own_px,
                     predicted(o, out.estimate, found) + cost.own_of(o, best.x.data()), 0.0};
    f.residual = (f.fitted - o.value) / deviation_of(o);
    out.observations.push_back(f);
  }
  return out;
}

}  // namespace

double residual_px(const std::vector<MatchResult>& results, bool noted) {
  double sum = 0.0;
  int count = 0;
  for (const MatchResult& result : results) {
    for (const ObservationFit& o : result.observations) {
      const Observation::Kind kind = o.seen.kind;
      if (kind != Observation::Kind::disc && kind != Observation::Kind::length) continue;
      const double off = (noted ? o.noted : o.fitted) - o.seen.value;
      sum += off * off;
      ++count;
    }
  }
  return count == 0 ? 0.0 : std::sqrt(sum / count);
}

namespace {

std::vector<MatchResult> results_of(const std::vector<NotedPlate>& plates,
                                    const ParameterLayout& layout, const Residuals& cost,
                                    const std::optional<Solved>& best) {
  if (!best) return {};
  double log_det = 0.0;
  const Eigen::MatrixXd covariance = covariance_of(cost, best->x, log_det);
  double log_prior_sigma = 0.0;
  for (std::size_t k = 0; k < layout.size(); ++k)
    log_prior_sigma += std::log(layout.prior_sigma(k));
  std::vector<MatchResult> out;
  for (std::size_t p = 0; p < plates.size(); ++p) {
    out.push_back(result_of(plates[p], p, layout, cost, *best, covariance));
    out.back().cost = best->cost;
    out.back().evidence = -best->cost - 0.5 * log_det - log_prior_sigma;
  }
  return out;
}

}  // namespace

std::vector<MatchResult> fit(const std::vector<NotedPlate>& plates, const MatchSettings& settings,
                             double hopeless) {
  const ParameterLayout layout(plates, settings);
  Residuals cost(plates, layout);
  std::size_t seen = 0;
  for (const NotedPlate& p : plates) seen += p.seen.size();
  std::optional<Solved> best;
  const auto begin_at = [&](std::vector<double> x) {
    const auto one = solve(&cost, std::move(x));
    if (one && (!best || one->cost < best->cost - 1e-9)) best = one;
  };
  // Where nothing is believed of a note the fit may begin far off: it begins where a walk through
  // all that it could be leaves least over.
  bool doubted = false;
  for (std::size_t k = 0; k < layout.size(); ++k) {
    if (!(layout.prior_sigma(k) > 1.0)) continue;
    doubted = true;
    begin_at(nearest_on(cost, k));
  }
  // Discs grow on both sides of the focus: it is begun from both.
  for (const double focus : {0.0, -8.0, 8.0}) {
    std::vector<double> x(cost.size(), 0.0);
    for (std::size_t k = 0; k < layout.size(); ++k) {
      if (layout.what(k) == Parameter::focus)
        x[k] = focus * (layout.prior_sigma(k) > 1.0 ? 1.0 : 0.3);
    }
    begin_at(std::move(x));
    if (best && !doubted && best->cost < static_cast<double>(seen)) break;
    if (best && !doubted && best->cost > hopeless) break;
  }
  return results_of(plates, layout, cost, best);
}

std::vector<MatchResult> fit_nearby(const std::vector<NotedPlate>& plates,
                                    const MatchSettings& settings) {
  const ParameterLayout layout(plates, settings);
  Residuals cost(plates, layout);
  return results_of(plates, layout, cost, solve(&cost, std::vector<double>(cost.size(), 0.0)));
}

}  // namespace jolly_iris::matching

namespace jolly_iris {

using namespace matching;

std::vector<NotedPlate> placed_as_seen(const std::vector<NotedPlate>& plates,
                                       const std::vector<MatchResult>& fitted) {
  struct Disc {
    double off, sigma, placed;
  };
  std::vector<Disc> discs;
  std::size_t parameters = 0;
  for (const MatchResult& m : fitted) {
    for (const FittedParameter& p : m.parameters) parameters += p.determined ? 1U : 0U;
    for (const ObservationFit& o : m.observations) {
      if (!(o.seen.placed_px > 0.0)) continue;
      const double rest = std::hypot(o.seen.sigma, own_fraction_scatter * o.seen.own_px);
      discs.push_back({std::abs(o.fitted - o.seen.value), rest, o.seen.placed_px});
    }
  }
  if (discs.size() < fitting::enough_placed) return plates;
  const double freedom =
      std::max(1.0, static_cast<double>(discs.size()) - static_cast<double>(parameters));
  // A χ² so low that five of six are higher: what is taken is more likely too much than too little.
  const double wanted =
      freedom * std::pow(1.0 - 2.0 / (9.0 * freedom) - std::sqrt(2.0 / (9.0 * freedom)), 3.0);
  const auto chi2 = [&](double share) {
    double sum = 0.0;
    for (const Disc& d : discs) {
      const double r = d.off / std::hypot(d.sigma, share * d.placed);
      sum += std::min(r * r, fitting::robust_from * fitting::robust_from);
    }
    return sum;
  };
  double low = 0.0;
  double high = fitting::worst_placed;
  for (int step = 0; step < 30; ++step) {
    const double middle = 0.5 * (low + high);
    (chi2(middle) > wanted ? low : high) = middle;
  }
  std::vector<NotedPlate> out = plates;
  for (NotedPlate& p : out) {
    for (Observation& o : p.seen) o.placed_px *= high;
  }
  return out;
}

std::vector<MatchResult> match(const std::vector<NotedPlate>& plates,
                               const MatchSettings& settings) {
  if (plates.empty()) throw UsageError("there is no plate to match");
  check(settings);
  for (const NotedPlate& p : plates) {
    check(p.seen);
    // Notes that make no camera are told.
    const VirtualCamera noted = camera_of(p.estimate);
    for (const Observation& o : p.seen) (void)predicted(o, p.estimate, noted);
  }
  std::vector<MatchResult> results = fit(plates, settings);
  if (results.empty())
    throw OpticsError("no camera near the notes fits what was seen; try them one by one");
  return results;
}

}  // namespace jolly_iris
