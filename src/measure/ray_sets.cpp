#include "ray_sets.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "optics/quantile.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr double step_deg = 360.0 / ray_directions;
constexpr double clearly = 6.0;             // deviations, for a ray of its own
constexpr double expected_there = 3.0;      // the same, where a set expects one
constexpr double apart_deg = 7.0;           // of two rays: eleven blades have 16
constexpr double in_place_deg = 2.5;        // of a ray of a set from where it should be
constexpr double one_lamp = 12.0;           // deviations that one lamp counts at most, about
constexpr double one_alone = 0.5;           // of its sureness: no other says the same
constexpr double gain_of_one_lamp = 300.0;  // the same of what its parts explain, χ²
constexpr int most_rays = 28;               // eleven blades have 22
constexpr double alone_deg = 2.0;           // how sure a direction is by one lamp
// Spikes fall by the square of the distance, streaks by more than its first power: in between.
constexpr double falls_as = 1.5;
// A rail or a wire that lamps hang on does not fall: near a lamp a ray has more than so many times
// what it has farther away, by px.
constexpr double falls_at_least = 1.6;
constexpr double floor_deg = 0.1;  // strips are half a degree apart
constexpr double far_stronger = 3.0;
constexpr double stands_out = 0.6;  // others have less than this of a streak's sureness

// How far a ray may be from its place: as sure as it is, but rays of other places are not its own.
double in_place(const FoundRay& r) {
  return std::hypot(in_place_deg, std::min(0.5 * apart_deg, r.direction_deg.margin));
}

double turn(double deg) { return std::remainder(deg, 360.0); }

// Strips are wide near a lamp, against how far apart rays are: only farther out are neighbours told
// from each other. @param from distance in half widths
bool far_enough(const RayStrips& lamp, std::size_t part, double from) {
  return lamp.distance[part] >= from * lamp.half_width;
}

// One lamp's sureness in a direction, by what falls with the distance.
double sureness_of(const RayStrips& lamp, int direction, double from) {
  double sum = 0.0;
  double all = 0.0;
  for (std::size_t k = 0; k < lamp.parts(); ++k) {
    if (lamp.seen[lamp.at(direction, k)] == 0 || !far_enough(lamp, k, from)) continue;
    const double t = std::pow(lamp.distance[k] / lamp.distance[0], -falls_as);
    const double w = 1.0 / (lamp.sigma[k] * lamp.sigma[k]);
    sum += t * w * lamp.mean(direction, k);
    all += t * t * w;
  }
  return all > 0.0 ? sum / std::sqrt(all) : 0.0;
}

// Whether what is seen in a direction falls with the distance: for most of the lamps that show
// something there, the nearest third of their strips has more than the farthest.
bool falls(const std::vector<RayStrips>& lamps, int direction) {
  int fall = 0;
  int level = 0;
  for (const RayStrips& lamp : lamps) {
    if (sureness_of(lamp, direction, 0.0) < expected_there) continue;
    std::array<double, 2> sum{};
    std::array<double, 2> weight{};
    const std::size_t third = lamp.parts() / 3;
    for (std::size_t k = 0; k < lamp.parts(); ++k) {
      if (lamp.seen[lamp.at(direction, k)] == 0) continue;
      if (k >= third && k < lamp.parts() - third) continue;
      const std::size_t far = k < third ? 0 : 1;
      sum[far] += lamp.length[k] * lamp.mean(direction, k);
      weight[far] += lamp.length[k];
    }
    if (!(weight[0] > 0.0) || !(weight[1] > 0.0)) continue;
    (sum[0] / weight[0] > falls_at_least * sum[1] / weight[1] ? fall : level) += 1;
  }
  return fall >= level;
}

double overlap(double a, double b, double from, double to) {
  return std::max(0.0, std::min(b, to) - std::max(a, from));
}

