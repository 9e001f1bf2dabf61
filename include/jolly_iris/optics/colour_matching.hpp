// How much of red, green and blue an eye takes light of one wavelength for.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/primaries.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Where the tabulated observer begins and ends, and its steps.
inline constexpr double shortest_seen_nm = 380.0;
inline constexpr double longest_seen_nm = 780.0;
inline constexpr double observer_step_nm = 5.0;

/// XYZ of light of one wavelength: the CIE 1931 2° colour-matching functions, straight between the
/// values of the table. None (0, 0, 0) beyond it.
/// Source: CIE 15:2004, table T.4.
Rgb colour_matching(double nm);

}  // namespace jolly_iris
