#include "ray_response.hpp"

#include <array>

#include "optics/quantile.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr double one_lamp = 12.0;           // deviations that one lamp counts at most, about
constexpr double one_alone = 0.5;           // of its sureness: no other says the same
constexpr double gain_of_one_lamp = 300.0;  // the same of what its parts explain, χ²
constexpr double tells_by_itself = 3.0;     // deviations of a lamp that has a say in a direction
constexpr double alone_deg = 2.0;           // how sure a direction is by one lamp
constexpr double least_turn_deg = 0.1;      // strips are half a degree apart

double overlap(double a, double b, double from, double to) {
  return std::max(0.0, std::min(b, to) - std::max(a, from));
}

// Runs f(part, strip, response) over all strips that a ray in a direction touches.
template <class F>
void for_touched(const RayStrips& lamp, double deg, double from, const F& f) {
  for (std::size_t k = 0; k < lamp.parts(); ++k) {
    if (!(lamp.sigma[k] > 0.0) || !far_enough(lamp, k, from)) continue;
    const double reach_deg =
        std::min(80.0, (3.4 * lamp.half_width) / lamp.distance[k] * 180.0 / std::numbers::pi);
    const int first = static_cast<int>(std::ceil((deg - reach_deg) / ray_step_deg));
    const int last = static_cast<int>(std::floor((deg + reach_deg) / ray_step_deg));
    for (int d = first; d <= last; ++d) {
      const int at = ((d % ray_directions) + ray_directions) % ray_directions;
      const std::size_t i = lamp.at(at, k);
      if (lamp.seen[i] == 0) continue;
      const double px =
          lamp.distance[k] * std::sin((d * ray_step_deg - deg) * std::numbers::pi / 180.0);
      f(k, i, ray_response(px, lamp.half_width));
    }
  }
}

// By how much rays in exactly these directions explain what one lamp has, part by part.
double gain_of(const RayStrips& lamp, const std::vector<double>& rays_deg, double by_deg,
               double from) {
  double sum = 0.0;
  std::vector<double> et(lamp.parts());
  std::vector<double> tt(lamp.parts());
  for (const double deg : rays_deg) {
    std::fill(et.begin(), et.end(), 0.0);
    std::fill(tt.begin(), tt.end(), 0.0);
    for_touched(lamp, deg + by_deg, from, [&](std::size_t k, std::size_t i, double t) {
      const auto& e = lamp.excess[i];
      et[k] += t *
               (static_cast<double>(e[0]) + static_cast<double>(e[1]) + static_cast<double>(e[2])) /
               3.0;
      tt[k] += t * t;
    });
    for (std::size_t k = 0; k < lamp.parts(); ++k) {
      if (et[k] > 0.0 && tt[k] > 0.0) {
        sum += et[k] * et[k] / (tt[k] * lamp.sigma[k] * lamp.sigma[k]);
      }
    }
  }
  const double most = gain_of_one_lamp * static_cast<double>(rays_deg.size());
  return sum > most ? most * (1.0 + std::log(sum / most)) : sum;
}

// Rays of bright lamps cross the strips of dim ones, which have less of their own to show.
double lamp_weight(const RayStrips& lamp) {
  const double light = lamp.light[0] + lamp.light[1] + lamp.light[2];
  return std::sqrt(light / std::max(1e-12, lamp.sigma[0]));
}

// One lamp that is far brighter than the others has no say of its own.
double counted(double sureness) {
  return sureness > one_lamp ? one_lamp * (1.0 + 0.1 * std::log(sureness / one_lamp))
                             : std::max(sureness, -one_lamp);
}

}  // namespace

double ray_response(double px, double half_width) {
  const double r = std::max(1.0, half_width - strip_half_width(0.0));
  const double in = overlap(px - r, px + r, -half_width, half_width);
  const double out = overlap(px - r, px + r, 1.2 * half_width, 2.2 * half_width) +
                     overlap(px - r, px + r, -2.2 * half_width, -1.2 * half_width);
  return (in - out) / (2.0 * r);
}

