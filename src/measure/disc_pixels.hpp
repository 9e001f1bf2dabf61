// The pixels around one disc as residuals of its drawing, with their slopes in closed form.
#pragma once

#include <ceres/ceres.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <vector>

#include "drawn_disc.hpp"

namespace jolly_iris::measuring {

// One block of unknowns.
enum Unknown {
  at_x,
  at_y,
  log_high,
  log_aspect,
  contrast,
  rim,
  ground,
  slope_x,
  slope_y,
  log_soft,
  unknowns
};
using Block = std::array<double, unknowns>;

inline Block block_of(const DrawnDisc& d) {
  return {d.x,   d.y,      std::log(d.high), std::log(d.aspect), d.contrast,
          d.rim, d.ground, d.ground_x,       d.ground_y,         std::log(d.soft)};
}

inline DrawnDisc disc_of(const Block& b, const DrawnDisc& before) {
  return {b[at_x],
          b[at_y],
          std::exp(b[log_high]),
          std::exp(b[log_aspect]),
          b[contrast],
          b[rim],
          b[ground],
          b[slope_x],
          b[slope_y],
          std::exp(b[log_soft]),
          before.bell,
          before.turned};
}

struct Sample {
  double x, y;  // middle of the pixel
  double value;
  double others;  // light of neighbours
  double weight;  // root of it; in units of 1 / noise
  double slope;   // of the picture, per px
  float share;    // pixels it stands for
};

struct Prior {
  double value = 0.0;
  double sigma = 1.0;
};

// All pixels of one disc as residuals, with what is believed of softness and rim.
class Pixels : public ceres::CostFunction {
 public:
  Pixels(const std::vector<Sample>& samples, const BladeShape& shape, const DrawnDisc& before,
         double clip, Prior soft, Prior rim_prior)
      : samples_(samples),
        shape_(shape),
        before_(before),
        clip_(clip),
        soft_(soft),
        rim_(rim_prior) {
    mutable_parameter_block_sizes()->push_back(unknowns);
    set_num_residuals(static_cast<int>(samples.size()) + 2);
  }

  bool Evaluate(double const* const* parameters, double* residuals,
                double** jacobians) const override {
    Block b;
    std::copy_n(parameters[0], static_cast<int>(unknowns), b.begin());
    const DrawnDisc d = disc_of(b, before_);
    double* row = jacobians != nullptr ? jacobians[0] : nullptr;
    for (std::size_t i = 0; i < samples_.size(); ++i) {
      one(d, samples_[i], residuals[i], row);
      if (row != nullptr) row += unknowns;
    }
    const std::size_t n = samples_.size();
    residuals[n] = (b[log_soft] - soft_.value) / soft_.sigma;
    residuals[n + 1] = (b[rim] - rim_.value) / rim_.sigma;
    if (row != nullptr) {
      std::fill_n(row, 2 * static_cast<int>(unknowns), 0.0);
      row[log_soft] = 1.0 / soft_.sigma;
      row[unknowns + rim] = 1.0 / rim_.sigma;
    }
    return true;
  }

 private:
  void one(const DrawnDisc& d, const Sample& s, double& residual, double* row) const {
    const double hr = 0.5 * d.high;
    const double gx = (s.x - d.x) / hr;
    const double gy = (s.y - d.y) / hr;
    const Against a = against(d, shape_, s.x, s.y);
    const EdgeLight e = edge_of(d, a.inside);
    const double cover = e.cover;
    const double r2 = std::min(a.share * a.share, 1.0);
    const double r6 = r2 * r2 * r2;
    const double brighter = d.rim == 0.0 ? 1.0 : std::exp2(d.rim * r6);
    const double model =
        d.ground + d.ground_x * gx + d.ground_y * gy + d.contrast * brighter * cover + s.others;
    const bool cut = model > clip_;
    residual = s.weight * ((cut ? clip_ : model) - s.value);
    if (row == nullptr) return;
    std::fill_n(row, static_cast<int>(unknowns), 0.0);
    if (cut) return;
    const double edge = d.contrast * brighter * e.slope / d.soft;
    if (edge != 0.0) {
      const double sign = d.turned ? -1.0 : 1.0;
      row[at_x] = s.weight * edge * sign * a.fu / (hr * d.aspect * a.slope);
      row[at_y] = -s.weight * edge * sign * a.fv / (hr * a.slope);
      row[log_high] = s.weight * edge * (a.u * a.fu + a.v * a.fv) / a.slope;
      row[log_aspect] = s.weight * edge * a.u * a.fu / a.slope;
      row[log_soft] = -s.weight * edge * a.inside;
    }
    row[contrast] = s.weight * brighter * cover;
    row[rim] = s.weight * d.contrast * brighter * cover * std::numbers::ln2 * r6;
    row[ground] = s.weight;
    row[slope_x] = s.weight * gx;
    row[slope_y] = s.weight * gy;
    row[at_x] -= s.weight * d.ground_x / hr;
    row[at_y] -= s.weight * d.ground_y / hr;
    row[log_high] -= s.weight * (d.ground_x * gx + d.ground_y * gy);
  }

  const std::vector<Sample>& samples_;
  const BladeShape& shape_;
  DrawnDisc before_;
  double clip_;
  Prior soft_;
  Prior rim_;
};

}  // namespace jolly_iris::measuring
