// Discs coloured by their place in the frame: a wish, no fault of a lens. What is sharp keeps its
// colour, and discs keep their luminance.
//
//   lens.colouring.tint = DiscTint{.colour = {1.0, 0.8, 0.6}, .reach = 12_mm, .power = 2.0};
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A colour that discs around a place take.
struct ColourPlace {
  Length right{};  ///< place on the gate, from the axis, as seen in the scene
  Length up{};
  std::array<double, 3> colour{1.0, 1.0, 1.0};  ///< linear RGB, ≥ 0, not all 0
  Length reach{};  ///< how far it takes over: half of its say is left at this distance, > 0
  friend bool operator==(const ColourPlace&, const ColourPlace&) = default;
};

/// A tint of discs that grows with the distance from the axis, or along one direction.
struct DiscTint {
  std::array<double, 3> colour{1.0, 1.0, 1.0};  ///< linear RGB, ≥ 0, not all 0
  /// Counter-clockwise from level, as seen in the scene: from `reach` on the other side of the
  /// axis to `reach` on this one. None: with the distance from the axis.
  std::optional<Angle> towards{};
  Length reach{};      ///< on the gate, where it is at its most, > 0
  double power = 1.0;  ///< how late it sets in, > 0: 1 evenly, 2 and more towards the end
  double least = 0.0;  ///< share of the tint where it begins, 0 … 1
  double most = 1.0;   ///< and where it ends, 0 … 1
  friend bool operator==(const DiscTint&, const DiscTint&) = default;
};

/// How much of the tint a place has, 0 … 1. A wish: a straight line to a power.
double tint_fraction(const DiscTint& tint, Length right, Length up);

/// What discs are coloured by.
struct DiscColouring {
  std::vector<ColourPlace> places{};
  std::optional<DiscTint> tint{};
  bool any() const { return !places.empty() || tint; }
  friend bool operator==(const DiscColouring&, const DiscColouring&) = default;
};

/// The colour of discs at a place: the places' colours and white, each by its say, times the tint.
/// Without either it is white. Luminance (Rec.709) is 1.
std::array<double, 3> disc_colour(const DiscColouring& colouring, Length right, Length up);

/// How much of it a disc takes: none up to 2 px of blur, all from 8 px on.
double colour_fraction(double coc_px);

}  // namespace jolly_iris
