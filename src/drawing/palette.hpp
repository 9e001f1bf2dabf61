// The paper and the colours that all drawings share.
#pragma once

#include "canvas.hpp"

namespace jolly_iris::drawing {

inline constexpr double sheet_width = 1280.0;  ///< px
inline constexpr double sheet_height = 800.0;

inline constexpr Colour night{0.055, 0.06, 0.075};  ///< behind pictures
inline constexpr Colour paper{0.975, 0.97, 0.955};
inline constexpr Colour white{1.0, 1.0, 1.0};
inline constexpr Colour ink{0.13, 0.15, 0.18};
inline constexpr Colour soft{0.42, 0.44, 0.46};
inline constexpr Colour grid{0.86, 0.855, 0.835};
inline constexpr Colour mark_red{0.64, 0.10, 0.24};  ///< what was metered, and what clips

}  // namespace jolly_iris::drawing
