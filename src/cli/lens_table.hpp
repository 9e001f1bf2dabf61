// The renderer's lens as text.
#pragma once

#include <string>

#include "jolly_iris/lens_sampler.hpp"

namespace jolly_iris::cli {

/// Every member of LensSampler by its name, as JSON; docs/bokeh.md says how to read it.
std::string lens_table(const LensSampler& lens);

}  // namespace jolly_iris::cli
