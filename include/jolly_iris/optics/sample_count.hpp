// How many rays a pixel a renderer needs so that blurred highlights do not sparkle.
//
//   const long n = samples_needed({.coc_px = 40, .contrast = 200, .noise = 0.05});
//
// A pixel of a blurred highlight sees it through a small part of the opening only: through p, the
// highlight's own area against its disc's. Of N rays as many hit as a binomial distribution says,
// so the pixel's relative deviation is
//
//   noise = (K − 1) √(p (1 − p) / N) / (1 + p (K − 1)),     K the contrast of highlight to ground
//
// That is for random numbers; stratified or low-discrepancy ones do better, the more the larger p.
#pragma once

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct NoiseQuestion {
  double coc_px = 0.0;        ///< the disc's diameter; its sign does not count
  double highlight_px = 2.0;  ///< the highlight's own diameter when sharp, > 0
  double contrast = 100.0;    ///< highlight against what is around it, > 1
  double noise = 0.05;        ///< wanted standard deviation of a pixel against its value, > 0
};

/// Share of rays that hit the highlight: p above, at most 1.
double hit_fraction(const NoiseQuestion& question);
/// The relative standard deviation of a pixel with so many rays.
double noise_of(const NoiseQuestion& question, double rays);
/// Rays a pixel for the wanted noise, rounded up to a power of two, at least 1.
/// @throws OpticsError for values out of reach, and for more than 2³⁰ rays
long samples_needed(const NoiseQuestion& question);

}  // namespace jolly_iris
