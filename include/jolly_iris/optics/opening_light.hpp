// How light spreads within the opening: its rim, rings, dust, scratches and a picture laid over it.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/opening.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The light of the whole opening; an empty grid where it is the same everywhere.
///   rim        2^(rim ρ⁶) at ρ of the way from the middle to the edge
///   rings      2^(strength/2 · sin 2πnρ)
///   dust       round specks, 30 … 90 % dark, half to one and a half times their size
///   scratches  hair-thin lines, 20 … 70 % dark
///   picture    its own values, averaged over a cell of the grid
/// @throws OpticsError (lens.iris…) for values out of reach, a picture with values that are no
/// light
///         or with none at all within the outline
OpeningLightGrid opening_light(const Iris& iris, const Opening& opening);

}  // namespace jolly_iris