// What a strip has of a ray of light 1 a px that lies so many px beside its middle.
double response(double px, double half_width) {
  const double r = std::max(1.0, half_width - strip_half_width(0.0));
  const double in = overlap(px - r, px + r, -half_width, half_width);
  const double out = overlap(px - r, px + r, 1.2 * half_width, 2.2 * half_width) +
                     overlap(px - r, px + r, -2.2 * half_width, -1.2 * half_width);
  return (in - out) / (2.0 * r);
}

// Runs f(part, strip, response) over all strips that a ray in a direction touches.
template <class F>
void for_touched(const RayStrips& lamp, double deg, double from, const F& f) {
  for (std::size_t k = 0; k < lamp.parts(); ++k) {
    if (!(lamp.sigma[k] > 0.0) || !far_enough(lamp, k, from)) continue;
    const double reach_deg =
        std::min(80.0, (3.4 * lamp.half_width) / lamp.distance[k] * 180.0 / std::numbers::pi);
    const int first = static_cast<int>(std::ceil((deg - reach_deg) / step_deg));
    const int last = static_cast<int>(std::floor((deg + reach_deg) / step_deg));
    for (int d = first; d <= last; ++d) {
      const int at = ((d % ray_directions) + ray_directions) % ray_directions;
      const std::size_t i = lamp.at(at, k);
      if (lamp.seen[i] == 0) continue;
      const double px =
          lamp.distance[k] * std::sin((d * step_deg - deg) * std::numbers::pi / 180.0);
      f(k, i, response(px, lamp.half_width));
    }
  }
}

// By how much a ray in exactly this direction explains what one lamp has, part by part.
double gain_of(const RayStrips& lamp, double deg, double from) {
  std::vector<double> et(lamp.parts(), 0.0);
  std::vector<double> tt(lamp.parts(), 0.0);
  for_touched(lamp, deg, from, [&](std::size_t k, std::size_t i, double t) {
    const auto& e = lamp.excess[i];
    et[k] += t *
             (static_cast<double>(e[0]) + static_cast<double>(e[1]) + static_cast<double>(e[2])) /
             3.0;
    tt[k] += t * t;
  });
  double sum = 0.0;
  for (std::size_t k = 0; k < lamp.parts(); ++k) {
    if (et[k] > 0.0 && tt[k] > 0.0) sum += et[k] * et[k] / (tt[k] * lamp.sigma[k] * lamp.sigma[k]);
  }
  // One lamp that is far brighter than the others has no say of its own.
  return sum > gain_of_one_lamp ? gain_of_one_lamp * (1.0 + std::log(sum / gain_of_one_lamp)) : sum;
}

