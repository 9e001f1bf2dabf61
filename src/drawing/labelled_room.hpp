// How a labelled sheet divides its paper, px.
#pragma once

namespace jolly_iris::drawing::labelled {

inline constexpr double top = 84.0;     // title, subtitle, names of columns
inline constexpr double bottom = 28.0;  // foot
inline constexpr double margin = 20.0;
inline constexpr double names_width = 132.0;
inline constexpr double gap = 6.0;
inline constexpr double words_height = 32.0;  // under a picture

}  // namespace jolly_iris::drawing::labelled
