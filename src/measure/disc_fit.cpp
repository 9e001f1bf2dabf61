#include "disc_fit.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "disc_pixels.hpp"
#include "disc_result.hpp"
#include "grey_image.hpp"
#include "lamp_colour.hpp"
#include "measure/constants.hpp"
#include "normal_equations.hpp"
#include "solver.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

class Fit {
 public:
  Fit(const Picture& plate, const GreyImage& seen, const DrawnDisc& start, const BladeShape& shape,
      const std::vector<const DrawnDisc*>& others,
      const std::vector<std::array<double, 3>>& others_by_channel, const FitSettings& settings)
      : plate_(plate),
        seen_(seen),
        shape_(shape),
        others_(others),
        others_by_channel_(others_by_channel),
        settings_(settings),
        look_(settings.look) {
    out_.disc = start;
  }

  FittedDisc run() {
    gather();
    if (samples_.size() < 40) return out_;
    look_at_channels();
    if (settings_.again) {
      out_.noise = 0.02;
      out_.disc.edges = &settings_.edges();
    } else {
      begin();
    }
    // A first fit only has to come near, and a fit of a fit to settle.
    const int first = settings_.again ? 2 : 0;
    const int last = !settings_.again && out_.clipped() ? 1 : 2;
    for (int round = first; round <= last; ++round) {
      weigh(round);
      if (!solved(round)) return out_;
      const DrawnDisc& d = out_.disc;
      if (!(d.height > 4.0) || !(d.contrast > 0.0)) return out_;
    }
    weigh(3);
    out_.good = finish();
    move_outwards(farther_px_);
    // Whatever could not be told here must not reach the neighbours.
    const DrawnDisc& told = out_.disc;
    out_.good =
        out_.good && std::isfinite(told.x + told.y + told.height + told.aspect + told.contrast +
                                   told.soft + out_.shares[0] + out_.shares[1] + out_.shares[2] +
                                   out_.height_sigma + out_.lamp_sigma_px + out_.kernel_sigma_px);
    return out_;
  }

 private:
  void gather() {
    const DrawnDisc& d = out_.disc;
    const double hr = 0.5 * d.height;
    const double wr = hr * d.aspect;
    const double beyond = std::max(one_disc::reach, 1.0 + 4.0 / std::min(hr, wr));
    const int x0 = std::max(0, static_cast<int>(d.x - beyond * wr));
    const int x1 = std::min(plate_.width(), static_cast<int>(d.x + beyond * wr) + 1);
    const int y0 = std::max(0, static_cast<int>(d.y - beyond * hr));
    const int y1 = std::min(plate_.height(), static_cast<int>(d.y + beyond * hr) + 1);
    // Away from the edge fewer pixels will do.
    const int stride = std::max(1, static_cast<int>(d.height / 16.0));
    // All fits but the last only have to come near: of a large disc's edge every second pixel will
    // do.
    const bool half = (!settings_.again || settings_.quick) && d.height > one_disc::half_from;
    const double near = std::max(3.5, 0.05 * d.height);
    samples_.clear();
    for (int y = y0; y < y1; ++y) {
      for (int x = x0; x < x1; ++x) {
        const double u = (x + 0.5 - d.x) / wr;
        const double v = (y + 0.5 - d.y) / hr;
        const double r = std::sqrt(u * u + v * v);
        if (r > beyond) continue;
        bool close = std::abs(r - 1.0) * std::min(hr, wr) < near + 0.1 * hr;
        if (close && settings_.again) {  // the outline is known
          const double inside = against(d, shape_, x + 0.5, y + 0.5).inside;
          // What is clipped well within the edge says nothing of it.
          const bool clipped = look_.max(static_cast<double>(seen_.at(x, y)));
          close = inside > -4.0 * d.soft - 2.0 &&
                  inside < (clipped ? 2.0 * d.soft + 1.0 : 4.0 * d.soft + 2.0);
        }
        if (!close && (x % stride != 0 || y % stride != 0)) continue;
        if (close && half && (x + y) % 2 != 0) continue;
        Sample s{x + 0.5,
                 y + 0.5,
                 static_cast<double>(seen_.at(x, y)),
                 {},
                 1.0,
                 slope_at(x, y),
                 close ? (half ? 2.0F : 1.0F) : static_cast<float>(stride * stride),
                 doubt_at(x, y)};
        for (std::size_t k = 0; k < others_.size(); ++k) {
          const double light = light_at(*others_[k], shape_, s.x, s.y);
          for (std::size_t c = 0; c < 3; ++c) s.others[c] += others_by_channel_[k][c] * light;
        }
        samples_.push_back(s);
      }
    }
  }

