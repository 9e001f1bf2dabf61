// The module that links cairo, loaded when it is first needed.
#pragma once

#include "backend.hpp"

namespace jolly_iris::drawing {

/// @throws FileError if the module is not there
const Backend& cairo_module();

}  // namespace jolly_iris::drawing
