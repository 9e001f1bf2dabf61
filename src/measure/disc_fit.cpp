#include "disc_fit.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "disc_pixels.hpp"
#include "plane.hpp"
#include "soft_edge.hpp"
#include "solver.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr double pi = std::numbers::pi;
constexpr double reach = 1.4;        // radii around the middle that are looked at
constexpr double least_soft = 0.25;  // a pixel's own width, and a little less
constexpr double clipped_share = 0.01;
constexpr double likelihood_tamed = 4.0;  // neighbouring pixels of a plate share their errors
constexpr double most_soft_share = 0.3;
constexpr int steps_a_try = 6;
constexpr double half_from = 24.0;  // px
constexpr double smeared = 1.8;     // times the softness of all edges

double value_of(const Rgba& p, const std::array<double, 3>& channels) {
  return static_cast<double>(p[0]) * channels[0] + static_cast<double>(p[1]) * channels[1] +
         static_cast<double>(p[2]) * channels[2];
}

// Which channels are looked at: those that are not clipped within, if any are.
std::array<double, 3> channels_for(const Picture& plate, const DrawnDisc& d,
                                   std::optional<double> clipped_at, bool& clipped) {
  std::array<std::vector<float>, 3> within;
  const double hr = 0.5 * d.high;
  for (int k = 0; k < 48; ++k) {
    const double a = 2.0 * pi * k / 48.0 * 5.0;
    const double r = 0.75 * std::sqrt((k + 0.5) / 48.0);
    const int x = static_cast<int>(d.x + r * hr * d.aspect * std::cos(a));
    const int y = static_cast<int>(d.y + r * hr * std::sin(a));
    if (x < 0 || y < 0 || x >= plate.width() || y >= plate.height()) continue;
    for (std::size_t c = 0; c < 3; ++c) within[c].push_back(plate.at(x, y)[c]);
  }
  std::array<double, 3> channels{};
  double sum = 0.0;
  for (std::size_t c = 0; c < 3; ++c) {
    const double middle = static_cast<double>(quantile(within[c], 0.5));
    const double high = static_cast<double>(quantile(within[c], 0.9));
    channels[c] =
        clipped_at && (middle > 0.95 * *clipped_at || high > 0.985 * *clipped_at) ? 0.0 : 1.0;
    sum += channels[c];
  }
  // Files that keep colours coarser than light let a clipped channel into the others' edges.
  clipped = sum < 3.0;
  if (sum == 0.0) {
    // The one that is clipped the least tells most of the edge.
    std::array<int, 3> count{};
    const int x0 = std::max(0, static_cast<int>(d.x - 1.3 * hr * d.aspect));
    const int x1 = std::min(plate.width(), static_cast<int>(d.x + 1.3 * hr * d.aspect) + 1);
    const int y0 = std::max(0, static_cast<int>(d.y - 1.3 * hr));
    const int y1 = std::min(plate.height(), static_cast<int>(d.y + 1.3 * hr) + 1);
    for (int y = y0; y < y1; ++y) {
      for (int x = x0; x < x1; ++x) {
        for (std::size_t c = 0; c < 3; ++c) {
          if (static_cast<double>(plate.at(x, y)[c]) > 0.985 * *clipped_at) ++count[c];
        }
      }
    }
    const int least = std::min({count[0], count[1], count[2]});
    for (std::size_t c = 0; c < 3; ++c) channels[c] = count[c] <= 1.02 * least ? 1.0 : 0.0;
  }
  sum = channels[0] + channels[1] + channels[2];
  for (double& c : channels) c /= sum;
  return channels;
}

