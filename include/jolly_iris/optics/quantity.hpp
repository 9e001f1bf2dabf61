// Quantities as people write them: "53 mm", "7' 10\"", "f/2", "T2.1", "1/48 s", "172.8 deg".
//
// Every reader takes the whole text, ignores spaces around it, and throws QuantityError with a
// sentence that says what was read and what would be right. A bare number is never guessed at.
#pragma once

#include <string>
#include <string_view>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// "53 mm", "2.4 m", "30 cm", "3 in", "7' 10\"", "7 ft 10 in". Any sign; finite.
Length parse_length(std::string_view text);
/// A length, or "infinity" / "inf".
Length parse_distance(std::string_view text);
/// "172.8 deg", "172.8°", "3.016 rad".
Angle parse_angle(std::string_view text);
/// "f/2", "f2.8", "T2.1", "t/2.1".
Stop parse_stop(std::string_view text);
/// "1/48 s", "0.02 s", "20 ms", or an angle.
Shutter parse_shutter(std::string_view text);
/// "12 min", "90 s", "1 h 20 min": seconds, above zero.
double parse_duration(std::string_view text);
/// "25.9 x 14.6 mm" (also with ×, and with a unit on both numbers).
Extent parse_extent(std::string_view text);
/// An extent, or a trade format by its name ("super 35").
Extent parse_gate(std::string_view text);
/// "2 dioptres", "0.5 dpt", "1.5 /m".
Power parse_power(std::string_view text);
/// "19 to 53 mm" (also with -, and with a unit on both).
ZoomRange parse_zoom(std::string_view text);
/// "3840 x 2160": whole numbers.
PixelSize parse_pixel_size(std::string_view text);
/// "5600 K".
Temperature parse_temperature(std::string_view text);
/// "5600 K", "5600 K tint +0.004" (Duv). Within what chromaticity_of takes.
White parse_white(std::string_view text);
/// "1.5 x": a multiple.
double parse_multiple(std::string_view text);
/// "straight", "round", "1.5 x" or a length.
BladeRadius parse_blade_radius(std::string_view text);
/// "2 stops", "0.6 density", "4 x" (a factor of light), "0.6 density + 1 stop": the stops.
double parse_density(std::string_view text);
/// "1.2 stops", "-0.5 stops": within ±100.
double parse_stops(std::string_view text);
/// "4 %" or "0.04": the share, not below zero.
double parse_fraction(std::string_view text);
/// "95 cd/m2", or as a spot meter says it, "9.5 EV" (at ISO 100): cd/m², above zero.
double parse_luminance(std::string_view text);
/// "12 px", "0.1 mm", "0.5 %" (of the picture's width). Above zero.
BlurSize parse_blur_size(std::string_view text);
/// "2 px", "photosite" or "print".
Criterion parse_criterion(std::string_view text);

}  // namespace jolly_iris
