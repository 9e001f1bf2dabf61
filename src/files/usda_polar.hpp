// A linear map taken apart into a rotation and what stretches.
#pragma once

#include "jolly_iris/optics/geometry.hpp"

namespace jolly_iris::usda {

/// map = rotation · stretch, the stretch symmetric; of it the diagonal: what is off it is a shear
/// that no rotation and scale can say.
struct Polar {
  Matrix3 rotation{};
  Vec3 scale{};
};

/// By singular values (N. J. Higham, "Computing the polar decomposition", 1986). A mirroring stays
/// in the stretch, so that the rotation is one.
Polar polar(const Matrix3& map);

}  // namespace jolly_iris::usda
