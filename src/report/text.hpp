// How numbers and tables are written for people.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// A length in units of the artist's scene: "235", "infinity".
std::string in_units(Length l, Length unit);
/// "1 cm", "1 m".
std::string unit_text(Length unit);
/// "stop", "shutter", "ISO", "ND".
std::string partner_name(Partner partner);
/// "1.00 stop", "1.61 stops": without its sign.
std::string stops_text(double stops);
/// "round", "7 blades".
std::string blades_text(int blades);
/// "1 disc", "2 discs".
std::string counted(std::size_t n, const char* thing);
/// A number with its sign; what rounds to nothing has none.
std::string signed_text(double v, int digits);
/// The last part of a path.
std::string file_name(const std::string& path);
/// "out/hero.shot.toml" → "hero": the name that outputs are called after.
std::string stem_of(const std::string& file);
/// A CoC in pixels with its sign; what rounds to nothing is "0.0", neither + nor −.
std::string blur_text(double px);
/// "45.4 dB"; "equal" for pictures between which nothing is left.
std::string decibels(double db);
/// Letters on the screen: bytes that go on a UTF-8 letter do not count.
std::size_t width_of(const std::string& text);
/// Filled up with blanks to a width.
std::string padded(const std::string& text, std::size_t width);
/// Words over lines of at most 98 letters, the later ones indented.
std::string wrapped(const std::string& text, const std::string& first, const std::string& later);

}  // namespace report
}  // namespace jolly_iris
