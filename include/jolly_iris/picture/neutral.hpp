// Finding the light's white in a picture by itself.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/optics/take.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What is taken to be neutral.
enum class NeutralBy {
  grey_world,  ///< the mean of all that is neither black nor clipped
  brightest    ///< the brightest patches that could be a white in some light and are not clipped
};

struct Neutral {
  Rgb rgb{};              ///< linear, of what was taken to be neutral
  White white{};          ///< the light in which that is neutral
  double fraction = 0.0;  ///< of the picture that it was taken from
};

/// Guesses: a red room has no grey mean, a lamp is no white card. Sources: Buchsbaum 1980 (grey
/// world); Land 1977 (the brightest as white), here of 8 × 8 px patches, so that noise does not
/// win.
/// @throws PictureError where nothing is bright enough, or what is has no white's colour
Neutral find_neutral(const Picture& picture, NeutralBy by, Primaries primaries,
                     double clips_at = 1.0);

}  // namespace jolly_iris
