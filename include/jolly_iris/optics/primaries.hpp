// The colour spaces that linear pictures are kept in, by their primaries.
#pragma once

#include <array>
#include <string_view>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Linear RGB of ITU-R BT.709 (which sRGB shares; its white is D65), or ACEScg (AP1, S-2014-004;
/// its white is that of ACES, about D60).
enum class Primaries { rec709, acescg };

/// "Rec.709", "ACEScg".
std::string_view to_string(Primaries primaries);

using Rgb = std::array<double, 3>;
using ColourMatrix = std::array<std::array<double, 3>, 3>;

/// A chromaticity, CIE 1931.
struct Chromaticity {
  double x = 0.0;
  double y = 0.0;
};

/// The white that such a space calls (1, 1, 1).
Chromaticity white_of(Primaries primaries);

/// XYZ of a chromaticity at luminance 1 (its Y). `y` is above zero.
Rgb xyz_of(const Chromaticity& chromaticity);

/// XYZ → linear RGB, and back, by the published chromaticities; no adaptation.
const ColourMatrix& rgb_from_xyz(Primaries primaries);
const ColourMatrix& xyz_from_rgb(Primaries primaries);

/// How much each channel counts in luminance: the middle row of xyz_from_rgb. They add up to 1.
Rgb luminance_weights(Primaries primaries);

Rgb product(const ColourMatrix& m, const Rgb& v);
ColourMatrix product(const ColourMatrix& a, const ColourMatrix& b);
/// @throws OpticsError for a matrix that has no inverse
ColourMatrix inverse(const ColourMatrix& m);

}  // namespace jolly_iris
