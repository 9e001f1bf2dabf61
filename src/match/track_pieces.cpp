#include "track_pieces.hpp"

#include <algorithm>
#include <map>
#include <numeric>

namespace jolly_iris::matching {

namespace {

// Readings of a track, or in common with another, below which it tells nothing.
constexpr std::size_t least_readings = 4;
constexpr std::size_t least_in_common = 3;

std::size_t in_common(const Piece& a, const Piece& b) {
  std::size_t n = 0;
  auto other = b.readings.begin();
  for (const TrackReading& r : a.readings) {
    while (other != b.readings.end() && other->frame < r.frame) ++other;
    n += other != b.readings.end() && other->frame == r.frame ? 1U : 0U;
  }
  return n;
}

}  // namespace

void add_pieces(const std::string& lamp, std::vector<TrackReading> readings, double through,
                std::vector<Piece>& out) {
  if (readings.size() < least_readings) return;
  const auto least = std::min_element(
      readings.begin(), readings.end(),
      [](const TrackReading& a, const TrackReading& b) { return a.value < b.value; });
  const double ends = std::min(readings.front().value, readings.back().value);
  // One that goes fast is far from the focus on both sides of it: no farther than its next step.
  double fast = through;
  if (least != readings.begin()) {
    fast = std::max(fast, 1.5 * (std::prev(least)->value - least->value));
  }
  if (std::next(least) != readings.end()) {
    fast = std::max(fast, 1.5 * (std::next(least)->value - least->value));
  }
  if (least->value < fast && least->value < 0.7 * ends) {
    const std::vector<TrackReading> before(readings.begin(), least);
    const std::vector<TrackReading> after(least + 1, readings.end());
    add_pieces(lamp, before, through, out);
    add_pieces(lamp, after, through, out);
    return;
  }
  out.push_back({lamp, std::move(readings), 1.0, 0.0});
}

std::vector<Piece> connected(const std::vector<Piece>& all) {
  std::vector<std::size_t> group(all.size());
  std::iota(group.begin(), group.end(), std::size_t{0});
  const auto root = [&](std::size_t i) {
    while (group[i] != i) i = group[i] = group[group[i]];
    return i;
  };
  for (std::size_t a = 0; a < all.size(); ++a) {
    for (std::size_t b = 0; b < a; ++b) {
      if (in_common(all[a], all[b]) >= least_in_common) group[root(a)] = root(b);
    }
  }
  std::map<std::size_t, std::size_t> readings;
  for (std::size_t i = 0; i < all.size(); ++i) readings[root(i)] += all[i].readings.size();
  const auto most = std::max_element(readings.begin(), readings.end(),
                                     [](auto& a, auto& b) { return a.second < b.second; });
  std::vector<Piece> out;
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (root(i) == most->first) out.push_back(all[i]);
  }
  return out;
}

}  // namespace jolly_iris::matching
