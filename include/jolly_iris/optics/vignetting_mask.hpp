// The barrel for renderers that know no cut-off: a black card with a round hole in front of the
// camera. What is out of focus sees the hole beside the opening and is cut as the rim cuts it.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/opening_light.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct VignettingMask {
  Length distance{};      ///< of the card from the camera's origin, along the view axis
  Length side{};          ///< of the square card, large enough to fill the view
  Length hole_radius{};   ///< round its middle
  double exposure = 1.0;  ///< what the render is multiplied by: the T-number has the loss already
  std::vector<std::string> warnings{};
};

/// The card for the front rim that cuts most in the corners. Rims behind the pupil cannot be handed
/// over so, since they would stand behind the camera: a warning says what is lost. Another warns
/// where the hole's edge would show as a dark corner: where a pinhole would see it in the picture.
/// @throws OpticsError (lens.barrel) for a lens without a front rim, and as Pupil
VignettingMask vignetting_mask(const VirtualCamera& camera);

/// The card as a picture, size × size: 0 where it is black, 1 in the hole, its edge filtered.
/// @throws UsageError unless size is 16 … 8192
OpeningPicture mask_picture(const VignettingMask& mask, int size);

}  // namespace jolly_iris
