// Exposure, white and fall-off put onto a picture in linear light.
#pragma once

#include <optional>

#include "jolly_iris/fall_off.hpp"
#include "jolly_iris/picture.hpp"
#include "jolly_iris/primaries.hpp"

namespace jolly_iris {

struct PictureChange {
  double factor = 1.0;               ///< of light, > 0
  Rgb gains{1, 1, 1};                ///< of the channels, > 0
  std::optional<Matrix3> colours{};  ///< e.g. a chromatic adaptation; before the gains
  const FallOff* fall_off = nullptr;
  bool take_out = false;  ///< the fall-off is taken out instead of put in
};

/// Colour changes in place; alpha and what is not finite stay as they are. Nothing is clamped.
/// @throws UsageError for a factor or gain that is not above zero and finite
void change(Picture& picture, const PictureChange& what);

}  // namespace jolly_iris
