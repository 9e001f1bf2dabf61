#include "ray_folds.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "ray_response.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr std::array fold_counts{4, 6, 8, 10, 12, 14, 16, 18, 22};
// Numbers that share no divisor with those: what sets of them show is chance, structure, and rays
// that are spread otherwise.
constexpr std::array chance_counts{13, 17, 19};
constexpr double turn_step_deg = 0.5;
// From so many half widths of a strip outward.
constexpr std::array from_half_widths{16.0, 8.0, 4.0, 0.0};
// From so many times the number of rays outward neighbours are not in the strips beside one.
constexpr double neighbours_apart = 0.4;
constexpr double most_turn_deg = 4.0;
constexpr double place_told = 1.5;  // deviations between a place and the one half a spacing away
// A streak may lie on two of the members, and one in eight may be hidden.
constexpr std::size_t trimmed_above = 2;
constexpr int trimmed_below = 8;
constexpr double members_seen = 0.7;
constexpr double its_share = 0.3;  // of the mean member, for one that is present
constexpr double sure = 5.5;
// Four rays lie as the bars of windows and the edges of houses do.
constexpr double sure_of_four = 7.0;
constexpr double against_next = 1.06;
constexpr double members_present = 0.75;

// How sure a ray is in each direction by all lamps; none where nothing is seen.
struct ByDirection {
  std::vector<double> sureness;
  std::vector<char> seen;
};

ByDirection by_direction(const std::vector<RayStrips>& lamps, double from) {
  ByDirection out{sureness_by_direction(lamps, from), std::vector<char>(ray_directions, 0)};
  for (const RayStrips& lamp : lamps) {
    for (int d = 0; d < ray_directions; ++d) {
      for (std::size_t k = 0; k < lamp.parts() && out.seen[static_cast<std::size_t>(d)] == 0; ++k) {
        if (lamp.seen[lamp.at(d, k)] != 0 && far_enough(lamp, k, from)) {
          out.seen[static_cast<std::size_t>(d)] = 1;
        }
      }
    }
  }
  return out;
}

// What each member of a set has.
std::vector<double> members(const ByDirection& of, int rays, double first_deg) {
  std::vector<double> out;
  for (int i = 0; i < rays; ++i) {
    const double place = (first_deg + i * 360.0 / rays) / ray_step_deg;
    const double before = std::floor(place);
    const auto a = static_cast<std::size_t>(before) % ray_directions;
    const std::size_t b = (a + 1) % ray_directions;
    if (of.seen[a] == 0 || of.seen[b] == 0) continue;
    out.push_back(of.sureness[a] + (place - before) * (of.sureness[b] - of.sureness[a]));
  }
  return out;
}

struct FoldValue {
  double sureness = -1e9;
  int present = 0;
};

// How sure all members together are, without the strongest and the weakest of them.
FoldValue fold_of(std::vector<double> of, int rays) {
  const auto least = static_cast<std::size_t>(std::max(4.0, std::ceil(members_seen * rays)));
  if (of.size() < least) return {};
  std::sort(of.begin(), of.end());
  const auto below = static_cast<std::size_t>(rays / trimmed_below);
  double sum = 0.0;
  double n = 0.0;
  for (std::size_t i = below; i + trimmed_above < of.size(); ++i) {
    sum += of[i];
    n += 1.0;
  }
  if (!(n > 0.0)) return {};
  FoldValue out{sum / std::sqrt(n), 0};
  for (const double one : of) out.present += one > its_share * sum / n;
  return out;
}

struct TurnedFold {
  double first_deg = 0.0;
  FoldValue value{};
};

template <class F>
void for_turns(const ByDirection& of, int rays, const F& f) {
  for (double first = 0.0; first < 360.0 / rays; first += turn_step_deg) {
    f(TurnedFold{first, fold_of(members(of, rays, first), rays)});
  }
}

TurnedFold best_turned(const ByDirection& of, int rays) {
  TurnedFold out;
  for_turns(of, rays, [&](const TurnedFold& t) {
    if (t.value.sureness > out.value.sureness) out = t;
  });
  return out;
}

// What sets show that no opening makes: at least what pure chance does.
double chance_in(const ByDirection& of) {
  double squares = 0.0;
  double count = 0.0;
  for (const int rays : chance_counts) {
    for_turns(of, rays, [&](const TurnedFold& t) {
      if (t.value.sureness < -1e8) return;
      squares += t.value.sureness * t.value.sureness;
      count += 1.0;
    });
  }
  return count > 0.0 ? std::max(1.0, std::sqrt(squares / count)) : 1.0;
}

}  // namespace

