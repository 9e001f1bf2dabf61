// How soft the edges of a picture are: where there are no lamps, they tell the blur.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One edge, measured across.
struct EdgeBlur {
  std::array<double, 2> at{};  ///< px
  double across_deg = 0.0;     ///< direction from dark to light, 0: to the right, 90: down
  double width_px = 0.0;       ///< deviation of the blur
  double margin_px = 0.0;      ///< two deviations of that
  double contrast = 0.0;       ///< light against dark, in roots of linear light
};

/// The clearest edges of a picture, at most one in each square of `apart_px`: straight for some
/// pixels, with even light on both sides. An error function is fitted to the root of the light.
/// @throws PictureError for a picture under 24 px on a side
std::vector<EdgeBlur> edge_blurs(const Picture& picture, int apart_px = 24);

/// The same edges in another picture of the same size; none where it has no such edge.
std::vector<std::optional<EdgeBlur>> same_edges(const Picture& picture,
                                                const std::vector<EdgeBlur>& edges);

/// The blur of a lens alone: what even the sharpest edges have (the sensor's low-pass filter,
/// scaling, a codec) is taken off in squares. @return 0 where the floor is all there is
double without_floor(double width_px, double floor_px);

/// Diameter of the evenly lit disc whose edge is so soft: 4 times the deviation.
inline double disc_of_blur(double width_px) { return 4.0 * width_px; }

}  // namespace jolly_iris
