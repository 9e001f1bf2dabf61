// How light falls off across a softened edge: a straight edge seen through a small round lamp (its
// own picture, even and round) and everything that blurs like a bell (pixels, smear, codec).
//
// Across such an edge a lamp of radius a alone gives ½ + (t √(1 − t²) + asin t) / π, t = d / a; the
// bell is laid over it. Both widths together are one deviation; `lamp` is the lamp's share of its
// square: 0 a bell, 1 a lamp with an end.
#pragma once

namespace jolly_iris::measuring {

struct EdgeLight {
  double cover = 0.0;  ///< 0 … 1
  double slope = 0.0;  ///< of it, per deviation
};

/// @param t distance inside the edge, in deviations
EdgeLight edge_light(double t, double lamp);

}  // namespace jolly_iris::measuring
