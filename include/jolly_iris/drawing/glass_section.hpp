// A glass cut open along its axis: surfaces, the opening, rays of the picture's middle and corner,
// pupils, the film; of one with cylinders both ways.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/glass_look.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// 1280 × 800 px; the scene is at the left.
std::string section_png(const GlassLook& look);
std::string section_svg(const GlassLook& look);

}  // namespace jolly_iris
