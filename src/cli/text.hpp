// How numbers and tables are written for people.
#pragma once

#include <string>

#include "jolly_iris/take.hpp"
#include "jolly_iris/units.hpp"

namespace jolly_iris::cli {

/// "2.350 m", "46.6 m", "infinity".
std::string metres(Length l);
/// A length in units of the artist's scene: "235", "infinity".
std::string in_units(Length l, Length unit);
/// "1 cm", "1 m".
std::string unit_text(Length unit);
/// "1/48 s", "1.5 s".
std::string time_text(Duration time);
/// "f/2", "T2.1".
std::string stop_text(const Stop& stop);
/// A CoC in pixels with its sign; what rounds to nothing is "0.0", neither + nor −.
std::string blur_text(double px);
/// Letters on the screen: bytes that go on a UTF-8 letter do not count.
std::size_t width_of(const std::string& text);
/// Filled up with blanks to a width.
std::string padded(const std::string& text, std::size_t width);
/// Words over lines of at most 98 letters, the later ones indented.
std::string wrapped(const std::string& text, const std::string& first, const std::string& later);

}  // namespace jolly_iris::cli
