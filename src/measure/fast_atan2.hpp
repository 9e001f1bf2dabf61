// The direction of a place, where fits ask it a million times.
#pragma once

#include <cmath>
#include <numbers>

namespace jolly_iris::measuring {

/// As std::atan2, within 2e-8 radians: Abramowitz and Stegun, Handbook of Mathematical Functions,
/// 4.4.49, from the half of an octant that it holds for to all round.
inline double fast_atan2(double y, double x) {
  using std::numbers::pi;
  const double across = std::abs(x);
  const double up = std::abs(y);
  const bool steep = up > across;
  const double longer = steep ? up : across;
  if (!(longer > 0.0)) return 0.0;
  const double t = (steep ? across : up) / longer;
  const double s = t * t;
  double angle =
      t *
      (1.0 +
       s * (-0.3333314528 +
            s * (0.1999355085 +
                 s * (-0.1420889944 +
                      s * (0.1065626393 +
                           s * (-0.0752896400 +
                                s * (0.0429096138 + s * (-0.0161657367 + s * 0.0028662257))))))));
  if (steep) angle = 0.5 * pi - angle;
  if (x < 0.0) angle = pi - angle;
  return y < 0.0 ? -angle : angle;
}

}  // namespace jolly_iris::measuring
