// The pixels around one disc as residuals of its drawing, with their slopes in closed form.
#pragma once

#include <ceres/ceres.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <vector>

#include "disc_sample.hpp"
#include "drawn_disc.hpp"
#include "luma_model.hpp"

namespace jolly_iris::measuring {

// One block of unknowns.
enum Parameter {
  at_x,
  at_y,
  log_height,
  log_aspect,
  log_contrast,
  log_red,
  log_blue,
  rim,
  ground,
  slope_x,
  slope_y,
  log_edge_sigma,
  parameters
};
using Block = std::array<double, parameters>;

// All but these.
inline std::vector<Parameter> all_but(const std::vector<Parameter>& held) {
  std::vector<Parameter> free;
  for (int i = 0; i < parameters; ++i) {
    const auto u = static_cast<Parameter>(i);
    if (std::find(held.begin(), held.end(), u) == held.end()) free.push_back(u);
  }
  return free;
}

inline Block block_of(const DrawnDisc& d) {
  return {d.x,
          d.y,
          std::log(d.height),
          std::log(d.aspect),
          std::log(d.contrast),
          std::log(d.colour[0]),
          std::log(d.colour[2]),
          d.rim,
          d.ground,
          d.ground_x,
          d.ground_y,
          std::log(d.soft)};
}

inline DrawnDisc disc_of(const Block& b, const DrawnDisc& before) {
  DrawnDisc d = before;
  d.x = b[at_x];
  d.y = b[at_y];
  d.height = std::exp(b[log_height]);
  d.aspect = std::exp(b[log_aspect]);
  d.contrast = std::exp(b[log_contrast]);
  d.colour = {std::exp(b[log_red]), 1.0, std::exp(b[log_blue])};
  d.rim = b[rim];
  d.ground = b[ground];
  d.ground_x = b[slope_x];
  d.ground_y = b[slope_y];
  d.soft = std::exp(b[log_edge_sigma]);
  return d;
}

// What is drawn at a pixel, and how that changes.
struct DrawnPixel {
  Against at{};
  double value = 0.0;
  double edge = 0.0;    // per px that the edge moves outwards
  double shine = 0.0;   // per log of the disc's contrast
  double red = 0.0;     // per log of its red
  double blue = 0.0;    // and its blue
  double ground = 0.0;  // per unit of the ground
  double r6 = 0.0;      // the rim's place: the sixth power of the share of the radius
};

// What sharpening adds to the file's values across a disc's edge: an unsharp mask, whose bell is
// laid across the edge alone, as if it were straight.
class Overshoot {
 public:
  Overshoot(const DrawnDisc& disc, const LumaModel& look);

  bool any() const { return !added_.empty(); }

  struct Added {
    double value = 0.0;
    double slope = 0.0;  // per px farther inside
  };
  // @param inside of a straight edge, px
  Added at(double inside) const;

 private:
  double reach_ = 0.0;
  std::vector<double> added_{};  // empty: nothing is sharpened
};

// A disc as it is drawn into pixels.
class Drawing {
 public:
  // All live longer than this.
  Drawing(const DrawnDisc& disc, const BladeShape& shape, const LumaModel& look)
      : disc_(disc), shape_(shape), look_(look), overshoot_(disc, look) {}

  DrawnPixel at(const Sample& s) const;

 private:
  const DrawnDisc& disc_;
  const BladeShape& shape_;
  const LumaModel& look_;
  Overshoot overshoot_;
};

// What is believed of an unknown before any pixel is looked at.
struct Prior {
  Parameter of;
  double value = 0.0;
  double sigma = 1.0;
};

// All pixels of one disc as residuals, with what is believed of it. Its block holds the unknowns
// that are looked for, in their order; the others are as they were.
class Pixels : public ceres::CostFunction {
 public:
  Pixels(const std::vector<Sample>& samples, const BladeShape& shape, const DrawnDisc& before,
         const LumaModel& look, std::vector<Prior> priors, std::vector<Parameter> free)
      : samples_(samples),
        shape_(shape),
        before_(before),
        look_(look),
        priors_(std::move(priors)),
        free_(std::move(free)),
        usual_(block_of(before)) {
    mutable_parameter_block_sizes()->push_back(static_cast<int>(free_.size()));
    set_num_residuals(static_cast<int>(samples.size() + priors_.size()));
  }

  bool Evaluate(double const* const* parameters, double* residuals,
                double** jacobians) const override {
    Block b = usual_;
    for (std::size_t k = 0; k < free_.size(); ++k) b[free_[k]] = parameters[0][k];
    const DrawnDisc d = disc_of(b, before_);
    if (drawn_.empty() || b != drawn_for_) draw(b, d);
    double* row = jacobians != nullptr ? jacobians[0] : nullptr;
    for (std::size_t i = 0; i < samples_.size(); ++i) {
      const Sample& s = samples_[i];
      *residuals++ = s.weight * (drawn_[i].value - s.value);
      if (row == nullptr) continue;
      const Block all = slopes(d, s, drawn_[i]);
      for (const Parameter u : free_) *row++ = all[u];
    }
    for (const Prior& p : priors_) {
      *residuals++ = (b[p.of] - p.value) / p.sigma;
      if (row == nullptr) continue;
      for (const Parameter u : free_) *row++ = u == p.of ? 1.0 / p.sigma : 0.0;
    }
    return true;
  }

 private:
  void draw(const Block& b, const DrawnDisc& d) const {
    drawn_.resize(samples_.size());
    const Drawing drawing(d, shape_, look_);
    for (std::size_t i = 0; i < samples_.size(); ++i) drawn_[i] = drawing.at(samples_[i]);
    drawn_for_ = b;
  }

  // Of one pixel's residual, by each unknown.
  static Block slopes(const DrawnDisc& d, const Sample& s, const DrawnPixel& p) {
    Block row{};
    const double hr = 0.5 * d.height;
    const double gx = (s.x - d.x) / hr;
    const double gy = (s.y - d.y) / hr;
    if (p.edge != 0.0) {
      const double edge = s.weight * p.edge;
      const double sign = d.turned ? -1.0 : 1.0;
      row[at_x] = edge * sign * p.at.fu / (hr * d.aspect * p.at.slope);
      row[at_y] = -edge * sign * p.at.fv / (hr * p.at.slope);
      row[log_height] = edge * (p.at.u * p.at.fu + p.at.v * p.at.fv) / p.at.slope;
      row[log_aspect] = edge * p.at.u * p.at.fu / p.at.slope;
      row[log_edge_sigma] = -edge * p.at.inside;
    }
    row[log_contrast] = s.weight * p.shine;
    row[log_red] = s.weight * p.red;
    row[log_blue] = s.weight * p.blue;
    row[rim] = s.weight * p.shine * std::numbers::ln2 * p.r6;
    const double ground_here = s.weight * p.ground;
    row[ground] = ground_here;
    row[slope_x] = ground_here * gx;
    row[slope_y] = ground_here * gy;
    row[at_x] -= ground_here * d.ground_x / hr;
    row[at_y] -= ground_here * d.ground_y / hr;
    row[log_height] -= ground_here * (d.ground_x * gx + d.ground_y * gy);
    return row;
  }

  const std::vector<Sample>& samples_;
  const BladeShape& shape_;
  DrawnDisc before_;
  const LumaModel& look_;
  std::vector<Prior> priors_;
  std::vector<Parameter> free_;
  Block usual_;
  // Solvers ask for the slopes where they have just asked for the values.
  mutable std::vector<DrawnPixel> drawn_{};
  mutable Block drawn_for_{};
};

}  // namespace jolly_iris::measuring
