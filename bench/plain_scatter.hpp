// Two plain ways of spreading discs, correct and on all cores, to measure defocus against. They get
// the same discs, layers and joining as defocus itself; only how light is brought to the layers
// differs.
#pragma once

#include "compositor.hpp"
#include "prepare.hpp"

namespace jolly_iris::blur {

enum class Plain {
  shape_test,  ///< every pixel of a disc's box is tested against blades and rims
  spans,       ///< a disc's rows are filled from end to end
  spans_avx2   ///< the same, compiled for AVX2
};

/// @param camera whose opening has blades, bent outward
Picture plain_defocus(const Frame& frame, const VirtualCamera& camera, Plain way);

}  // namespace jolly_iris::blur