  // Where a codec's coarser colours meet the clip of a single channel, luma is cut with it.
  double doubt_at(int x, int y) const {
    if (!look_.clip()) return 0.0;
    int cut = 0;
    const Rgba& pixel = plate_.at(x, y);
    for (std::size_t c = 0; c < 3; ++c) {
      cut += static_cast<double>(pixel[c]) > one_disc::cut_from * *look_.clip() ? 1 : 0;
    }
    return cut == 0 || cut == 3 ? 0.0 : one_disc::one_cut;
  }

  // How fast the picture changes there, per px.
  double slope_at(int x, int y) const {
    const auto value = [&](int i, int j) {
      return static_cast<double>(
          seen_.at(std::clamp(i, 0, seen_.width - 1), std::clamp(j, 0, seen_.height - 1)));
    };
    const double across = value(x + 1, y) - value(x - 1, y);
    const double down = value(x, y + 1) - value(x, y - 1);
    return 0.5 * std::sqrt(across * across + down * down);
  }

  // Ground and light by channel, from what lies clearly outside and inside; which are clipped.
  void look_at_channels() {
    std::array<std::vector<double>, 3> in;
    std::array<std::vector<double>, 3> out;
    for (const Sample& s : samples_) {
      const double fraction = against(out_.disc, shape_, s.x, s.y).fraction;
      if (fraction >= 0.8 && fraction <= 1.15) continue;
      const Rgba& pixel = plate_.at(static_cast<int>(s.x), static_cast<int>(s.y));
      for (std::size_t c = 0; c < 3; ++c) {
        // What lies on the clip lies there whatever neighbours add to it.
        const auto v = static_cast<double>(pixel[c]);
        if (fraction < 0.8) in[c].push_back(v);
        if (fraction > 1.15) out[c].push_back(v - s.others[c]);
      }
    }
    for (std::size_t c = 0; c < 3; ++c) {
      grounds_[c] = out[c].empty() ? 0.0 : quantile(out[c], 0.5);
      const double middle = in[c].empty() ? grounds_[c] : quantile(in[c], 0.5);
      out_.cut[c] = look_.clip() && middle > one_disc::cut_from * *look_.clip();
      inside_[c] = std::max(middle - grounds_[c], 1e-9 * look_.white());
    }
    // Brightness is counted in green, and no lamp is without any.
    inside_[1] = std::max(inside_[1], one_disc::least_green * std::max(inside_[0], inside_[2]));
  }

  // Ground and contrast from what lies clearly outside and inside.
  void begin() {
    DrawnDisc& d = out_.disc;
    d.ground = (grounds_[0] + grounds_[1] + grounds_[2]) / 3.0;
    d.ground_x = d.ground_y = 0.0;
    if (d.ground > one_disc::min_ground * look_.white()) {
      for (std::size_t c = 0; c < 3; ++c) d.ground_colour[c] = grounds_[c] / d.ground;
    }
    d.contrast = (out_.cut[1] ? 1.3 : 1.0) * inside_[1];
    d.colour = colour_for(d.contrast, inside_, out_.cut);
    d.rim = 0.0;
    d.edges = &settings_.edges();
    d.soft = std::max(1.2 * d.edges->sigma_px(), std::clamp(0.02 * d.height, 0.4, 1.0));
    out_.noise = 0.05;
  }

  // Pixels that are far off the model count little: neighbours, texture, what stands in front.
  void weigh(int round) {
    left_.resize(samples_.size());
    std::vector<double> residuals;
    residuals.reserve(samples_.size());
    const Drawing drawing(out_.disc, shape_, look_);
    for (std::size_t i = 0; i < samples_.size(); ++i) {
      left_[i] = std::abs(drawing.at(samples_[i]).value - samples_[i].value);
      if (!look_.max(samples_[i].value)) residuals.push_back(left_[i]);
    }
    if (residuals.size() > 20)
      out_.noise = std::max(1.48 * quantile(std::move(residuals), 0.5), one_disc::rounded);
    // While the edge's place and softness are still guesses, pixels on it may be off more.
    const double edge_px = round == 0 ? 1.0 : round == 1 || out_.clipped() ? 0.4 : 0.1;
    const double noise2 = out_.noise * out_.noise;
    for (std::size_t i = 0; i < samples_.size(); ++i) {
      Sample& s = samples_[i];
      const auto square = [](double v) { return v * v; };
      const double sigma2 = noise2 + square((round == 0 ? 0.5 : 0.04) * s.slope) + square(s.doubt);
      const double r2 = square(left_[i]) / (9.0 * (noise2 + square(edge_px * s.slope)));
      s.weight = std::sqrt(static_cast<double>(s.fraction) / sigma2) / (1.0 + r2);
    }
  }

