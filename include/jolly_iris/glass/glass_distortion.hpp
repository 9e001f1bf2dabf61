// What a glass does to straight lines, as the coefficients that ordinary lenses have.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/prescription.hpp"
#include "jolly_iris/optics/distortion.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct GlassDistortion {
  Distortion distortion{};  ///< its radius is always given
  /// How far from there rays through the opening's middle lie, at the most, on the film within that
  /// radius.
  Length worst{};
};

/// By least squares over rays from far away through the opening's middle, out to where a rim
/// stops them.
/// @param squeeze by which pictures are desqueezed: places across are taken in the desqueezed
///        picture, ≥ 1
/// @throws OpticsError for a prescription with mistakes, or one that shows nothing off its axis
GlassDistortion distortion_of(const Prescription& prescription, double squeeze = 1.0);

}  // namespace jolly_iris
