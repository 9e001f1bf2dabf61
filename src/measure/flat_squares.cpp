#include "flat_squares.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

#include "optics/quantile.hpp"

namespace jolly_iris::measuring {

namespace {

// Chance lifts one flat square in a hundred and fifty above this many deviations.
constexpr double accepted_sigmas = 2.5;

// How squares lie around the model by one of their figures: the middle of those that are no
// texture, and how far chance (and a codec, which rounds each square in its own way) takes them
// from it.
struct RatioSpread {
  double middle = 1.0;
  double sigma = 0.1;
};

using SquareFigure = double (*)(const GrainSquare&, std::size_t);
constexpr SquareFigure figures[] = {
    [](const GrainSquare& s, std::size_t c) { return s.of[c].near; },
    [](const GrainSquare& s, std::size_t c) { return s.of[c].middle; },
    [](const GrainSquare& s, std::size_t c) { return s.of[c].far; },
    [](const GrainSquare& s, std::size_t c) { return s.of[c].whole; },
};

// By the quieter side alone, where texture is not: the middle is where squares lie densest.
RatioSpread spread_of(std::vector<double> ratios, double least_sigma) {
  std::sort(ratios.begin(), ratios.end());
  const std::size_t n = ratios.size();
  // The densest half-width of the lowest part: the shortest interval that holds a quarter.
  const std::size_t part = std::max<std::size_t>(8, n / 4);
  if (n <= part) return {ratios[n / 2], least_sigma};
  std::size_t best = 0;
  double shortest = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i + part < n; ++i) {
    const double length = ratios[i + part] - ratios[i];
    // Of the same density, the quieter: by a share, since noise grows with its level.
    if (length / ratios[i + part / 2] < shortest - 1e-12) {
      shortest = length / ratios[i + part / 2];
      best = i;
    }
  }
  const double middle = ratios[best + part / 2];
  std::vector<double> below;
  for (const double r : ratios) {
    if (r < middle) below.push_back(1.0 - r / middle);
  }
  // Half of what lies below the middle of a bell lies within 0.6745 of its deviations.
  const double sigma = below.size() < 8 ? least_sigma : quantile(below, 0.5) / 0.6745;
  return {middle, std::clamp(sigma, least_sigma, 0.5)};
}

}  // namespace

GrainSquares flat_squares(const std::vector<GrainSquare>& squares, const GrainEstimate& e) {
  const DifferenceLaw law = difference_law(e.size_px);
  std::vector<char> flat(squares.size(), 1);
  for (const SquareFigure figure : figures) {
    for (std::size_t c = 0; c < 3; ++c) {
      std::vector<double> ratios;
      for (const GrainSquare& s : squares)
        ratios.push_back(figure(s, c) / e.model[c].at(s.level[c]));
      const RatioSpread spread = spread_of(ratios, law.middle_sigma);
      for (std::size_t i = 0; i < squares.size(); ++i) {
        flat[i] = flat[i] != 0 && std::abs(ratios[i] / spread.middle - 1.0) <=
                                      accepted_sigmas * spread.sigma + 0.02;
      }
    }
  }
  GrainSquares out;
  for (std::size_t i = 0; i < squares.size(); ++i) {
    if (flat[i] != 0) out.push_back(&squares[i]);
  }
  return out;
}

std::vector<GrainSquares> grain_patches(const GrainSquares& squares) {
  constexpr int side = 3 * grain_square;
  std::map<std::array<int, 2>, GrainSquares> by_place;
  for (const GrainSquare* s : squares) by_place[{s->box.x / side, s->box.y / side}].push_back(s);
  std::vector<GrainSquares> out;
  for (auto& [place, patch] : by_place) out.push_back(std::move(patch));
  return out;
}

}  // namespace jolly_iris::measuring
