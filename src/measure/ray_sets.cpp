#include "ray_sets.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "optics/quantile.hpp"
#include "picture/parallel.hpp"
#include "ray_folds.hpp"
#include "ray_response.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr double clearly = 6.0;         // deviations, for a ray of its own
constexpr double expected_there = 3.0;  // the same, where a set expects one
constexpr double apart_deg = 7.0;       // of two rays: eleven blades have 16
constexpr double in_place_deg = 2.5;    // of a ray of a set from where it should be
constexpr int most_rays = 28;           // eleven blades have 22
// A rail or a wire that lamps hang on does not fall: near a lamp a ray has more than so many times
// what it has farther away, by px.
constexpr double falls_at_least = 1.6;
constexpr double floor_deg = 0.1;  // strips are half a degree apart
constexpr double far_stronger = 3.0;
constexpr double likely_set = 4.8;      // deviations: plates without rays have less
constexpr double strong_line = 1.2;     // times the surest ray beside it
constexpr double clearly_surest = 1.8;  // times the next set
constexpr double stands_out = 0.7;      // others have less than this of a streak's sureness

// How far a ray may be from its place: as sure as it is, but rays of other places are not its own.
double in_place(const FoundRay& r) {
  return std::hypot(in_place_deg, std::min(0.5 * apart_deg, r.direction_deg.margin));
}

double turn(double deg) { return std::remainder(deg, 360.0); }

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
      const Measured by = best_turn(rest, {d * ray_step_deg}, from);
      const double at = d * ray_step_deg + by.value;
      leave_out(rest, at);
      if (is_ray) maybe.push_back({{std::fmod(at + 360.0, 360.0), by.margin}, *top});
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
    const int reach = static_cast<int>(in_place_deg / ray_step_deg);
    const int at = static_cast<int>(std::lround(deg / ray_step_deg));
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

FaintSet faint_set(const std::vector<RayStrips>& lamps) {
  FaintSet out;
  if (lamps.size() < 2) return out;
  const CommonLine line = common_line(lamps);
  const RayFold with = best_fold(lamps);
  // A strong line is in many sets, two rays of each: they are all about as sure.
  const bool strong = line.sureness > clearly && line.against_rest > strong_line;
  const bool clear = is_told(with) && (!strong || with.sureness > clearly_surest * with.next);
  std::vector<RayStrips> of = lamps;
  RayFold fold = with;
  if (!clear && strong) {
    leave_out(of, line.direction_deg);
    leave_out(of, line.direction_deg + 180.0);
    fold = best_fold(of);
  }
  if (!strong && fold.sureness > likely_set) {
    out.likely = RaySet{fold.rays, {fold.first_deg, in_place_deg}};
  }
  if (!is_told(fold)) return out;
  int falling = 0;
  for (int i = 0; i < fold.rays; ++i) {
    const double place = (fold.first_deg + i * 360.0 / fold.rays) / ray_step_deg;
    falling += falls(of, static_cast<int>(std::lround(place)) % ray_directions);
  }
  if (2 * falling < fold.rays) return out;
  out.told = RaySet{fold.rays, fold_place(of, fold)};
  return out;
}

std::optional<Measured> opposite_pair(const std::vector<FoundRay>& rays,
                                      const std::optional<RaySet>& set,
                                      const std::optional<RaySet>& likely) {
  const auto is_in = [](const std::optional<RaySet>& of, const FoundRay& r) {
    return of && std::abs(std::remainder(r.direction_deg.value - of->first_deg.value,
                                         360.0 / of->rays)) <=
                     in_place(r) + std::min(of->first_deg.margin, 60.0 / of->rays);
  };
  const auto in_set = [&](const FoundRay& r) { return is_in(set, r); };
  std::vector<double> of_set;
  for (const FoundRay& r : rays) {
    if (in_set(r)) of_set.push_back(r.sureness);
  }
  const double usual = of_set.empty() ? 0.0 : quantile(of_set, 0.5);
  for (const FoundRay& a : rays) {
    for (const FoundRay& b : rays) {
      const double off = turn(b.direction_deg.value - a.direction_deg.value - 180.0);
      if (std::abs(off) > std::max(in_place(a), in_place(b))) continue;
      const double weaker = std::min(a.sureness, b.sureness);
      if (!set && (is_in(likely, a) || is_in(likely, b))) continue;
      // A line that is fainter than the set's rays may be made of what they leave beside them.
      if (weaker < (in_set(a) || in_set(b) ? far_stronger : 1.0) * usual) continue;
      // Among many that are no set, two that happen to be opposite tell nothing.
      const bool lost = !set && std::any_of(rays.begin(), rays.end(), [&](const FoundRay& r) {
        return &r != &a && &r != &b && r.sureness > stands_out * weaker;
      });
      if (lost) continue;
      // The surer half tells more of it.
      const double wa = std::pow(std::max(0.1, a.direction_deg.margin), -2.0);
      const double wb = std::pow(std::max(0.1, b.direction_deg.margin), -2.0);
      const double middle = std::remainder(a.direction_deg.value + wb / (wa + wb) * off, 180.0);
      // Both halves are off alike where a lamp's place is.
      const double margin = (wa * a.direction_deg.margin + wb * b.direction_deg.margin) / (wa + wb);
      return Measured{middle, margin};
    }
  }
  return std::nullopt;
}

}  // namespace jolly_iris::measuring
