// Highlights that a picture has lost, or never had: what is bright is made brighter.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/finish.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct LiftedPicture {
  Picture picture{};
  double peak_stops = 0.0;  ///< the brightest before, stops from mid-grey; −infinity for black
  std::size_t pixels = 0;   ///< that became brighter
};

/// Above `from`, e stops become e + (to − peak) t², t = (e − from) / (peak − from): without a step
/// or a kink, and the brightest lands on `to`. Where nothing reaches `from`, nothing changes.
/// @throws OpticsError (finish.lift_to) for a `to` below the peak or not above `from`; PictureError
///         for colour that is not finite
LiftedPicture lifted(const Picture& picture, const HighlightLift& lift);

}  // namespace jolly_iris