// A ray's direction more exactly than strips lie apart, by all lamps; how sure by those that leave
// one of them out.
Measured refined(const std::vector<RayStrips>& lamps, double coarse_deg, double from) {
  constexpr int places = 81;
  constexpr int centre = places / 2;
  constexpr double fine_deg = 0.1;
  std::vector<std::array<double, places>> gains(lamps.size());
  std::array<double, places> all{};
  parallel_for(std::size_t{0}, lamps.size(), [&](std::size_t l) {
    for (int i = 0; i < places; ++i) {
      gains[l][static_cast<std::size_t>(i)] =
          gain_of(lamps[l], coarse_deg + (i - centre) * fine_deg, from);
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
    return coarse_deg + (at - centre) * fine_deg;
  };
  const double best = top(all);
  double squares = 0.0;
  double told = 0.0;
  for (const auto& g : gains) {
    if (*std::max_element(g.begin(), g.end()) < expected_there * expected_there) continue;
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
                     2.0 * floor_deg)};
}

// Leaves out what a ray touches: its foot near the lamps hides others, which are seen farther out.
void leave_out(std::vector<RayStrips>& lamps, double deg) {
  for (RayStrips& lamp : lamps) {
    for_touched(lamp, deg, 0.0, [&](std::size_t, std::size_t i, double) { lamp.seen[i] = 0; });
  }
}

std::vector<double> sureness_by_direction(const std::vector<RayStrips>& lamps, double from) {
  std::vector<double> out(ray_directions, 0.0);
  // Rays of bright lamps cross the strips of dim ones, which have less of their own to show.
  std::vector<double> weights;
  double all = 0.0;
  for (const RayStrips& lamp : lamps) {
    const double light = lamp.light[0] + lamp.light[1] + lamp.light[2];
    weights.push_back(std::sqrt(light / std::max(1e-12, lamp.sigma[0])));
    all += weights.back() * weights.back();
  }
  parallel_for(0, ray_directions, [&](int d) {
    double sum = 0.0;
    std::size_t most = 0;
    double most_has = 0.0;
    for (std::size_t l = 0; l < lamps.size(); ++l) {
      const double one = sureness_of(lamps[l], d, from);
      // One lamp that is far brighter than the others has no say of its own.
      const double counts = one > one_lamp ? one_lamp * (1.0 + 0.1 * std::log(one / one_lamp))
                                           : std::max(one, -one_lamp);
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

}  // namespace

FoundRays rays_of(std::vector<RayStrips> lamps) {
  FoundRays out;
  out.sureness.assign(ray_directions, -1e9);
  std::vector<FoundRay> all;
  // First where neighbours are told apart, then what is seen only nearer.
  for (const double from : {16.0, 8.0, 4.0, 0.0}) {
    std::vector<FoundRay> maybe;
    std::vector<RayStrips> rest = lamps;
    std::vector<double> left = sureness_by_direction(lamps, from);
    const std::vector<double> before = left;
    for (int tries = 0; tries < most_rays; ++tries) {
      const auto top = std::max_element(left.begin(), left.end());
      if (*top < clearly) break;
      const auto d = static_cast<int>(top - left.begin());
      const bool is_ray = falls(rest, d);
      const Measured at = refined(rest, d * step_deg, from);
      leave_out(rest, at.value);
      if (is_ray) maybe.push_back({{std::fmod(at.value + 360.0, 360.0), at.margin}, *top});
      left = sureness_by_direction(rest, from);
    }
    // What is left is structure of the ground: a ray stands out of it.
    std::vector<double> off;
    for (const double s : left) off.push_back(std::abs(s));
    const double scale = std::max(1.0, 1.48 * quantile(off, 0.5));
    for (FoundRay& r : maybe) {
      r.sureness /= scale;
      const bool again = std::any_of(all.begin(), all.end(), [&](const FoundRay& o) {
        return std::abs(turn(r.direction_deg.value - o.direction_deg.value)) < apart_deg;
      });
      if (r.sureness < clearly || again) continue;
      leave_out(lamps, r.direction_deg.value);
      all.push_back(r);
    }
    for (std::size_t d = 0; d < before.size(); ++d) {
      out.sureness[d] = std::max(out.sureness[d], before[d] / scale);
    }
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const FoundRay& a, const FoundRay& b) { return a.sureness > b.sureness; });
  out.rays = std::move(all);
  return out;
}

std::optional<RaySet> even_set(const FoundRays& found) {
  const std::vector<FoundRay>& rays = found.rays;
  // So many blades make so many rays, or twice as many where they are odd.
  constexpr std::array sets{22, 18, 16, 14, 12, 10, 8, 6, 4};
  const auto around = [&](double deg) {
    double most = -1e9;
    const int reach = static_cast<int>(in_place_deg / step_deg);
    const int at = static_cast<int>(std::lround(deg / step_deg));
    for (int k = -reach; k <= reach; ++k) {
      const int d = ((at + k) % ray_directions + ray_directions) % ray_directions;
      most = std::max(most, found.sureness[static_cast<std::size_t>(d)]);
    }
    return most;
  };
  for (const int n : sets) {
    const double spacing = 360.0 / n;
    // Every ray may be the set's first.
    std::optional<RaySet> best;
    std::size_t most = 0;
    for (const FoundRay& first : rays) {
      double sum = 0.0;
      double weight = 0.0;
      std::size_t members = 0;
      for (const FoundRay& r : rays) {
        const double off =
            std::remainder(r.direction_deg.value - first.direction_deg.value, spacing);
        if (std::abs(off) > in_place(r)) continue;
        const double w = 1.0 / std::pow(std::max(0.1, r.direction_deg.margin), 2.0);
        sum += w * off;
        weight += w;
        ++members;
      }
      // More than half of them by themselves, and all of them at least a little.
      const auto least = static_cast<std::size_t>(std::max(4, n / 2 + 1));
      if (members <= most || members < least) continue;
      const double at = first.direction_deg.value + sum / weight;
      double square = 0.0;
      for (const FoundRay& r : rays) {
        const double off = std::remainder(r.direction_deg.value - at, spacing);
        if (std::abs(off) <= in_place(r)) square += off * off;
      }
      int missing = 0;
      for (int k = 0; k < n; ++k) missing += around(at + k * spacing) < expected_there;
      if (missing > n / 8) continue;
      // What is left over may be a streak; more, or one in the middle between two, is part of
      // another set.
      std::vector<double> others;
      for (const FoundRay& r : rays) {
        if (std::abs(std::remainder(r.direction_deg.value - at, spacing)) > in_place(r)) {
          others.push_back(r.direction_deg.value);
        }
      }
      if (others.size() > 2) continue;
      const bool between = std::any_of(others.begin(), others.end(), [&](double deg) {
        return std::abs(std::remainder(deg - at - 0.5 * spacing, spacing)) <= in_place_deg;
      });
      if (between ||
          (others.size() == 2 && std::abs(turn(others[0] - others[1] - 180.0)) > in_place_deg)) {
        continue;
      }
      most = members;
      const auto m = static_cast<double>(members);
      const double scatter = m > 1.0 ? 2.0 * std::sqrt(square / (m * (m - 1.0))) : 0.0;
      const double place = std::fmod(std::fmod(at, spacing) + spacing, spacing);
      best = RaySet{n, {place, std::hypot(2.0 / std::sqrt(weight) * 0.5, scatter, floor_deg)}};
    }
    if (best) return best;
  }
  return std::nullopt;
}

std::optional<Measured> opposite_pair(const std::vector<FoundRay>& rays,
                                      const std::optional<RaySet>& set) {
  const auto in_set = [&](const FoundRay& r) {
    return set && std::abs(std::remainder(r.direction_deg.value - set->first_deg.value,
                                          360.0 / set->rays)) <= in_place(r);
  };
  std::vector<double> of_set;
  for (const FoundRay& r : rays) {
    if (in_set(r)) of_set.push_back(r.sureness);
  }
  const double usual = of_set.empty() ? 0.0 : quantile(of_set, 0.5);
  for (const FoundRay& a : rays) {
    for (const FoundRay& b : rays) {
      const double off = turn(b.direction_deg.value - a.direction_deg.value - 180.0);
      if (std::abs(off) > in_place_deg) continue;
      const double weaker = std::min(a.sureness, b.sureness);
      if ((in_set(a) || in_set(b)) && weaker < far_stronger * usual) continue;
      // Among many that are no set, two that happen to be opposite tell nothing.
      const bool lost = !set && std::any_of(rays.begin(), rays.end(), [&](const FoundRay& r) {
        return &r != &a && &r != &b && r.sureness > stands_out * weaker;
      });
      if (lost) continue;
      double middle = std::remainder(a.direction_deg.value + 0.5 * off, 180.0);
      const double margin = std::hypot(0.5 * a.direction_deg.margin, 0.5 * b.direction_deg.margin);
      return Measured{middle, margin};
    }
  }
  return std::nullopt;
}

}  // namespace jolly_iris::measuring