class Fit {
 public:
  Fit(const Picture& plate, const DrawnDisc& start, const BladeShape& shape,
      const std::vector<const DrawnDisc*>& others,
      const std::vector<std::array<double, 3>>& others_by_channel, const FitSettings& settings,
      std::optional<std::array<double, 3>> channels = std::nullopt)
      : plate_(plate),
        shape_(shape),
        others_(others),
        others_by_channel_(others_by_channel),
        settings_(settings) {
    out_.disc = start;
    out_.channels = channels_for(plate, start, settings.clipped_at, out_.clipped);
    if (channels) out_.channels = *channels;
    clip_ = settings.clipped_at ? *settings.clipped_at : std::numeric_limits<double>::infinity();
  }

  FittedDisc run() {
    gather();
    if (samples_.size() < 40) return out_;
    if (settings_.again) {
      out_.noise = 0.02 * out_.disc.contrast;
      out_.disc.bell = settings_.bell;
    } else {
      begin();
    }
    // A first fit only has to come near, and a fit of a fit to settle.
    const int first = settings_.again ? 2 : 0;
    const int last = !settings_.again && out_.clipped ? 1 : 2;
    for (int round = first; round <= last; ++round) {
      weigh(round);
      if (!solved(round)) return out_;
      const DrawnDisc& d = out_.disc;
      if (!(d.high > 4.0) || !(d.contrast > 0.0)) return out_;
    }
    weigh(3);
    out_.good = finish();
    return out_;
  }

 private:
  void gather() {
    const DrawnDisc& d = out_.disc;
    const double hr = 0.5 * d.high;
    const double wr = hr * d.aspect;
    const double beyond = std::max(reach, 1.0 + 4.0 / std::min(hr, wr));
    const int x0 = std::max(0, static_cast<int>(d.x - beyond * wr));
    const int x1 = std::min(plate_.width(), static_cast<int>(d.x + beyond * wr) + 1);
    const int y0 = std::max(0, static_cast<int>(d.y - beyond * hr));
    const int y1 = std::min(plate_.height(), static_cast<int>(d.y + beyond * hr) + 1);
    // Away from the edge fewer pixels will do.
    const int stride = std::max(1, static_cast<int>(d.high / 16.0));
    // All fits but the last only have to come near: of a large disc's edge every second pixel will
    // do.
    const bool half = (!settings_.again || settings_.quick) && d.high > half_from;
    const double near = std::max(3.5, 0.05 * d.high);
    samples_.clear();
    for (int y = y0; y < y1; ++y) {
      for (int x = x0; x < x1; ++x) {
        const double u = (x + 0.5 - d.x) / wr;
        const double v = (y + 0.5 - d.y) / hr;
        const double r = std::sqrt(u * u + v * v);
        if (r > beyond) continue;
        bool close = std::abs(r - 1.0) * std::min(hr, wr) < near + 0.1 * hr;
        if (close && settings_.again) {  // the outline is known
          close = std::abs(against(d, shape_, x + 0.5, y + 0.5).inside) < 4.0 * d.soft + 2.0;
        }
        if (!close && (x % stride != 0 || y % stride != 0)) continue;
        if (close && half && (x + y) % 2 != 0) continue;
        Sample s{x + 0.5,
                 y + 0.5,
                 value_of(plate_.at(x, y), out_.channels),
                 0.0,
                 1.0,
                 slope_at(x, y),
                 close ? (half ? 2.0F : 1.0F) : static_cast<float>(stride * stride)};
        for (std::size_t k = 0; k < others_.size(); ++k) {
          const double scale = others_by_channel_[k][0] * out_.channels[0] +
                               others_by_channel_[k][1] * out_.channels[1] +
                               others_by_channel_[k][2] * out_.channels[2];
          s.others += scale * light_at(*others_[k], shape_, s.x, s.y);
        }
        samples_.push_back(s);
      }
    }
  }

  // How fast the picture changes there, per px.
  double slope_at(int x, int y) const {
    const auto value = [&](int i, int j) {
      return value_of(
          plate_.at(std::clamp(i, 0, plate_.width() - 1), std::clamp(j, 0, plate_.height() - 1)),
          out_.channels);
    };
    return 0.5 * std::hypot(value(x + 1, y) - value(x - 1, y), value(x, y + 1) - value(x, y - 1));
  }