  // An edge that is seen whole tells how soft it is. Of a clipped one, the plate's other lamps do:
  // a lamp's own picture is some share of its disc, and where that is small against what softens
  // all edges, it hardly matters which.
  Prior softness(const DrawnDisc& d) const {
    const double own = settings_.edges().sigma_px();
    if (!out_.clipped() || !settings_.lamp) {
      return {log_edge_sigma,
              std::log(std::max(1.15 * own, one_disc::typical_lamp_fraction * d.height)),
              out_.clipped() ? 0.5 : 0.7};
    }
    const double lamp = settings_.lamp->fraction * d.height;
    const double large = lamp * std::exp(settings_.lamp->spread);
    const double matters = large * large / (large * large + own * own);
    return {log_edge_sigma, std::log(std::hypot(own, lamp)),
            std::hypot(one_disc::own_sigma_known, matters * settings_.lamp->spread)};
  }

  std::vector<Prior> priors(const DrawnDisc& d) const {
    std::vector<Prior> all{softness(d), {rim, 0.0, 1.0}};
    if (!look_.clip()) return all;
    const std::array<double, 3> colour = colour_for(d.contrast, inside_, out_.cut);
    if (lamp_) {
      all.push_back(
          {log_red, lamp_->log_red, std::hypot(one_disc::colour_known, lamp_->red_sigma)});
      all.push_back(
          {log_blue, lamp_->log_blue, std::hypot(one_disc::colour_known, lamp_->blue_sigma)});
    } else {
      // Luma alone does not tell colours: what is not cut off is as it looks, if green is known.
      const double seen = out_.cut[1] ? 2.0 : one_disc::colour_seen;
      all.push_back({log_red, std::log(colour[0]), out_.cut[0] ? one_disc::usual_colour : seen});
      all.push_back({log_blue, std::log(colour[2]), out_.cut[2] ? one_disc::usual_colour : seen});
    }
    if (out_.cut[1])
      all.push_back(
          {log_contrast, std::log(one_disc::usual_excess * inside_[1]), one_disc::excess_spread});
    return all;
  }

  // How far above the clip a lamp's disc was is looked for once in a fit, in its last round (a
  // first fit: in the middle, so that the last one can use it).
  bool solved(int round) {
    if (settings_.again && settings_.lights && out_.clipped()) lamp_ = lamp_colour(edge(), look_);
    if (!out_.cut[1] || round == 0) return solve(round);
    const int when = settings_.again ? 2 : 1;
    if (round == when && (!settings_.again || settings_.lights)) return solve_clipped(round);
    return solve(round, true);
  }

  EdgeLine edge() const {
    EdgeLine line = on_a_line(plate_, look_, samples_, shape_, out_.disc, settings_.codec);
    line.inside = inside_;
    line.cut = out_.cut;
    return lamp_ ? with_colour(std::move(line), *lamp_) : line;
  }

  // How bright a clipped lamp was and how large shows only in how the edge rises, and a fit would
  // not find its way from one lamp to another: several are tried, for each kernel that the plate
  // may have. The likeliest is drawn, and what all of them differ by is margin.
  bool solve_clipped(int round) {
    const EdgeLine line = edge();
    std::vector<std::vector<EdgeTry>> tries;
    double misfit = std::numeric_limits<double>::infinity();
    for (const LikelyKernel& k : settings_.kernels) {
      tries.push_back(edge_tries(line, look_, *k.edges, settings_.lamp));
      misfit = std::min(misfit, misfit_of(tries.back(), line.samples.size()));
    }
    double sum = 0.0;
    double moved = 0.0;
    double doubts = 0.0;
    double first = 0.0;  // of places by kernels, as they are doubted
    double second = 0.0;
    double within = 0.0;
    for (std::size_t k = 0; k < tries.size(); ++k) {
      if (tries[k].empty()) continue;
      const EdgePosterior p = edge_posterior(tries[k], misfit);
      const LikelyKernel& kernel = settings_.kernels[k];
      sum += kernel.weight;
      moved += kernel.weight * p.moved_px;
      doubts += kernel.doubt;
      first += kernel.doubt * p.moved_px;
      second += kernel.doubt * p.moved_px * p.moved_px;
      within += kernel.doubt * p.sigma_px * p.sigma_px;
    }
    if (tries.front().empty()) return false;
    moved /= sum;
    // Around what is told, not around their own mean.
    const double between = second / doubts - 2.0 * moved * first / doubts + moved * moved;
    const EdgeTry& best = tries.front()[edge_posterior(tries.front(), misfit).likeliest];
    DrawnDisc& out = out_.disc;
    out.height *= best.disc.height / line.disc.height;
    out.contrast = best.disc.contrast;
    out.colour = best.disc.colour;
    out.soft = best.disc.soft;
    if (!solve(round, true, true)) return false;
    out_.lamp_sigma_px = 2.0 * std::sqrt(within / doubts);
    out_.kernel_sigma_px = 2.0 * std::sqrt(std::max(0.0, between));
    farther_px_ = 2.0 * (moved - best.moved_px);
    return true;
  }

