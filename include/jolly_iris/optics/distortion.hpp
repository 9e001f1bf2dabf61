// What a lens does to straight lines, as coefficients. Doing and undoing it is in undistort.hpp.
//
// A *distorted* place is one in the plate; the *undistorted* one is where a lens without distortion
// would have put it: where a CG camera puts it. With x, y in radii r of the lens (about its axis,
// in the desqueezed picture),
//
//   undistorted = distorted · (1 + k₁ r² + k₂ r⁴ + k₃ r⁶) + decentring (p₁, p₂)
//
// so positive k₁ is barrel (the corners of the plate were drawn in), negative pincushion. Where the
// lens squeezes, the way across has a set of its own. Converging verticals are no distortion: see
// perspective.hpp.
//
// Source: Brown, Close-range camera calibration, Photogrammetric Engineering 37 (1971).
#pragma once

#include <array>
#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The coefficients, as the lens has them.
struct Distortion {
  std::array<double, 3> k{};  ///< k₁ … k₃; up and down, where `wide` is given
  std::optional<std::array<double, 3>> width{};  ///< across; none: as `k`
  std::array<double, 2> p{};                     ///< decentring
  /// Distance from the axis, on the gate, that counts as r = 1. None: half the diagonal of the
  /// recorded (desqueezed) gate. Give it where the coefficients shall go with the lens to another
  /// body.
  std::optional<Length> radius{};

  /// Whether it does anything.
  bool any() const;
  friend bool operator==(const Distortion&, const Distortion&) = default;
};

}  // namespace jolly_iris