  // Ground and contrast from what lies clearly outside and inside.
  void begin() {
    DrawnDisc& d = out_.disc;
    std::vector<double> in;
    std::vector<double> out;
    for (const Sample& s : samples_) {
      const double share = against(d, shape_, s.x, s.y).share;
      if (share < 0.8) in.push_back(s.value - s.others);
      if (share > 1.15) out.push_back(s.value - s.others);
    }
    d.ground = out.empty() ? 0.0 : quantile(out, 0.5);
    const double inside = in.empty() ? d.ground : quantile(in, 0.5);
    d.contrast = std::max(inside - d.ground, 1e-9);
    if (out_.clipped) d.contrast *= 1.3;
    d.ground_x = d.ground_y = 0.0;
    d.rim = 0.0;
    d.bell = settings_.bell;
    d.soft = std::max(1.2 * d.bell, std::clamp(0.02 * d.high, 0.4, 1.0));
    out_.noise = 0.05 * d.contrast;
  }

  double residual(const Sample& s) const {
    const DrawnDisc& d = out_.disc;
    const double hr = 0.5 * d.high;
    const double model = d.ground + d.ground_x * (s.x - d.x) / hr + d.ground_y * (s.y - d.y) / hr +
                         light_at(d, shape_, s.x, s.y) + s.others;
    return std::min(model, clip_) - s.value;
  }

  // Pixels that are far off the model count little: neighbours, texture, what stands in front.
  void weigh(int round) {
    std::vector<double> off;
    for (const Sample& s : samples_) {
      if (s.value < clip_) off.push_back(std::abs(residual(s)));
    }
    const double floor = 2e-3 * std::min(out_.disc.contrast, clip_);
    if (off.size() > 20) out_.noise = std::max(1.48 * quantile(off, 0.5), floor);
    // While the edge's place and softness are still guesses, pixels on it may be off more.
    const double edge_px = round == 0 ? 1.0 : round == 1 || out_.clipped ? 0.4 : 0.1;
    for (Sample& s : samples_) {
      const double sigma = std::hypot(out_.noise, (round == 0 ? 0.5 : 0.04) * s.slope);
      const double r = residual(s) / (3.0 * std::hypot(out_.noise, edge_px * s.slope));
      const double tamed = 1.0 / (1.0 + r * r);
      s.weight = std::sqrt(static_cast<double>(s.share)) * tamed / sigma;
    }
  }

  Prior soft_prior() const {
    return {std::log(std::max(1.15 * settings_.bell, 0.012 * out_.disc.high)), 0.7};
  }

  // How far above the clip a lamp's disc was is looked for once in a fit, in its last round (a
  // first fit: in the middle, so that the last one can use it).
  bool solved(int round) {
    if (!out_.clipped || round == 0) return solve(round);
    const int when = settings_.again ? 2 : 1;
    if (round == when && (!settings_.again || settings_.lights)) return solve_clipped(round);
    return solve(round, true);
  }

