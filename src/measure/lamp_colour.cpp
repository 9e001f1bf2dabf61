#include "lamp_colour.hpp"

#include <ceres/ceres.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "measure/constants.hpp"
#include "solver.hpp"

namespace jolly_iris::measuring {

namespace {

using Channels = std::array<double, 3>;
using Slopes = Eigen::Matrix<double, Eigen::Dynamic, 2, Eigen::RowMajor>;

double luma_of(const Channels& c) {
  return luma_weights[0] * c[0] + luma_weights[1] * c[1] + luma_weights[2] * c[2];
}

// A place on the line.
struct Place {
  double x = 0.0;
  double weight = 0.0;  // root of it
  double luma = 0.0;    // as the file has it
  double source = 0.0;  // before colours were made coarse, as far as is known
  bool inside = false;  // the edge, so that it is known
  double red = 0.0;     // less luma, as the file has it
  double blue = 0.0;
  Channels without{};  // light there without the lamp's
};

std::vector<Place> places_on(const EdgeLine& line, const Channels& within) {
  std::vector<Place> places;
  const DrawnDisc& d = line.disc;
  for (std::size_t i = 0; i < line.samples.size(); i += foot::together) {
    Place p;
    double sum = 0.0;
    Channels is{};
    for (std::size_t k = i; k < std::min<std::size_t>(i + foot::together, line.samples.size());
         ++k) {
      const Sample& s = line.samples[k];
      const double w = s.weight * s.weight;
      sum += w;
      p.x += w * s.x;
      for (std::size_t c = 0; c < 3; ++c) {
        is[c] += w * line.channels[k][c];
        p.without[c] += w * (d.ground_colour[c] * d.ground + s.others[c]);
      }
    }
    p.x /= sum;
    for (std::size_t c = 0; c < 3; ++c) {
      is[c] /= sum;
      p.without[c] /= sum;
    }
    p.luma = p.source = luma_of(is);
    p.red = is[0] - p.luma;
    p.blue = is[2] - p.luma;
    p.weight = std::sqrt(sum);
    places.push_back(p);
  }
  // Within the edge nothing changes any more: what still seems to is the file's noise, and of luma
  // near its end little would be much of the channel that is cut off last.
  const double end = luma_of(within);
  auto shoulder = std::find_if(places.begin(), places.end(),
                               [&](const Place& p) { return p.luma > end - foot::shoulder_luma; });
  for (; shoulder != places.end(); ++shoulder) {
    shoulder->source = end;
    shoulder->inside = true;
  }
  return places;
}

// The foot as a file has it that keeps its colours so coarse: what is left over of it, and what is
// believed of the two colours before.
class Foot : public ceres::CostFunction {
 public:
  Foot(const std::vector<Place>& places, const LumaModel& look, double motion_blur_px)
      : places_(places),
        look_(look),
        n_(static_cast<Eigen::Index>(places.size())),
        motion_blur_(Eigen::MatrixXf::Identity(n_, n_)),
        green_(places.size(), 0.0),
        tint_(n_, 2) {
    mutable_parameter_block_sizes()->push_back(2);
    set_num_residuals(static_cast<int>(2 * n_ + 2));
    if (motion_blur_px <= 0.0) return;
    for (Eigen::Index i = 0; i < n_; ++i) {
      for (Eigen::Index j = 0; j < n_; ++j) {
        const double t = (at(i).x - at(j).x) / motion_blur_px;
        motion_blur_(i, j) = t * t > 14.0 ? 0.0F : static_cast<float>(std::exp(-0.5 * t * t));
      }
    }
    for (Eigen::Index i = 0; i < n_; ++i) motion_blur_.row(i) /= motion_blur_.row(i).sum();
  }

  bool Evaluate(double const* const* parameters, double* residuals,
                double** jacobians) const override {
    const Eigen::Vector2d at(parameters[0][0], parameters[0][1]);
    const Eigen::VectorXd here = left_over(at);
    Eigen::Map<Eigen::VectorXd>(residuals, here.size()) = here;
    if (jacobians == nullptr || jacobians[0] == nullptr) return true;
    Eigen::Map<Slopes> slopes(jacobians[0], here.size(), 2);
    // By hand: Ceres's differences step relative to values, and these logarithms begin near 0; one
    // per cent of a colour is far above what single precision rounds.
    constexpr double little = 1e-2;
    for (Eigen::Index k = 0; k < 2; ++k) {
      slopes.col(k) = (left_over(at + little * Eigen::Vector2d::Unit(k)) - here) / little;
    }
    return true;
  }

