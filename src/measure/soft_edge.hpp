// How light falls off across a softened edge: a straight edge seen through a small round lamp (its
// own picture, even and round) and everything that blurs in the camera: pixels and how they are put
// together, which end a pixel away, and what is smeared like a bell.
//
// Across such an edge a lamp of radius a alone gives ½ + (t √(1 − t²) + asin t) / π, t = d / a; the
// plate's own blur is laid over it: a tent, as far as a pixel to each side makes one (deviation
// 1/√6 px), a bell beyond. Where the foot of a bright, clipped edge is all that is seen, it matters
// that a tent has an end. All widths together are one deviation; `lamp` is the lamp's share of its
// square: 0 the plate's blur alone, 1 a lamp with an end.
#pragma once

namespace jolly_iris::measuring {

struct EdgeLight {
  double cover = 0.0;  ///< 0 … 1
  double slope = 0.0;  ///< of it, per deviation
};

/// @param t distance inside the edge, in deviations
/// @param tent share of the plate's own blur (its square) that is a tent
EdgeLight edge_light(double t, double lamp, double tent);

/// That share for a plate whose edges have this deviation, px.
double tent_fraction(double psf_sigma_px);

}  // namespace jolly_iris::measuring
