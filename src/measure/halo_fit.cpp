#include "halo_fit.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "optics/quantile.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

// The lattice: reaches from half a pixel to 80, powers from 2.05 to 7, told from 2 (where all light
// would be infinitely far away).
constexpr double least_reach_px = 0.5;
constexpr double reach_step = 1.02;
constexpr int most_reach = 256;
constexpr double least_power = 0.05;
constexpr double power_step = 1.006;
constexpr int most_power = 770;
// So many things tell by their differences how sure all are; fewer by the directions around them.
constexpr int enough_things = 8;

HaloShape shape_of(const std::pair<int, int>& p) {
  return {least_reach_px * std::pow(reach_step, p.first),
          2.0 + least_power * std::pow(power_step, p.second)};
}

std::pair<int, int> point_of(const HaloShape& s) {
  const double i = std::log(s.reach_px / least_reach_px) / std::log(reach_step);
  const double j = std::log((s.power - 2.0) / least_power) / std::log(power_step);
  return {std::clamp(static_cast<int>(std::lround(i)), 0, most_reach),
          std::clamp(static_cast<int>(std::lround(j)), 0, most_power)};
}

double light_of(const SkirtPlace& place, std::size_t channel,
                const std::array<float, skirt_bins>& kernel) {
  using Bins = Eigen::Map<const Eigen::Matrix<float, skirt_bins, 1>>;
  return static_cast<double>(Bins(kernel.data()).dot(Bins(place.sources[channel].data())));
}

Eigen::Vector3d slope_at(const SkirtPlace& p) { return {1.0, 0.01 * p.right, 0.01 * p.up}; }

std::size_t quarter_of(const SkirtPlace& p, int quarters) {
  return static_cast<std::size_t>(p.sector * quarters / skirt_sectors);
}

}  // namespace

SkirtFit::Plain& SkirtFit::Plain::operator+=(const Plain& more) {
  ground += more.ground;
  ground_y += more.ground_y;
  yy += more.yy;
  return *this;
}

SkirtFit::Moments& SkirtFit::Moments::operator+=(const Moments& more) {
  ground_h += more.ground_h;
  hy += more.hy;
  hh += more.hh;
  return *this;
}

// Sums with the sloping ground taken out, and that ground: of the light, and of what a gain of 1
// takes from it.
struct SkirtFit::Solved {
  double yy = 0.0;
  double hy = 0.0;
  double hh = 0.0;
  Eigen::Vector3d ground_y = Eigen::Vector3d::Zero();
  Eigen::Vector3d ground_h = Eigen::Vector3d::Zero();
};

SkirtFit::SkirtFit(const std::vector<Skirt>& skirts, const BrightThings& bright, double largest_px)
    : skirts_(skirts), bright_(bright), largest_px_(largest_px) {
  const int things = static_cast<int>(skirts.size());
  by_thing_ = things >= enough_things;
  groups_ = by_thing_ ? things : things * quarters;
  for (const Skirt& s : skirts) {
    weight_.emplace_back(s.places.size());
    for (std::size_t i = 0; i < s.places.size(); ++i) {
      weight_.back()[i].fill(static_cast<float>(s.places[i].pixels));
    }
  }
}

std::array<float, skirt_bins> SkirtFit::kernel(const HaloShape& shape) const {
  std::array<float, skirt_bins> out{};
  for (int b = 0; b < skirt_bins; ++b) {
    out[static_cast<std::size_t>(b)] =
        static_cast<float>(shape.at(distance_of_bin(b), largest_px_));
  }
  return out;
}

// What each place adds in each channel: add(sums, place, its slopes, channel, weight).
template <class Sums, class Add>
std::vector<SkirtFit::ByPart<Sums>> SkirtFit::summed(const Add& add) const {
  std::vector<ByPart<Sums>> out(skirts_.size());
  parallel_for(std::size_t{0}, skirts_.size(), [&](std::size_t s) {
    for (std::size_t i = 0; i < skirts_[s].places.size(); ++i) {
      const SkirtPlace& place = skirts_[s].places[i];
      const Eigen::Vector3d p = slope_at(place);
      for (std::size_t c = 0; c < 3; ++c) {
        const auto w = static_cast<double>(weight_[s][i][c]);
        if (w > 0.0) add(out[s][quarter_of(place, quarters)][c], place, p, c, w);
      }
    }
  });
  return out;
}