  // How far above the clip a lamp's disc was shows only in how its edge rises, and a fit would not
  // find its way from one light to another: each is tried, and what they differ by is margin.
  bool solve_clipped(int round) {
    const DrawnDisc start = out_.disc;
    struct Try {
      DrawnDisc disc;
      double cost;
    };
    std::vector<Try> tries;
    const double least = clip_ - start.ground;
    weigh(round);
    static const std::vector<double> few{1.2, 2.2, 4.6};
    static const std::vector<double> many{1.05, 1.5, 2.2, 3.2, 4.6, 7.0};
    double cheapest = std::numeric_limits<double>::infinity();
    out_.disc = start;
    for (const double times : settings_.again ? many : few) {
      // Each begins where the one before it ended.
      out_.disc.contrast = std::max(times * least, 1e-9);
      double cost = 0.0;
      if (solve(round, true, &cost)) {
        tries.push_back({out_.disc, cost});
        cheapest = std::min(cheapest, cost);
        // Brighter ones only become less likely from here on.
        if (cost > cheapest + 12.0 * likelihood_tamed) break;
      } else {
        out_.disc = start;
      }
    }
    if (tries.empty()) return false;
    const auto best = std::min_element(tries.begin(), tries.end(),
                                       [](const Try& a, const Try& b) { return a.cost < b.cost; });
    // Each try by its likelihood.
    double sum = 0.0;
    double high = 0.0;
    double high2 = 0.0;
    for (const Try& t : tries) {
      const double w = std::exp(std::max(best->cost - t.cost, -700.0) / likelihood_tamed);
      sum += w;
      high += w * t.disc.high;
      high2 += w * t.disc.high * t.disc.high;
    }
    out_.disc = best->disc;
    high /= sum;
    clipped_sigma_ = std::sqrt(std::max(0.0, high2 / sum - high * high));
    return true;
  }

  bool solve(int round, bool hold_contrast = false, double* cost = nullptr) {
    Block block = block_of(out_.disc);
    const Block before = block;
    ceres::Problem problem;
    problem.AddResidualBlock(
        new Pixels(samples_, shape_, out_.disc, clip_, soft_prior(), {0.0, 1.0}), nullptr,
        block.data());
    std::vector<int> held;
    if (settings_.aspect || round == 0) held.push_back(log_aspect);
    if (hold_contrast) held.push_back(contrast);
    if (!settings_.rim || round == 0 || out_.clipped) held.push_back(rim);
    if (!held.empty()) {
      problem.SetManifold(block.data(), new ceres::SubsetManifold(unknowns, held));
    }
    const auto bound = [&](int i, double low, double high) {
      if (std::find(held.begin(), held.end(), i) != held.end()) return;
      problem.SetParameterLowerBound(block.data(), i,
                                     std::min(low, before[static_cast<std::size_t>(i)]));
      problem.SetParameterUpperBound(block.data(), i,
                                     std::max(high, before[static_cast<std::size_t>(i)]));
    };
    const DrawnDisc& d = out_.disc;
    bound(at_x, d.x - 0.4 * d.high, d.x + 0.4 * d.high);
    bound(at_y, d.y - 0.4 * d.high, d.y + 0.4 * d.high);
    bound(log_high, before[log_high] - 0.4, before[log_high] + 0.4);
    bound(log_aspect, before[log_aspect] - 0.25, before[log_aspect] + 0.25);
    // Nothing is sharper than the plate itself.
    bound(log_soft, std::log(settings_.again ? 0.85 * settings_.bell : least_soft),
          std::log(std::max(1.0, most_soft_share * d.high)));
    bound(rim, -6.0, 6.0);
    bound(contrast, 0.0, 60.0 * d.contrast);
    const auto left = minimise_pixels(problem, cost == nullptr ? 12 : steps_a_try);
    if (!left) return false;
    if (cost != nullptr) *cost = *left;
    out_.disc = disc_of(block, DrawnDisc(d));
    return std::isfinite(out_.disc.high + out_.disc.x + out_.disc.contrast);
  }

