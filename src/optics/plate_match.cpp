#include "jolly_iris/optics/plate_match.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/white.hpp"
#include "quantile.hpp"

namespace jolly_iris {

namespace {

// Differences of this many stops are what regions of one light have among themselves.
constexpr double usual_stops = 0.05;

// A third of a stop: the step of cameras. Regions that are farther apart are lit otherwise.
constexpr double alike_stops = 1.0 / 3.0;

// The place that most agree on: weights of 1 near it, falling with distance beyond.
double agreed(const std::vector<double>& v) {
  double at = median(v);
  if (v.size() < 3) return at;
  std::vector<double> residuals;
  for (const double x : v) residuals.push_back(std::abs(x - at));
  const double reach = 1.345 * std::max(1.4826 * median(residuals), 1e-4);
  for (int round = 0; round < 50; ++round) {
    double sum = 0.0;
    double weights = 0.0;
    for (const double x : v) {
      const double w = std::min(1.0, reach / std::max(std::abs(x - at), 1e-12));
      sum += w * x;
      weights += w;
    }
    at = sum / weights;
  }
  return at;
}

void require_light(const RegionPair& pair, const Rgb& rgb, const char* where) {
  for (const double v : rgb) {
    if (std::isfinite(v) && v > 0.0) continue;
    throw OpticsError(fmt::format("region '{}' has {:.4g}, {:.4g}, {:.4g} in {}: to compare light, "
                                  "all three channels must be above zero",
                                  pair.name, rgb[0], rgb[1], rgb[2], where),
                      "plate.box");
  }
}

}  // namespace

PlateMatch match_to_plate(const std::vector<RegionPair>& pairs, Primaries primaries) {
  if (pairs.empty()) {
    throw OpticsError("there is no region to compare: draw a box or a grey card in the plate",
                      "plate.box");
  }
  std::array<std::vector<double>, 3> steps;
  for (const RegionPair& pair : pairs) {
    require_light(pair, pair.plate, "the plate");
    require_light(pair, pair.cg, "CG");
    for (std::size_t c = 0; c < 3; ++c) steps[c].push_back(std::log2(pair.plate[c] / pair.cg[c]));
  }
  PlateMatch match;
  for (std::size_t c = 0; c < 3; ++c) match.factors[c] = std::exp2(agreed(steps[c]));
  match.gains = {match.factors[0] / match.factors[1], 1.0, match.factors[2] / match.factors[1]};
  const Rgb weights = luminance_weights(primaries);
  const auto luminance = [&](const Rgb& rgb) {
    return weights[0] * rgb[0] + weights[1] * rgb[1] + weights[2] * rgb[2];
  };
  match.stops = std::log2(match.factors[1]);
  std::vector<double> residuals;
  for (const RegionPair& pair : pairs) {
    RegionLeft left;
    left.name = pair.name;
    Rgb changed = pair.cg;
    for (std::size_t c = 0; c < 3; ++c) changed[c] *= match.factors[c];
    left.stops = std::log2(luminance(pair.plate) / luminance(changed));
    left.alone_stops = match.stops + left.stops;
    left.warm_stops = std::log2(pair.plate[0] / pair.plate[2]) - std::log2(changed[0] / changed[2]);
    residuals.push_back(std::hypot(left.stops, left.warm_stops));
    match.regions.push_back(left);
  }
  std::size_t alike = 0;
  for (const RegionLeft& r : match.regions) alike += std::abs(r.stops) < alike_stops ? 1U : 0U;
  match.contradict = pairs.size() >= 2 && 2 * alike <= pairs.size();
  const double usual = std::max(usual_stops, 1.4826 * median(residuals));
  for (std::size_t i = 0; i < residuals.size(); ++i) {
    // Of two, nobody can tell which is the odd one.
    match.regions[i].apart = pairs.size() >= 3 && residuals[i] > 3.0 * usual;
  }
  return match;
}

White matched_white(const PlateMatch& match, const White& cg, Primaries primaries) {
  Rgb rgb = white_rgb(cg, primaries);
  for (std::size_t c = 0; c < 3; ++c) rgb[c] *= match.gains[c];
  return white_of_patch(rgb, primaries);
}

}  // namespace jolly_iris