const std::vector<SkirtFit::OfSkirt>& SkirtFit::moments_at(const Point& point) {
  const auto found = known_.find(point);
  if (found != known_.end()) return found->second;
  if (plain_.empty()) {
    plain_ = summed<Plain>(
        [](Plain& m, const SkirtPlace& place, const Eigen::Vector3d& p, std::size_t c, double w) {
          const double y = place.light[c];
          m.ground += w * p * p.transpose();
          m.ground_y += w * y * p;
          m.yy += w * y * y;
        });
  }
  const auto k = kernel(shape_of(point));
  auto sums = summed<Moments>(
      [&](Moments& m, const SkirtPlace& place, const Eigen::Vector3d& p, std::size_t c, double w) {
        const double h = light_of(place, c, k);
        m.ground_h += w * h * p;
        m.hy += w * h * place.light[c];
        m.hh += w * h * h;
      });
  return known_.emplace(point, std::move(sums)).first->second;
}

SkirtFit::Solved SkirtFit::solved(const OfSkirt& of, std::size_t skirt, std::size_t channel,
                                  std::optional<int> left_out) const {
  Moments m;
  Plain plain;
  for (int q = 0; q < quarters; ++q) {
    const int group = by_thing_ ? static_cast<int>(skirt) : static_cast<int>(skirt) * quarters + q;
    if (left_out && *left_out == group) continue;
    m += of[static_cast<std::size_t>(q)][channel];
    plain += plain_[skirt][static_cast<std::size_t>(q)][channel];
  }
  const double size = plain.ground.trace();
  if (size <= 0.0) return {};
  const Eigen::LDLT<Eigen::Matrix3d> solver(
      Eigen::Matrix3d(plain.ground + 1e-12 * size * Eigen::Matrix3d::Identity()));
  Solved s;
  s.ground_y = solver.solve(plain.ground_y);
  s.ground_h = solver.solve(m.ground_h);
  s.yy = plain.yy - plain.ground_y.dot(s.ground_y);
  s.hy = m.hy - m.ground_h.dot(s.ground_y);
  s.hh = m.hh - m.ground_h.dot(s.ground_h);
  return s;
}

HaloFit SkirtFit::at(const Point& point, std::optional<int> left_out) {
  const std::vector<OfSkirt>& moments = moments_at(point);
  HaloFit fit;
  fit.shape = shape_of(point);
  fit.gain_of.assign(skirts_.size(), {});
  for (std::size_t c = 0; c < 3; ++c) {
    double hy = 0.0;
    double hh = 0.0;
    double yy = 0.0;
    for (std::size_t s = 0; s < skirts_.size(); ++s) {
      const Solved one = solved(moments[s], s, c, left_out);
      const double own = one.hh > 0.0 ? std::max(0.0, one.hy / one.hh) : 0.0;
      fit.gain_of[s][c] = own;
      if (bright_.things[skirts_[s].thing].clipped) {
        fit.cost += one.yy - own * (2.0 * one.hy - own * one.hh);
        continue;
      }
      hy += one.hy;
      hh += one.hh;
      yy += one.yy;
    }
    fit.free_gain[c] = hh > 0.0 ? hy / hh : 0.0;
    fit.gain[c] = std::max(0.0, fit.free_gain[c]);
    fit.cost += yy - fit.gain[c] * (2.0 * hy - fit.gain[c] * hh);
  }
  return fit;
}

HaloFit SkirtFit::with(const HaloShape& shape, std::optional<int> left_out) {
  return at(point_of(shape), left_out);
}

