#include "fit.hpp"

#include <ceres/ceres.h>
#include <glog/logging.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "backend.hpp"
#include "jolly_iris/errors.hpp"

namespace jolly_iris::matching {

namespace {

constexpr double tamed_from = 3.0;          // deviations: what is farther off counts little
constexpr double disbelieved = 40.0;        // times the usual deviation
constexpr double infinity_dioptres = 0.02;  // deviation of a focus noted at infinity

double tamed(double r) {
  // Cauchy's loss as a residual.
  const double c2 = tamed_from * tamed_from;
  return std::copysign(std::sqrt(c2 * std::log1p(r * r / c2)), r);
}

// All residuals at once: the camera is made once for all of them.
class Residuals : public ceres::CostFunction {
 public:
  Residuals(const Notes& notes, const std::vector<Observation>& seen,
            const std::vector<Unknown>& unknowns, const std::vector<double>& trust)
      : notes_(notes), seen_(seen), unknowns_(unknowns), trust_(trust) {
    for (const Observation& o : seen) {
      if (o.own_px > 0.0 && group_of(o) == groups_.size()) groups_.push_back(o.group);
    }
    mutable_parameter_block_sizes()->push_back(static_cast<int>(size()));
    set_num_residuals(static_cast<int>(seen.size() + size()));
  }

  // Unknowns, and one share of the lamps' own size for each group of clipped ones.
  std::size_t size() const { return unknowns_.size() + groups_.size(); }

  double own_of(const Observation& o, const double* x) const {
    if (o.own_px <= 0.0) return 0.0;
    return o.own_px * (usual_own_share + own_share_deviation * x[unknowns_.size() + group_of(o)]);
  }

  bool Evaluate(double const* const* parameters, double* residuals,
                double** jacobians) const override {
    const std::size_t n = size();
    std::vector<double> x(parameters[0], parameters[0] + n);
    if (!at(x.data(), residuals)) return false;
    if (jacobians == nullptr || jacobians[0] == nullptr) return true;
    const auto rows = static_cast<std::size_t>(num_residuals());
    std::vector<double> low(rows);
    std::vector<double> high(rows);
    constexpr double step = 1e-4;
    for (std::size_t k = 0; k < n; ++k) {
      const double here = x[k];
      x[k] = here + step;
      if (!at(x.data(), high.data())) return false;
      x[k] = here - step;
      if (!at(x.data(), low.data())) return false;
      x[k] = here;
      for (std::size_t i = 0; i < rows; ++i) {
        jacobians[0][i * n + k] = (high[i] - low[i]) / (2.0 * step);
      }
    }
    return true;
  }

 private:
  bool at(const double* x, double* residuals) const {
    try {
      const Notes notes = moved(notes_, unknowns_, x);
      const VirtualCamera camera = resolve(notes.body, notes.lens, notes.take, notes.focus);
      for (std::size_t i = 0; i < seen_.size(); ++i) {
        residuals[i] =
            tamed((predicted_by(notes, camera, seen_[i]) + own_of(seen_[i], x) - seen_[i].value) /
                  deviation_of(seen_[i]));
      }
    } catch (const OpticsError&) {
      return false;  // no such camera: Ceres takes a smaller step
    }
    for (std::size_t k = 0; k < unknowns_.size(); ++k) {
      residuals[seen_.size() + k] = x[k] / trust_[k];
    }
    for (std::size_t k = unknowns_.size(); k < size(); ++k) residuals[seen_.size() + k] = x[k];
    return true;
  }

  std::size_t group_of(const Observation& o) const {
    return static_cast<std::size_t>(std::find(groups_.begin(), groups_.end(), o.group) -
                                    groups_.begin());
  }