RayFold best_fold(const std::vector<RayStrips>& lamps) {
  RayFold out;
  std::array<double, fold_counts.size()> surest{};
  std::vector<ByDirection> tiers;
  for (const double from : from_half_widths) {
    tiers.push_back(by_direction(lamps, from));
    const ByDirection& of = tiers.back();
    const double chance = chance_in(of);
    for (std::size_t n = 0; n < fold_counts.size(); ++n) {
      const TurnedFold top = best_turned(of, fold_counts[n]);
      const double value = top.value.sureness / chance;
      surest[n] = std::max(surest[n], value);
      if (value <= out.sureness) continue;
      out = {fold_counts[n], top.first_deg, value, 0.0, top.value.present, from};
    }
  }
  for (std::size_t n = 0; n < fold_counts.size(); ++n) {
    if (fold_counts[n] != out.rays) out.next = std::max(out.next, surest[n]);
  }
  if (out.rays == 0) return out;
  // Near the lamps strips between two rays have both of them beside: what is told there as many
  // rays may lie half a spacing away. Farther out it is clear which.
  const double half = 180.0 / out.rays;
  double here = -1e9;
  double there = -1e9;
  double seen_from = 0.0;
  for (std::size_t t = 0; t < tiers.size(); ++t) {
    if (from_half_widths[t] < neighbours_apart * out.rays) continue;
    for (double by = -most_turn_deg; by <= most_turn_deg; by += turn_step_deg) {
      if (std::abs(by) > 0.5 * half) continue;
      const double at = out.first_deg + by + 360.0;
      const double one = fold_of(members(tiers[t], out.rays, at), out.rays).sureness;
      if (one > here) seen_from = from_half_widths[t];
      here = std::max(here, one);
      there = std::max(there, fold_of(members(tiers[t], out.rays, at + half), out.rays).sureness);
    }
  }
  out.first_told = std::abs(here - there) >= place_told;
  if (there > here) out.first_deg = std::fmod(out.first_deg + half, 2.0 * half);
  out.from = std::max(seen_from, neighbours_apart * out.rays);
  return out;
}

Measured fold_place(const std::vector<RayStrips>& lamps, const RayFold& fold) {
  constexpr double fine_deg = 0.25;
  constexpr double least_deg = 0.2;  // strips are half a degree apart
  constexpr double alone_deg = 2.0;
  const double most = std::min(most_turn_deg, 90.0 / fold.rays);
  const int reach = static_cast<int>(most / fine_deg);
  const auto place_by = [&](const std::vector<RayStrips>& of) {
    const ByDirection directions = by_direction(of, fold.from);
    // Rays are wider than a step: the middle of what is surer than most of the top.
    std::vector<double> values;
    for (int k = -reach; k <= reach; ++k) {
      const double at = fold.first_deg + k * fine_deg + 360.0;
      values.push_back(fold_of(members(directions, fold.rays, at), fold.rays).sureness);
    }
    const double top = *std::max_element(values.begin(), values.end());
    double sum = 0.0;
    double weight = 0.0;
    for (int k = -reach; k <= reach; ++k) {
      const double w = values[static_cast<std::size_t>(k + reach)] - 0.6 * top;
      if (!(top > 0.0) || w <= 0.0) continue;
      sum += w * k * fine_deg;
      weight += w;
    }
    return weight > 0.0 ? sum / weight : 0.0;
  };
  const double all = place_by(lamps);
  double squares = 0.0;
  for (std::size_t l = 0; l < lamps.size(); ++l) {
    std::vector<RayStrips> rest = lamps;
    rest.erase(rest.begin() + static_cast<std::ptrdiff_t>(l));
    squares += std::pow(place_by(rest) - all, 2.0);
  }
  const auto n = static_cast<double>(lamps.size());
  const double place = std::fmod(fold.first_deg + all + 360.0, 360.0 / fold.rays);
  if (n < 3.0) return {place, alone_deg};
  // Efron 1982, wider for few.
  const double spread = 2.0 * (1.0 + 1.5 / (n - 1.0)) * std::sqrt((n - 1.0) / n * squares);
  return {place, std::hypot(std::min(spread, 2.0 * most), least_deg)};
}

CommonLine common_line(const std::vector<RayStrips>& lamps) {
  constexpr double from = 8.0;
  constexpr int half_turn = ray_directions / 2;
  const std::vector<double> all = sureness_by_direction(lamps, from);
  CommonLine out;
  int at = 0;
  out.sureness = -1e9;
  for (int d = 0; d < half_turn; ++d) {
    const double weaker =
        std::min(all[static_cast<std::size_t>(d)], all[static_cast<std::size_t>(d + half_turn)]);
    if (weaker <= out.sureness) continue;
    out.sureness = weaker;
    at = d;
  }
  const double coarse = at * ray_step_deg;
  const double deg = coarse + best_turn(lamps, {coarse, coarse + 180.0}, from).value;
  std::vector<RayStrips> rest = lamps;
  leave_out(rest, deg);
  leave_out(rest, deg + 180.0);
  const std::vector<double> left = sureness_by_direction(rest, from);
  const double surest = *std::max_element(left.begin(), left.end());
  out.direction_deg = std::remainder(deg, 180.0);
  out.against_rest = out.sureness / std::max(1.0, surest);
  return out;
}

bool is_told(const RayFold& fold) {
  return fold.rays > 0 && fold.first_told &&
         fold.sureness >= (fold.rays == 4 ? sure_of_four : sure) &&
         fold.sureness >= against_next * fold.next &&
         fold.present >= static_cast<int>(std::ceil(members_present * fold.rays));
}

}  // namespace jolly_iris::measuring
