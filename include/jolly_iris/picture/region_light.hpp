// The light of a part of a picture: what plate and CG are compared by, and what a grey card tells.
//
//   const Box box = box_in_picture(drawn.box, shot.body.pixels, picture.size());
//   const RegionLight light = light_of_region(picture, box, shot.primaries);
#pragma once

#include <array>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The light of a region.
struct RegionLight {
  Rgb mean{};  ///< linear, of its finite pixels
  double luminance = 0.0;
  double spread_stops = 0.0;  ///< standard deviation of log2 luminance: how even it is
  double clipped = 0.0;       ///< shares
  double non_finite = 0.0;
};
/// @throws UsageError for a box that is not within, PictureError if none of its pixels is finite
RegionLight light_of_region(const Picture& picture, const Box& box, Primaries primaries,
                            double clips_at = 1.0);

/// A box in px of the delivered picture, as px of a picture of another size; at least one pixel.
/// @throws UsageError if it does not lie within the delivered picture
Box box_in_picture(const std::array<double, 4>& box, PixelSize delivered, PixelSize picture);

}  // namespace jolly_iris
