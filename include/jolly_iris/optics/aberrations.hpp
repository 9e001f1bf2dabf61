// What a lens does besides focusing: its faults, each by its physical cause.
//
//   spherical     light through the rim of the opening focuses elsewhere: discs get a bright rim on
//                 one side of the focus and are soft on the other
//   coma          off the axis, each zone of the opening lands beside the others: comets
//   curvature     corners focus nearer (or farther) than the middle, with the square of the height
//   focus shift   each colour focuses elsewhere: fringes that swap sides across the focus
//   magnification each colour's picture has another size: fringes that do not
//
// A ray through the pupil point ρ (in radii, with direction ρ̂) lands beside where a perfect lens
// brings it by
//
//   a (ρ³ − 2ρ/3) ρ̂          a = spherical (D/D_widest)³; the −2ρ/3 keeps the least blur in focus
//   + K (2ρ² + ρ² cos 2φ − 1, ρ² sin 2φ) / 3, K = coma (D/D_widest)² h/height, φ from the direction
//                             off the axis; the −1 keeps the light's centre where it was
//
// Source: third-order aberrations (e.g. Welford, *Aberrations of Optical Systems*, ch. 7 and 8).
#pragma once

#include <array>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct Aberrations {
  Length spherical{};  ///< on the gate, at the widest stop; > 0: bright rims in front, soft behind
  Length coma{};       ///< a comet's length on the gate, at `height` and the widest stop; > 0: out
  Power curvature{};   ///< focus shift at `height`: > 0 focuses nearer there
  Length height{};     ///< image height (desqueezed) at which coma and curvature are given, > 0
  std::array<Power, 3> focus_shift{};                  ///< of red, green, blue: > 0 focuses nearer
  std::array<double, 3> magnification{1.0, 1.0, 1.0};  ///< of red, green, blue, about the axis

  /// Whether red, green and blue go different ways.
  bool coloured() const {
    return shifts_colours() || magnification != std::array<double, 3>{1.0, 1.0, 1.0};
  }
  bool shifts_colours() const {
    return focus_shift[0] != focus_shift[1] || focus_shift[1] != focus_shift[2];
  }
  /// Whether rays land beside where a perfect lens brings them.
  bool bends() const { return spherical.mm() != 0.0 || coma.mm() != 0.0; }
  friend bool operator==(const Aberrations&, const Aberrations&) = default;
};

}  // namespace jolly_iris
