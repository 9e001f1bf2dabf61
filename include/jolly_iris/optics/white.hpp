// White: colour temperature and tint, the gains that neutralise a light, and the way back.
//
// A camera that is told the light is *warm* (3200 K) divides by a warm white, so that its picture
// turns *bluer*; a bluish picture of a grey card says that the light was cooler than told.
//
//   const White told{3200_K}, light{5600_K};
//   const Rgb seen = seen_white(told, light, Primaries::rec709);   // a grey card: blue
//
// The locus of whites is Planck's up to 3500 K, CIE daylight from 4500 K, and in between the one
// passes into the other in CIE 1960 uv (by even steps of mired), where tint is measured at right
// angles to it.
// Sources: CIE 15:2004 (daylight locus, 2° colour-matching functions, tabulated at 5 nm; Planck's
// law with c₂ = 0.014388 m·K as ITS-90 has it); CIE 1960 UCS for uv and tint (Duv).
#pragma once

#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/optics/take.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Temperatures that a white can have, and how far from the locus it can be.
inline constexpr double coolest_white_K = 25000.0;
inline constexpr double warmest_white_K = 1000.0;
inline constexpr double max_tint = 0.05;

/// @throws OpticsError (key take.white) for a temperature outside 1000 … 25000 K, or a tint beyond
///         ±0.05
Chromaticity chromaticity_of(const White& white);

/// The nearest white to a chromaticity. The inverse of chromaticity_of.
/// @throws OpticsError for one that is farther than 0.05 from the locus, or beyond its ends: no
///         light that people call white
White white_of(const Chromaticity& c);

/// What linear RGB has of a perfectly white card in this light, with G = 1.
/// @throws OpticsError for a white that lies outside the primaries (below about 1900 K in Rec.709)
Rgb white_rgb(const White& white, Primaries primaries);

/// The gains that make that card neutral: 1 / white_rgb.
Rgb white_gains(const White& white, Primaries primaries);

/// The light in which a neutral patch has this colour; any brightness.
/// @throws OpticsError for a patch with a channel at or below zero, or not finite; and as white_of
White white_of_patch(const Rgb& rgb, Primaries primaries);

/// The light that these gains make neutral. @throws as white_of_patch
White white_of_gains(const Rgb& gains, Primaries primaries);

/// What a camera that was told one light makes of a neutral card in another, with G = 1.
Rgb seen_white(const White& told, const White& light, Primaries primaries);

/// Reciprocal megakelvin: equal steps look about equal. 5600 K is 179 mired.
double mired(Temperature t);
Temperature from_mired(double mired);

/// "bluer", "warmer", "greener", "pinker": how a colour with G = 1 differs from neutral, in words
/// and stops of R and B: "bluer (R −0.62, B +0.81 stops)". "neutral" within 0.02 stop.
std::string cast_in_words(const Rgb& rgb);

/// How colours are moved from one white to another.
enum class Adaptation {
  cat16,    ///< Li et al. 2017
  bradford  ///< Lam 1985, as ICC profiles use it
};

/// The 3 × 3 that takes colours seen under `from` to their likes under `to`: von Kries in the
/// method's own primaries. On XYZ; and on linear RGB of these primaries.
ColourMatrix adaptation(const Chromaticity& from, const Chromaticity& to, Adaptation method);
ColourMatrix rgb_adaptation(const Chromaticity& from, const Chromaticity& to, Adaptation method,
                            Primaries primaries);

}  // namespace jolly_iris
