// Pixels that are no numbers: NaN and infinity, as broken paths of light and half floats that
// overflow leave them. One of them spreads over all that a filter reaches.
#pragma once

#include <array>
#include <cstddef>

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Which pixels were no numbers.
struct MendedNumbers {
  std::size_t pixels = 0;
  std::array<int, 2> first{};  ///< column and row, from the top left
};

/// Gives each pixel whose colour or alpha is no number the mean of those beside it that are, from
/// the rim of a patch inwards; a depth that is NaN (infinite is the sky) that of the nearest thing
/// beside it.
/// @throws PictureError where more than a tenth of the picture is no number: what made it went
///         wrong, and there is nothing to mend it with
MendedNumbers mend_numbers(Frame& frame);

}  // namespace jolly_iris
