// How much darker a plate's corners are, from its even surfaces.
//
// On a wall, a sky, a floor without texture light changes slowly: by a slope of the light that
// falls on it, and by what the lens takes towards the corners, stops × (r / corner)^power. A slope
// is straight; what bends alike in both directions, on several surfaces by the same amount, is the
// lens. One surface alone may be lit by a pool of light, unless it bends around the picture's
// middle.
//
// All of the darkening is told, the lens's own and what was added.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/measured.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One surface that was taken for even.
struct EvenSurface {
  Box box{};         ///< around it, px of the plate
  int squares = 0;   ///< that it consists of
  Measured stops{};  ///< at the corner, by this one alone
  bool used = false;
};

/// What was found, or why nothing: "cannot tell" comes with what would settle it.
struct CornersFinding {
  std::optional<Measured> stops{};  ///< lost at the picture's corner; below zero it is brighter
  /// How steeply: stops × (r / corner)^power; none where corners are too even to tell.
  std::optional<Measured> power{};
  std::string no_corners{};  ///< a sentence where there is none
  std::vector<EvenSurface> surfaces{};
};

struct CornersSettings {
  double clips_at = 0.98;  ///< from here on a channel is no witness
};

/// @throws PictureError for a picture under 64 px on a side, or not finite
CornersFinding corners_in(const Picture& plate, const CornersSettings& settings = {});

}  // namespace jolly_iris