// Reach and power go together along a narrow valley: the best power of every reach that is tried,
// from coarse steps to fine ones.
HaloFit SkirtFit::best(std::optional<int> left_out) {
  const auto cost_at = [&](int i, int j) { return at({i, j}, left_out).cost; };
  struct Along {
    int j = 0;
    double cost = 0.0;
  };
  const auto best_power = [&](int i, std::optional<int> near) {
    constexpr int coarse = 64;
    Along out{near.value_or(0), 0.0};
    out.cost = cost_at(i, out.j);
    const auto look = [&](int j) {
      if (j < 0 || j > most_power) return false;
      const double cost = cost_at(i, j);
      if (cost >= out.cost) return false;
      out = {j, cost};
      return true;
    };
    if (!near) {
      for (int j = coarse; j <= most_power; j += coarse) look(j);
    }
    for (int step = near ? 8 : coarse / 2; step > 0;) {
      if (!look(out.j + step) && !look(out.j - step)) step /= 2;
    }
    return out;
  };
  constexpr int coarse = 32;
  int i = 0;
  Along here = best_power(0, {});
  for (int k = coarse; k <= most_reach; k += coarse) {
    const Along there = best_power(k, {});
    if (there.cost < here.cost) {
      i = k;
      here = there;
    }
  }
  for (int step = coarse / 2; step > 0;) {
    bool better = false;
    for (const int k : {i + step, i - step}) {
      if (k < 0 || k > most_reach) continue;
      const Along there = best_power(k, here.j);
      if (there.cost >= here.cost) continue;
      i = k;
      here = there;
      better = true;
      break;
    }
    if (!better) step /= 2;
  }
  return at({i, here.j}, left_out);
}

void SkirtFit::weigh(const HaloFit& fit) {
  const auto k = kernel(fit.shape);
  const std::vector<OfSkirt> moments = moments_at(point_of(fit.shape));
  parallel_for(std::size_t{0}, skirts_.size(), [&](std::size_t s) {
    const Skirt& of = skirts_[s];
    const bool own = bright_.things[of.thing].clipped;
    for (std::size_t c = 0; c < 3; ++c) {
      const Solved sums = solved(moments[s], s, c, {});
      const double gain = own ? fit.gain_of[s][c] : fit.gain[c];
      const Eigen::Vector3d ground = sums.ground_y - gain * sums.ground_h;
      std::vector<double> left(of.places.size());
      std::array<std::vector<double>, skirt_rings> by_ring;
      for (std::size_t i = 0; i < left.size(); ++i) {
        const SkirtPlace& p = of.places[i];
        left[i] = p.light[c] - gain * light_of(p, c, k) - ground.dot(slope_at(p));
        by_ring[static_cast<std::size_t>(p.ring)].push_back(std::abs(left[i]));
      }
      std::array<double, skirt_rings> sigma{};
      for (std::size_t r = 0; r < skirt_rings; ++r) {
        std::vector<double> near = by_ring[r];  // with its neighbours: a ring has few places
        if (r > 0) near.insert(near.end(), by_ring[r - 1].begin(), by_ring[r - 1].end());
        if (r + 1 < skirt_rings) {
          near.insert(near.end(), by_ring[r + 1].begin(), by_ring[r + 1].end());
        }
        sigma[r] = std::max(1.4826 * upper_median(near), 1e-7);
      }
      for (std::size_t i = 0; i < left.size(); ++i) {
        const double scale = sigma[static_cast<std::size_t>(of.places[i].ring)];
        // Tukey's biweight: rays and streaks are no halo (Beaton and Tukey 1974).
        const double u = left[i] / (4.7 * scale);
        const double kept = std::abs(u) < 1.0 ? (1.0 - u * u) * (1.0 - u * u) : 0.0;
        weight_[s][i][c] = static_cast<float>(kept / (scale * scale));
      }
    }
  });
  known_.clear();
  plain_.clear();
}

void SkirtFit::leave_rings(int count) {
  for (std::size_t s = 0; s < skirts_.size(); ++s) {
    for (std::size_t i = 0; i < skirts_[s].places.size(); ++i) {
      if (skirts_[s].places[i].ring < count) weight_[s][i].fill(0.0F);
    }
  }
  known_.clear();
  plain_.clear();
}

}  // namespace jolly_iris::measuring