  const Notes& notes_;
  const std::vector<Observation>& seen_;
  const std::vector<Unknown>& unknowns_;
  const std::vector<double>& trust_;
  std::vector<std::string> groups_{};
};

double value_of(const Notes& n, Unknown u) {
  switch (u) {
    case Unknown::focal:
      return n.lens.focal.mm();
    case Unknown::gate:
      return recorded_gate(n.body).width.mm();
    case Unknown::stop:
      return n.take.stop.value;
    case Unknown::focus:
      return n.focus.m();
    case Unknown::squeeze:
      return n.lens.squeeze;
    case Unknown::scale:
      break;
  }
  return n.scene_scale;
}

struct Solved {
  std::vector<double> x{};
  double cost = 0.0;
};

std::optional<Solved> solve(Residuals* cost, std::vector<double> x) {
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
  options.function_tolerance = 1e-7;
  options.num_threads = 1;
  ceres::Solver::Summary summary;
  ceres::Solve(options, &problem, &summary);
  if (!summary.IsSolutionUsable()) return std::nullopt;
  return Solved{std::move(x), summary.final_cost};
}

void check(const std::vector<Observation>& seen) {
  if (seen.empty()) {
    throw UsageError(
        "there is nothing to match the notes with; measure discs in the plate, or draw lamps of "
        "known "
        "distance");
  }
  for (const Observation& o : seen) {
    if (o.value > 0.0 && o.sigma > 0.0 && std::isfinite(o.value + o.sigma)) continue;
    throw UsageError("'" + o.name + "' was seen with a value or deviation that is not above zero");
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

}  // namespace

Notes moved(const Notes& notes, const std::vector<Unknown>& unknowns, const double* x) {
  Notes out = notes;
  for (std::size_t k = 0; k < unknowns.size(); ++k) {
    const double times = std::exp(usual_deviation(unknowns[k]) * x[k]);
    switch (unknowns[k]) {
      case Unknown::focal:
        out.lens.focal = out.lens.focal * times;
        break;
      case Unknown::gate:
        out.body.gate = {out.body.gate.width * times, out.body.gate.height * times};
        break;
      case Unknown::stop:
        out.take.stop.value *= times;
        break;
      case Unknown::focus:
        if (out.focus.is_infinite()) {
          const double power = infinity_dioptres * x[k];
          if (power > 1e-9) out.focus = Length::from_m(1.0 / power);
        } else {
          out.focus = out.focus * times;
        }
        break;
      case Unknown::squeeze:
        out.lens.squeeze = std::max(1.0, out.lens.squeeze * times);
        break;
      case Unknown::scale:
        out.scene_scale *= times;
        break;
    }
  }
  return out;
}

std::vector<Unknown> unknowns_for(const std::vector<Observation>& seen) {
  std::vector<Unknown> out{Unknown::focal, Unknown::gate, Unknown::stop, Unknown::focus,
                           Unknown::scale};
  const bool squeezed = std::any_of(seen.begin(), seen.end(), [](const Observation& o) {
    return o.kind == Observation::Kind::oval || o.kind == Observation::Kind::circle;
  });
  if (squeezed) out.push_back(Unknown::squeeze);
  return out;
}

double predicted_by(const Notes& notes, const VirtualCamera& camera, const Observation& seen) {
  if (seen.kind == Observation::Kind::engraved_focal) return notes.lens.focal.mm();
  if (seen.kind == Observation::Kind::engraved_stop) return notes.take.stop.value;
  return predicted(seen, camera, notes.scene_scale);
}

double deviation_of(const Observation& seen) {
  return std::hypot(seen.sigma, own_share_scatter * seen.own_px);
}

double off_px(const MatchResult& result, bool noted) {
  double sum = 0.0;
  int count = 0;
  for (const ObservationFit& o : result.observations) {
    const Observation::Kind kind = o.seen.kind;
    if (kind != Observation::Kind::disc && kind != Observation::Kind::length) continue;
    const double off = (noted ? o.noted : o.fitted) - o.seen.value;
    sum += off * off;
    ++count;
  }
  return count == 0 ? 0.0 : std::sqrt(sum / count);
}

std::optional<MatchResult> fit(const Notes& notes, const std::vector<Observation>& seen,
                               const MatchSettings& settings, double hopeless) {
  const std::vector<Unknown> unknowns = unknowns_for(seen);
  std::vector<double> trust;
  for (const Unknown u : unknowns) {
    const bool free =
        std::find(settings.free.begin(), settings.free.end(), u) != settings.free.end();
    trust.push_back(free ? disbelieved : 1.0);
  }
  Residuals cost(notes, seen, unknowns, trust);
  std::optional<Solved> best;
  // Discs grow on both sides of the focus: it is begun from both.
  for (const double focus : {0.0, -8.0, 8.0}) {
    std::vector<double> x(cost.size(), 0.0);
    x[3] = focus * (trust[3] > 1.0 ? 1.0 : 0.3);
    const auto one = solve(&cost, std::move(x));
    if (one && (!best || one->cost < best->cost - 1e-9)) best = one;
    if (best && trust[3] == 1.0 && best->cost < static_cast<double>(seen.size())) break;
    if (best && best->cost > hopeless) break;
  }
  if (!best) return std::nullopt;
  MatchResult out;
  out.cost = best->cost;
  double log_det = 0.0;
  const Eigen::MatrixXd covariance = covariance_of(cost, best->x, log_det);
  double log_trust = 0.0;
  for (const double t : trust) log_trust += std::log(t);
  out.evidence = -best->cost - 0.5 * log_det - log_trust;
  out.notes = moved(notes, unknowns, best->x.data());
  for (std::size_t k = 0; k < unknowns.size(); ++k) {
    FoundUnknown f;
    f.unknown = unknowns[k];
    f.noted = value_of(notes, unknowns[k]);
    f.value = value_of(out.notes, unknowns[k]);
    const auto i = static_cast<Eigen::Index>(k);
    const double sigma = std::sqrt(std::max(0.0, covariance(i, i)));
    f.margin = 2.0 * sigma * usual_deviation(unknowns[k]) * f.value;
    f.moved = best->x[k];
    f.determined = sigma < 0.7 * trust[k];
    out.unknowns.push_back(f);
  }
  const VirtualCamera noted = resolve(notes.body, notes.lens, notes.take, notes.focus);
  const VirtualCamera found =
      resolve(out.notes.body, out.notes.lens, out.notes.take, out.notes.focus);
  for (const Observation& o : seen) {
    ObservationFit f{o, predicted_by(notes, noted, o) + usual_own_share * o.own_px,
                     predicted_by(out.notes, found, o) + cost.own_of(o, best->x.data()), 0.0};
    f.off = (f.fitted - o.value) / deviation_of(o);
    out.observations.push_back(f);
  }
  return out;
}

MatchResult match(const Notes& notes, const std::vector<Observation>& seen,
                  const MatchSettings& settings) {
  check(seen);
  FLAGS_minloglevel = google::GLOG_FATAL;  // a start that leads nowhere is no news
  // Notes that make no camera are told.
  const VirtualCamera noted = resolve(notes.body, notes.lens, notes.take, notes.focus);
  for (const Observation& o : seen) (void)predicted_by(notes, noted, o);
  const auto result = fit(notes, seen, settings);
  if (!result)
    throw OpticsError("no camera near the notes fits what was seen; try them one by one");
  return *result;
}

}  // namespace jolly_iris::matching

extern "C" __attribute__((visibility("default"))) const void* jolly_iris_match_backend() {
  static const jolly_iris::matching::Backend backend{jolly_iris::matching::match,
                                                     jolly_iris::matching::explanations};
  return &backend;
}
