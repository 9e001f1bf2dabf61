#include "move_ease.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace jolly_iris::matching {

namespace {

// How an ease with its ends wherever they fit best goes through the points.
struct EaseFit {
  Ease ease{};
  double begins = 0.0;
  double ends = 0.0;
  double from = 0.0;
  double to = 0.0;
  double misfit = std::numeric_limits<double>::infinity();
};

class EaseFitter {
 public:
  EaseFitter(const std::vector<CurvePoint>& points, const ValueCurve& curve, double first,
             double last) {
    for (std::size_t i = 0; i < points.size(); ++i) {
      const CurvePoint& p = points[i];
      if (p.frame < first || p.frame > last) continue;
      const double s = curve.scatter * p.sigma;
      rows_.push_back({p.frame, p.value, std::min(1.0, curve.weight[i]) / (s * s)});
    }
  }
  std::size_t points() const { return rows_.size(); }

  /// Values before and after follow in closed form.
  EaseFit at(const Ease& ease, double begins, double ends) const {
    double a00 = 0.0, a01 = 0.0, a11 = 0.0, b0 = 0.0, b1 = 0.0;
    for (const Row& r : rows_) {
      const double e = share(ease, begins, ends, r.frame);
      a00 += r.weight * (1.0 - e) * (1.0 - e);
      a01 += r.weight * (1.0 - e) * e;
      a11 += r.weight * e * e;
      b0 += r.weight * (1.0 - e) * r.value;
      b1 += r.weight * e * r.value;
    }
    EaseFit out{ease, begins, ends, 0.0, 0.0, std::numeric_limits<double>::infinity()};
    const double det = a00 * a11 - a01 * a01;
    if (!(det > 1e-12 * a00 * a11)) return out;
    out.from = (b0 * a11 - b1 * a01) / det;
    out.to = (b1 * a00 - b0 * a01) / det;
    out.misfit = 0.0;
    for (const Row& r : rows_) {
      const double e = share(ease, begins, ends, r.frame);
      const double off = r.value - (out.from + (out.to - out.from) * e);
      out.misfit += r.weight * off * off;
    }
    return out;
  }

  EaseFit best(const Ease& ease, double begins, double ends) const {
    EaseFit least = at(ease, begins, ends);
    for (double step = std::max(1.0, 0.125 * (ends - begins)); step > 0.05; step *= 0.5) {
      for (bool better = true; better;) {
        better = false;
        const EaseFit from = least;
        for (const auto& [b, e] :
             {std::array{-step, 0.0}, std::array{step, 0.0}, std::array{0.0, -step},
              std::array{0.0, step}, std::array{step, step}, std::array{-step, -step}}) {
          if (from.ends + e - from.begins - b < 1.0) continue;
          const EaseFit other = at(ease, from.begins + b, from.ends + e);
          if (other.misfit < least.misfit - 1e-9) {
            least = other;
            better = true;
          }
        }
      }
    }
    return least;
  }

 private:
  struct Row {
    double frame, value, weight;
  };
  static double share(const Ease& ease, double begins, double ends, double frame) {
    if (frame <= begins) return 0.0;
    if (frame >= ends) return 1.0;
    return between(ease, 0.0, 1.0, (frame - begins) / (ends - begins));
  }
  std::vector<Row> rows_{};
};

std::vector<Ease> eases_for(const Move& move) {
  using Kind = Ease::Kind;
  if (move.likeliest == MoveKind::pull) {
    return {{.kind = Kind::smooth},
            {.kind = Kind::linear},
            {.kind = Kind::slow_start},
            {.kind = Kind::slow_stop}};
  }
  std::vector<Ease> out;
  if (!(move.past > 0.0)) return out;
  for (const int swings : {1, 2, 3, 4}) {
    out.push_back({.kind = Kind::overshoot, .by = move.past, .swings = swings});
  }
  return out;
}

// The first time an ease has gone so far, in its own time.
double time_at(const Ease& ease, double share) {
  constexpr int steps = 2000;
  for (int i = 1; i <= steps; ++i) {
    if (between(ease, 0.0, 1.0, static_cast<double>(i) / steps) >= share) {
      return static_cast<double>(i) / steps;
    }
  }
  return 1.0;
}

}  // namespace

void fit_ease(const std::vector<CurvePoint>& points, const ValueCurve& curve, std::size_t first,
              std::size_t last, Move& move) {
  const EaseFitter fitter(points, curve, curve.frames[first], curve.frames[last]);
  if (fitter.points() < 6) return;
  EaseFit best;
  for (const Ease& ease : eases_for(move)) {
    const EaseFit fit = fitter.best(ease, move.begins, move.ends);
    if (fit.misfit < best.misfit) best = fit;
  }
  // As well as the curve itself could: χ² of so many points, and three deviations of it.
  const auto n = static_cast<double>(fitter.points());
  if (!(best.misfit <= n + 3.0 * std::sqrt(2.0 * n))) return;
  move.ease = best.ease;
  move.eased = true;
  move.begins = best.begins;
  move.ends = best.ends;
  move.from = best.from;
  move.to = best.to;
  move.tenth = best.begins + (best.ends - best.begins) * time_at(best.ease, 0.1);
  move.nine_tenths = best.begins + (best.ends - best.begins) * time_at(best.ease, 0.9);
}

}  // namespace jolly_iris::matching