double sureness_of(const RayStrips& lamp, int direction, double from) {
  double sum = 0.0;
  double all = 0.0;
  for (std::size_t k = 0; k < lamp.parts(); ++k) {
    if (lamp.seen[lamp.at(direction, k)] == 0 || !far_enough(lamp, k, from)) continue;
    const double t = std::pow(lamp.distance[k] / lamp.distance[0], -ray_falls_as);
    const double w = 1.0 / (lamp.sigma[k] * lamp.sigma[k]);
    sum += t * w * lamp.mean(direction, k);
    all += t * t * w;
  }
  return all > 0.0 ? sum / std::sqrt(all) : 0.0;
}

std::vector<double> sureness_by_direction(const std::vector<RayStrips>& lamps, double from) {
  std::vector<double> out(ray_directions, 0.0);
  std::vector<double> weights;
  double all = 0.0;
  for (const RayStrips& lamp : lamps) {
    weights.push_back(lamp_weight(lamp));
    all += weights.back() * weights.back();
  }
  parallel_for(0, ray_directions, [&](int d) {
    double sum = 0.0;
    std::size_t most = 0;
    double most_has = 0.0;
    for (std::size_t l = 0; l < lamps.size(); ++l) {
      const double one = sureness_of(lamps[l], d, from);
      const double counts = counted(one);
      sum += weights[l] * counts;
      if (weights[l] * counts <= most_has) continue;
      most_has = weights[l] * counts;
      most = l;
    }
    // What only one of them has is no ray of the lens.
    const double others = all - weights[most] * weights[most];
    out[static_cast<std::size_t>(d)] = lamps.size() > 1
                                           ? (sum - most_has) / std::sqrt(std::max(1e-12, others))
                                           : one_alone * sum / weights[0];
  });
  const double middle = quantile(std::vector<double>(out), 0.5);
  for (double& one : out) one -= middle;
  return out;
}

void leave_out(std::vector<RayStrips>& lamps, double deg) {
  for (RayStrips& lamp : lamps) {
    for_touched(lamp, deg, 0.0, [&](std::size_t, std::size_t i, double) { lamp.seen[i] = 0; });
  }
}

Measured best_turn(const std::vector<RayStrips>& lamps, const std::vector<double>& rays_deg,
                   double from) {
  constexpr int places = 81;
  constexpr int centre = places / 2;
  constexpr double fine_deg = 0.1;
  std::vector<std::array<double, places>> gains(lamps.size());
  std::array<double, places> all{};
  parallel_for(std::size_t{0}, lamps.size(), [&](std::size_t l) {
    for (int i = 0; i < places; ++i) {
      gains[l][static_cast<std::size_t>(i)] =
          gain_of(lamps[l], rays_deg, (i - centre) * fine_deg, from);
    }
  });
  for (const auto& g : gains) {
    for (std::size_t i = 0; i < places; ++i) all[i] += g[i];
  }
  const auto top = [&](const std::array<double, places>& g) {
    const auto i = static_cast<std::size_t>(std::max_element(g.begin(), g.end()) - g.begin());
    auto at = static_cast<double>(i);
    if (i > 0 && i + 1 < places) {
      const double bend = g[i - 1] - 2.0 * g[i] + g[i + 1];
      if (bend < 0.0) at += std::clamp(0.5 * (g[i - 1] - g[i + 1]) / bend, -0.5, 0.5);
    }
    return (at - centre) * fine_deg;
  };
  const double best = top(all);
  double squares = 0.0;
  double told = 0.0;
  for (const auto& g : gains) {
    if (*std::max_element(g.begin(), g.end()) < tells_by_itself * tells_by_itself) continue;
    std::array<double, places> without = all;
    for (std::size_t i = 0; i < places; ++i) without[i] -= g[i];
    const double off = top(without) - best;
    squares += off * off;
    told += 1.0;
  }
  if (told < 2.0) return {best, alone_deg};
  // Efron 1982, wider for few.
  return {best,
          std::hypot(2.0 * (1.0 + 1.5 / (told - 1.0)) * std::sqrt((told - 1.0) / told * squares),
                     2.0 * least_turn_deg)};
}

}  // namespace jolly_iris::measuring