  bool solve(int round, bool hold_contrast = false, bool hold_softness = false) {
    std::vector<Parameter> held;
    if (hold_softness) held.push_back(log_edge_sigma);
    if (settings_.aspect || round == 0) held.push_back(log_aspect);
    if (hold_contrast) held.push_back(log_contrast);
    // Where only the edge is looked for, the lamp's colour is as it was told before.
    const bool last = settings_.again && !settings_.quick;
    if (!look_.clip() || (hold_contrast && !last)) held.insert(held.end(), {log_red, log_blue});
    if (!settings_.rim || round == 0 || out_.clipped()) held.push_back(rim);
    double cost = 0.0;
    return solve(
        samples_, shape_, out_.disc, held,
        settings_.again && !settings_.quick ? one_disc::steps_on_plate : one_disc::steps_quick,
        cost);
  }

  bool solve(const std::vector<Sample>& samples, const BladeShape& shape, DrawnDisc& d,
             const std::vector<Parameter>& held, int steps, double& cost) const {
    const std::vector<Parameter> free = all_but(held);
    Block block = block_of(d);
    const Block before = block;
    std::vector<double> looked_for;
    for (const Parameter u : free) looked_for.push_back(block[u]);
    ceres::Problem problem;
    problem.AddResidualBlock(new Pixels(samples, shape, d, look_, priors(d), free), nullptr,
                             looked_for.data());
    const auto bound = [&](Parameter i, double low, double high) {
      const auto at = std::find(free.begin(), free.end(), i);
      if (at == free.end()) return;
      const auto k = static_cast<int>(at - free.begin());
      problem.SetParameterLowerBound(looked_for.data(), k, std::min(low, before[i]));
      problem.SetParameterUpperBound(looked_for.data(), k, std::max(high, before[i]));
    };
    bound(at_x, d.x - 0.4 * d.height, d.x + 0.4 * d.height);
    bound(at_y, d.y - 0.4 * d.height, d.y + 0.4 * d.height);
    bound(log_height, before[log_height] - 0.4, before[log_height] + 0.4);
    bound(log_aspect, before[log_aspect] - 0.25, before[log_aspect] + 0.25);
    // Nothing is sharper than the plate itself.
    bound(
        log_edge_sigma,
        std::log(settings_.again ? 0.85 * settings_.edges().sigma_px() : one_disc::min_edge_sigma),
        std::log(std::max(1.0, one_disc::max_edge_fraction * d.height)));
    bound(rim, -6.0, 6.0);
    bound(log_contrast, before[log_contrast] - 4.0, before[log_contrast] + 4.0);
    bound(log_red, -7.0, 7.0);
    bound(log_blue, -7.0, 7.0);
    const auto left = minimise_pixels(problem, steps);
    if (!left) return false;
    cost = *left;
    for (std::size_t k = 0; k < free.size(); ++k) block[free[k]] = looked_for[k];
    d = disc_of(block, DrawnDisc(d));
    return std::isfinite(d.height + d.x + d.contrast);
  }

