// Exposure, white and fall-off put onto a picture in linear light.
#pragma once

#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/optics/relative_illumination.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct PictureChange {
  double factor = 1.0;                    ///< of light, > 0
  Rgb gains{1, 1, 1};                     ///< of the channels, > 0
  std::optional<ColourMatrix> colours{};  ///< e.g. a chromatic adaptation; before the gains
  const RelativeIllumination* relative_illumination = nullptr;
  bool take_out = false;  ///< the fall-off is taken out instead of put in
};

/// Colour changes in place; alpha and what is not finite stay as they are. Nothing is clamped.
/// @throws UsageError for a factor or gain that is not above zero and finite
void change(Picture& picture, const PictureChange& what);

}  // namespace jolly_iris