 private:
  // In red and in blue, by place, weighed; then the beliefs.
  Eigen::VectorXd left_over(const Eigen::Vector2d& log_colour) const {
    const Channels colour{std::exp(log_colour[0]), 1.0, std::exp(log_colour[1])};
    Eigen::VectorXd left(2 * n_ + 2);
    left.tail(2) = log_colour / foot::usual_colour;
    // What is cut off once colours are smeared changes luma too: a second round has it as the file
    // does.
    std::vector<double> luma(places_.size());
    for (std::size_t i = 0; i < luma.size(); ++i) luma[i] = places_[i].source;
    for (int round = 0; round < 2; ++round) {
      for (Eigen::Index i = 0; i < n_; ++i) {
        const auto k = static_cast<std::size_t>(i);
        const Channels c = channels(k, colour, luma[k]);
        const double y = luma_of(c);
        tint_(i, 0) = static_cast<float>(c[0] - y);
        tint_(i, 1) = static_cast<float>(c[2] - y);
      }
      smeared_.noalias() = motion_blur_ * tint_;
      for (Eigen::Index i = 0; i < n_; ++i) {
        const auto red = static_cast<double>(smeared_(i, 0));
        const auto blue = static_cast<double>(smeared_(i, 1));
        const double green = -(luma_weights[0] * red + luma_weights[2] * blue) / luma_weights[1];
        const Place& p = at(i);
        double& l = luma[static_cast<std::size_t>(i)];
        const Channels out{std::clamp(l + red, 0.0, 1.0), std::clamp(l + green, 0.0, 1.0),
                           std::clamp(l + blue, 0.0, 1.0)};
        const double y = luma_of(out);
        left[2 * i] = p.weight * ((out[0] - y) - p.red);
        left[2 * i + 1] = p.weight * ((out[2] - y) - p.blue);
        if (!p.inside) l = std::clamp(l + p.luma - y, 0.0, 1.0);
      }
    }
    return left;
  }

  const Place& at(Eigen::Index i) const { return places_[static_cast<std::size_t>(i)]; }

  // Each channel as the file would have it at once, if the luma there is this.
  Channels channels(std::size_t k, const Channels& colour, double luma) const {
    if (luma >= foot::max_luma) return {1.0, 1.0, 1.0};
    const auto light = [&](double green) {
      Channels c = places_[k].without;
      for (std::size_t i = 0; i < 3; ++i) c[i] += green * colour[i];
      return c;
    };
    // Luma rises ever more slowly with light: Newton's steps come nearer from one side.
    double& green = green_[k];
    for (int i = 0; i < 12; ++i) {
      const LumaModel::CodedValue seen = look_.seen(light(green));
      double slope = 0.0;
      for (std::size_t c = 0; c < 3; ++c) slope += seen.slope[c] * colour[c];
      if (!(slope > 0.0)) {
        green = 0.0;
        continue;
      }
      green += (luma - seen.value) / slope;
      if (std::abs(luma - seen.value) < 1e-4) break;
    }
    const Channels c = light(green);
    return {look_.coded(c[0]), look_.coded(c[1]), look_.coded(c[2])};
  }

  const std::vector<Place>& places_;
  const LumaModel& look_;
  Eigen::Index n_;
  Eigen::MatrixXf motion_blur_;
  mutable std::vector<double> green_;  // the last answers: the next are near
  mutable Eigen::MatrixX2f tint_;
  mutable Eigen::MatrixX2f smeared_{};
};

struct FootTry {
  LampColour colour{};
  double motion_blur_px = 0.0;
  double cost = std::numeric_limits<double>::infinity();
};

FootTry tried(const std::vector<Place>& places, const LumaModel& look, double motion_blur_px,
              std::array<double, 2> start) {
  FootTry out{{}, motion_blur_px};
  const auto rows = static_cast<Eigen::Index>(2 * places.size() + 2);
  auto* foot = new Foot(places, look, motion_blur_px);
  ceres::Problem problem;  // takes it over
  problem.AddResidualBlock(foot, nullptr, start.data());
  const auto cost = minimise_pixels(problem, foot::steps);
  if (!cost) return out;
  out.cost = *cost;
  Eigen::VectorXd left(rows);
  Slopes slopes(rows, 2);
  const double* at[] = {start.data()};
  double* to[] = {slopes.data()};
  foot->Evaluate(at, left.data(), to);
  const Eigen::Matrix2d m = slopes.transpose() * slopes;
  const Eigen::Matrix2d inverse = m.inverse();
  const double misfit = std::sqrt(std::max(1.0, *cost / static_cast<double>(places.size())));
  Eigen::Vector2d led(0.0, 0.0);
  for (Eigen::Index i = 0; i < rows - 2; ++i) {
    led += foot::left_out * places[static_cast<std::size_t>(i / 2)].weight *
           slopes.row(i).transpose().cwiseAbs();
  }
  out.colour.log_red = start[0];
  out.colour.log_blue = start[1];
  out.colour.red_sigma = std::hypot(misfit * std::sqrt(inverse(0, 0)), led[0] / m(0, 0));
  out.colour.blue_sigma = std::hypot(misfit * std::sqrt(inverse(1, 1)), led[1] / m(1, 1));
  return out;
}

}  // namespace

LampColour lamp_colour(const EdgeLine& line, const LumaModel& look) {
  FootTry best;
  if (line.samples.size() < 16 || !look.clip()) return best.colour;
  // Each channel well within the disc, as the file has it.
  Channels within{};
  for (std::size_t c = 0; c < 3; ++c) {
    const double ground = line.disc.ground_colour[c] * line.disc.ground;
    within[c] = line.cut[c] ? 1.0 : look.coded(ground + line.inside[c]);
  }
  const std::vector<Place> places = places_on(line, within);
  const auto look_from = [&](std::array<double, 2> start, double motion_blur_px) {
    const FootTry here = tried(places, look, motion_blur_px, start);
    if (here.cost < best.cost) best = here;
  };
  for (const double motion_blur_px : foot::smears) look_from({0.0, 0.0}, motion_blur_px);
  // From no colour the way can end short of the best one, and lamps are mostly warm.
  look_from({0.3, -0.4}, best.motion_blur_px);
  return best.colour;
}

EdgeLine with_colour(EdgeLine line, const LampColour& colour) {
  line.cut_colour = {std::exp(colour.log_red), 1.0, std::exp(colour.log_blue)};
  return line;
}

}  // namespace jolly_iris::measuring
