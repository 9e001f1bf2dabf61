// Places of a plate of any size as the straight picture has them, where the lens's distortion is
// known; else as they are.
#pragma once

#include <array>
#include <optional>

#include "jolly_iris/optics/undistort.hpp"

namespace jolly_iris {

class StraightPlaces {
 public:
  /// @param to_plate px of the plate for one of the delivered picture
  /// @throws as DistortionMap
  StraightPlaces(const VirtualCamera& camera, double to_plate) : to_plate_(to_plate) {
    if (camera.distortion.any()) map_.emplace(camera);
  }
  /// Both px of the plate from its top left corner.
  std::array<double, 2> straight(const std::array<double, 2>& at) const {
    if (!map_) return at;
    const auto out = map_->undistorted({at[0] / to_plate_, at[1] / to_plate_});
    return {to_plate_ * out[0], to_plate_ * out[1]};
  }

 private:
  std::optional<DistortionMap> map_{};
  double to_plate_ = 1.0;
};

}  // namespace jolly_iris