  bool finish() {
    Block block = block_of(out_.disc);
    const Pixels cost(samples_, shape_, out_.disc, clip_, soft_prior(), {0.0, 1.0});
    Eigen::VectorXd r(cost.num_residuals());
    Eigen::Matrix<double, Eigen::Dynamic, unknowns, Eigen::RowMajor> j(cost.num_residuals(),
                                                                       static_cast<int>(unknowns));
    const double* at[] = {block.data()};
    double* to[] = {j.data()};
    cost.Evaluate(at, r.data(), to);
    std::vector<int> free;
    for (int i = 0; i < unknowns; ++i) {
      if (i == log_aspect && settings_.aspect) continue;
      if (i == rim && (!settings_.rim || out_.clipped)) continue;
      free.push_back(i);
    }
    const auto n = static_cast<Eigen::Index>(free.size());
    Eigen::MatrixXd m(n, n);
    for (Eigen::Index a = 0; a < n; ++a) {
      for (Eigen::Index b = 0; b < n; ++b) {
        m(a, b) =
            j.col(free[static_cast<std::size_t>(a)]).dot(j.col(free[static_cast<std::size_t>(b)]));
      }
    }
    for (Eigen::Index a = 0; a < n; ++a) m(a, a) += 1e-12 * m.trace() / static_cast<double>(n);
    const Eigen::MatrixXd inverse = m.ldlt().solve(Eigen::MatrixXd::Identity(n, n));
    const auto sigma = [&](int i) {
      for (Eigen::Index a = 0; a < n; ++a) {
        if (free[static_cast<std::size_t>(a)] == i) return std::sqrt(std::max(0.0, inverse(a, a)));
      }
      return 0.0;
    };
    // Of a clipped disc nobody knows how much is the lamp's own size.
    const double own = out_.clipped ? clipped_share * out_.disc.high : 0.0;
    out_.high_sigma = std::hypot(sigma(log_high) * out_.disc.high, clipped_sigma_, own);
    out_.aspect_sigma = sigma(log_aspect) * out_.disc.aspect;
    out_.rim_sigma = sigma(rim);
    out_.contrast_sigma = sigma(contrast);
    if (!(out_.high_sigma < 0.2 * out_.disc.high)) return false;
    profile();
    colours();
    return true;
  }

  // A residual near the edge is the edge's place times the slope of the light there.
  void profile() {
    const DrawnDisc& d = out_.disc;
    std::array<double, profile_bins> top{};
    std::array<double, profile_bins> bottom{};
    std::array<double, profile_bins> slope{};
    std::array<double, profile_bins> shape{};
    std::array<double, profile_bins> count{};
    double left = 0.0;
    double near = 0.0;
    for (const Sample& s : samples_) {
      const Against a = against(d, shape_, s.x, s.y);
      const double t = a.inside / d.soft;
      if (std::abs(a.inside) > std::max(3.0 * d.soft, 0.13 / a.slope)) continue;
      const double off = residual(s);
      if (std::abs(t) < 3.0 && s.value < clip_) {
        const double sigma = std::hypot(out_.noise, 0.05 * s.slope);
        left += off * off / (sigma * sigma);
        near += 1.0;
      }
      if (std::min(off + s.value, s.value) >= clip_) continue;
      // Beyond the drawn edge's own slope residuals still tell: the area they cover is the shift.
      const double angle = std::atan2(a.v, a.u);
      const auto bin = static_cast<std::size_t>(
          static_cast<int>(std::floor((angle / (2.0 * pi) + 1.0) * profile_bins)) % profile_bins);
      const double edge = d.contrast * edge_of(d, a.inside).slope / d.soft;
      top[bin] -= edge * off;
      bottom[bin] += edge * edge;
      slope[bin] += a.slope;
      shape[bin] += shape_.radius(angle);
      count[bin] += 1.0;
    }
    out_.left_over = near > 0.0 ? std::sqrt(left / near) : 0.0;
    for (std::size_t k = 0; k < profile_bins; ++k) {
      if (count[k] < 1.0 || bottom[k] <= 0.0) continue;
      const double per_px = slope[k] / count[k];
      const double limit = 2.5 * d.soft + 1.0;
      const double shift = std::clamp(top[k] / bottom[k], -limit, limit);
      out_.profile.radius[k] = shape[k] / count[k] + shift * per_px;
      const double sigma = per_px * std::sqrt(out_.noise * out_.noise / bottom[k] + 0.03 * 0.03);
      out_.profile.weight[k] = 1.0 / (sigma * sigma);
    }
  }

