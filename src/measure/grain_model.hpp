// Grain in squares of a plate: their variance as a line of their light, and the softness and
// likeness that belong to it.
#pragma once

#include <algorithm>
#include <array>
#include <vector>

#include "jolly_iris/measure/grain_in_plate.hpp"
#include "second_differences.hpp"

namespace jolly_iris::measuring {

/// What tells the variance: middle differences are stirred least by soft texture; all that is left
/// of a square without its ramp sees what a codec makes of colours too, which comes in patches.
enum class GrainScale { middle, whole };

struct GrainSquare {
  Box box{};
  Rgb level{};
  std::array<SecondDifferences, 3> of{};  ///< of each channel
  std::array<double, 3> across{};         ///< product of two channels' differences: rg, gb, br

  double variance(std::size_t c, const DifferenceLaw& law, GrainScale scale) const {
    return scale == GrainScale::whole ? of[c].whole / law.whole : of[c].middle / law.middle;
  }
};

using GrainSquares = std::vector<const GrainSquare*>;

/// One channel's variance as a + b L.
struct VarianceModel {
  double a = 0.0;
  double b = 0.0;
  double at(double level) const { return std::max(1e-16, a + b * std::max(0.0, level)); }
};

struct GrainEstimate {
  std::array<VarianceModel, 3> model{};
  double size_px = 0.0;
  double alike = 0.0;
};

/// The plate's squares that are nowhere clipped, neither at white nor at black.
std::vector<GrainSquare> grain_squares(const Picture& plate, double clips_at);

/// Groups by light, the quiet ones of each, and a line through them: where nobody knows yet which
/// squares are flat.
VarianceModel first_model(const std::vector<GrainSquare>& squares, std::size_t c,
                          const DifferenceLaw& law);

/// @param from what was thought before
GrainEstimate grain_estimate(const GrainSquares& squares, GrainEstimate from, GrainScale scale);

}  // namespace jolly_iris::measuring