  bool finish() {
    Block block = block_of(out_.disc);
    const Pixels cost(samples_, shape_, out_.disc, look_, priors(out_.disc), all_but({}));
    const auto rows = static_cast<std::size_t>(cost.num_residuals());
    std::vector<double> r(rows);
    std::vector<double> j(rows * parameters);
    const double* at[] = {block.data()};
    double* to[] = {j.data()};
    cost.Evaluate(at, r.data(), to);
    std::vector<std::size_t> free;
    for (std::size_t i = 0; i < parameters; ++i) {
      if (i == log_aspect && settings_.aspect) continue;
      if ((i == log_contrast || i == log_edge_sigma) && out_.cut[1]) continue;
      if (i == rim && (!settings_.rim || out_.clipped())) continue;
      if ((i == log_red || i == log_blue) && !look_.clip()) continue;
      free.push_back(i);
    }
    // What is not free has slope 0 and is damped alone: its variance is asked of nobody.
    NormalEquations<parameters> normal;
    for (std::size_t row = 0; row < rows; ++row) {
      Terms<parameters> slopes{};
      for (const std::size_t i : free) slopes[i] = j[row * parameters + i];
      normal.add(slopes, r[row]);
    }
    normal.damp(1.0, 1e-12 / static_cast<double>(free.size()));
    const auto sigma = [&](std::size_t i) {
      if (std::find(free.begin(), free.end(), i) == free.end()) return 0.0;
      return std::sqrt(std::max(0.0, normal.variance(i)));
    };
    out_.height_sigma = sigma(log_height) * out_.disc.height;
    out_.scatter = scatter_of(normal, r, j, free);
    out_.aspect_sigma = sigma(log_aspect) * out_.disc.aspect;
    out_.edge_falloff_sigma = sigma(rim);
    out_.contrast_sigma = sigma(log_contrast) * out_.disc.contrast;
    if (!(out_.height_sigma < 0.2 * out_.disc.height)) return false;
    if (!tell_edge(samples_, shape_, look_, out_)) return false;
    tell_light(plate_, samples_, shape_, look_, out_);
    out_.line = edge();
    return true;
  }

  // An edge that is seen elsewhere than it is moves as far in all directions.
  void move_outwards(double px) {
    DrawnDisc& d = out_.disc;
    const double wide = d.height * d.aspect + px;
    d.height += px;
    d.aspect = wide / d.height;
  }

  // Codecs, texture and what is not drawn leave errors that neighbouring pixels share. Parts of the
  // edge do not: how much what each of them says of the size differs is how well it is known
  // (White, A Heteroskedasticity-Consistent Covariance Matrix Estimator, Econometrica 48, 1980; by
  // parts).
  double scatter_of(const NormalEquations<parameters>& normal, const std::vector<double>& r,
                    const std::vector<double>& j, const std::vector<std::size_t>& free) const {
    const Terms<parameters> gain = normal.inverse_row(log_height);
    std::array<double, one_disc::parts> of_part{};
    for (std::size_t i = 0; i < samples_.size(); ++i) {
      const Sample& s = samples_[i];
      const double angle = std::atan2(out_.disc.y - s.y, (s.x - out_.disc.x) / out_.disc.aspect);
      const auto part = static_cast<std::size_t>((angle / (2.0 * pi) + 0.5) * one_disc::parts);
      double says = 0.0;
      for (const std::size_t u : free) says += gain[u] * j[i * parameters + u];
      of_part[std::min<std::size_t>(part, one_disc::parts - 1)] += says * r[i];
    }
    double sum = 0.0;
    for (const double v : of_part) sum += v * v;
    // Place, size and shape have taken some of it up.
    constexpr double left = 1.0 - 5.0 / one_disc::parts;
    return sum / left / std::max(gain[log_height], 1e-300);
  }

  const Picture& plate_;
  const GreyImage& seen_;
  const BladeShape& shape_;
  const std::vector<const DrawnDisc*>& others_;
  const std::vector<std::array<double, 3>>& others_by_channel_;
  const FitSettings& settings_;
  const LumaModel& look_;
  std::vector<Sample> samples_{};
  std::vector<double> left_{};        // over at each, without its sign
  std::array<double, 3> grounds_{};   // by channel, around the disc
  std::array<double, 3> inside_{};    // its light above that, by channel; no less if it is clipped
  std::optional<LampColour> lamp_{};  // of a clipped one
  double farther_px_ = 0.0;           // its height by all lamps than by the one that is drawn
  FittedDisc out_{};
};

}  // namespace

FittedDisc fit_disc(const Picture& plate, const GreyImage& seen, const DrawnDisc& start,
                    const BladeShape& shape, const std::vector<const DrawnDisc*>& others,
                    const std::vector<std::array<double, 3>>& others_by_channel,
                    const FitSettings& settings) {
  return Fit(plate, seen, start, shape, others, others_by_channel, settings).run();
}

}  // namespace jolly_iris::measuring
