// How coarsely a codec has rounded a picture.
#pragma once

#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

/// The step of the middle frequencies of 8 × 8 blocks of luma, in 255ths of the file's values, as
/// JPEG files have them (ITU-T T.81); 0: none is seen. Coefficients of a block are multiples of a
/// step, so that between none and one step there are none.
double codec_step(const Picture& plate);

}  // namespace jolly_iris::measuring
