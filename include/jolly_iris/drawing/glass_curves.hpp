// What glasses do over the picture and over their focus, as curves beside each other: light,
// distortion, spots, where both directions are sharp, breathing, travel.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/glass_look.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Most glasses on one drawing: more colours are not told apart.
inline constexpr std::size_t most_glass_curves = 5;

/// 1280 × 800 px. All are drawn over the same heights on the film, as far as each lights.
/// @throws UsageError for none, or for more than most_glass_curves; as over_field
std::string glass_curves_png(const std::vector<GlassLook>& looks);
std::string glass_curves_svg(const std::vector<GlassLook>& looks);

}  // namespace jolly_iris
