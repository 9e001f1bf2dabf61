// A glass's compact form for renderers (glass_sampler.hpp), and how far it is from the surfaces.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/glass/glass_sampler.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// On rays that were not fitted.
struct GlassFitError {
  double rms_um = 0.0;    ///< where it believes a point in focus to lie, on the gate
  double worst_um = 0.0;  ///< of all those rays
  /// Share of rays of which it is wrong whether they pass.
  double wrongly_sorted = 0.0;
};

struct GlassFit {
  GlassSampler sampler{};
  GlassFitError error{};
};

/// By least squares over rays from all places of the gate through all of the opening and a little
/// beyond; rims that hide nothing which another one does not are left out.
/// @param camera of a round glass: focused, opened; one sampler is for that alone
/// @param focus that it is focused at, from the entrance pupil: what errors are told for
/// @param order odd, 3 … 9
/// @throws UsageError for another order; OpticsError for a glass with cylinders
GlassFit fit_glass(const GlassCamera& camera, Length focus, int order = 7);

}  // namespace jolly_iris