  // By channel: the lamp's light, and how much larger its disc is than it was drawn.
  void colours() {
    const DrawnDisc& d = out_.disc;
    std::array<double, 3> larger{};
    // The opening has the circle's area; a rim makes its outer part brighter.
    double rim_mean = 0.0;
    constexpr int rings = 64;
    for (int k = 0; k < rings; ++k)
      rim_mean += std::exp2(d.rim * std::pow((k + 0.5) / rings, 3.0)) / rings;
    const double area = pi / 4.0 * d.high * d.high * d.aspect * rim_mean;
    // ground, slopes, contrast, size
    using Row = Eigen::Matrix<double, 5, 1>;
    std::array<Eigen::Matrix<double, 5, 5>, 3> m;
    std::array<Row, 3> v;
    m.fill(Eigen::Matrix<double, 5, 5>::Zero());
    v.fill(Row::Zero());
    DrawnDisc even = d;
    even.contrast = 1.0;
    for (const Sample& s : samples_) {
      const Rgba& pixel = plate_.at(static_cast<int>(s.x), static_cast<int>(s.y));
      const Against a = against(d, shape_, s.x, s.y);
      Row row;
      row << 1.0, (s.x - d.x) / d.high, (s.y - d.y) / d.high, light_of(even, a),
          edge_of(d, a.inside).slope / d.soft;
      const double w = s.weight * s.weight;
      const Eigen::Matrix<double, 5, 5> square = w * row * row.transpose();
      std::array<double, 3> others{};
      for (std::size_t k = 0; k < others_.size(); ++k) {
        const double light = light_at(*others_[k], shape_, s.x, s.y);
        for (std::size_t c = 0; c < 3; ++c) others[c] += others_by_channel_[k][c] * light;
      }
      for (std::size_t c = 0; c < 3; ++c) {
        const auto value = static_cast<double>(pixel[c]);
        if (value >= 0.985 * clip_) continue;
        m[c] += square;
        v[c] += w * (value - others[c]) * row;
      }
    }
    for (std::size_t c = 0; c < 3; ++c) {
      for (int i = 0; i < 5; ++i) m[c](i, i) += 1e-9 * (m[c].trace() + 1e-300);
      const Row found = m[c].ldlt().solve(v[c]);
      double value = found[3];
      if (out_.clipped) value = std::max(value, d.contrast);
      out_.light[c] = std::max(0.0, value) * area;
      larger[c] = found[3] > 0.0 ? 2.0 * found[4] / found[3] : 0.0;
    }
    if (!out_.clipped) out_.fringe_px = {larger[0] - larger[1], larger[2] - larger[1]};
  }

  const Picture& plate_;
  const BladeShape& shape_;
  const std::vector<const DrawnDisc*>& others_;
  const std::vector<std::array<double, 3>>& others_by_channel_;
  const FitSettings& settings_;
  double clip_ = 0.0;
  std::vector<Sample> samples_{};
  double clipped_sigma_ = 0.0;  // of the height: how far above the clip it was is not known
  FittedDisc out_{};
};

}  // namespace

FittedDisc fit_disc(const Picture& plate, const DrawnDisc& start, const BladeShape& shape,
                    const std::vector<const DrawnDisc*>& others,
                    const std::vector<std::array<double, 3>>& others_by_channel,
                    const FitSettings& settings) {
  FittedDisc best = Fit(plate, start, shape, others, others_by_channel, settings).run();
  // Codecs keep colours coarser than light. A clipped disc whose edge is that much softer than the
  // plate's was looked at in a channel that its codec has smeared: another may be as the lens made
  // it.
  if (!best.good || !best.clipped || best.disc.soft < smeared * settings.bell) return best;
  for (std::size_t c = 0; c < 3; ++c) {
    std::array<double, 3> only{};
    only[c] = 1.0;
    if (best.channels == only) continue;
    const FittedDisc other =
        Fit(plate, start, shape, others, others_by_channel, settings, only).run();
    if (other.good && other.disc.soft < 0.7 * best.disc.soft) best = other;
  }
  return best;
}

}  // namespace jolly_iris::measuring
