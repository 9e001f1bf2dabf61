// Rays that go through a given point of the opening: what pupils, spots and outlines are made of.
#pragma once

#include <array>
#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/traced.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Where rays come from: a point, or one so far away that they are parallel.
struct RaySource {
  std::array<double, 3> at{};  ///< mm, in the glass's space
  bool parallel = false;       ///< then `at` is the direction they go, along z: > 0
  static RaySource point(const std::array<double, 3>& at) { return {at, false}; }
  static RaySource far(const std::array<double, 3>& along) { return {along, true}; }
};

/// A ray from there that meets the stop's plane in (x, y), mm. Clear diameters do not matter to it.
/// Newton's method on the first surface's plane (the last's for a point on the film side), begun
/// where the entrance pupil would have it, or at `guess`.
/// @param from on the scene's side of the glass, or on the film's
/// @param guess where a ray nearby met that plane
/// @return none where no such ray is found
std::optional<GlassRay> aimed(const TracedGlass& glass, const RaySource& from,
                              const std::array<double, 2>& stop,
                              const std::optional<std::array<double, 2>>& guess = {});

/// The plane that `aimed` chooses places in: z of the first vertex, or of the last.
double aiming_plane(const TracedGlass& glass, const RaySource& from);

}  // namespace jolly_iris
