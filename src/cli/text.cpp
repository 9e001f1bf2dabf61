#include "text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace jolly_iris::cli {

std::string metres(Length l) {
  if (l.is_infinite()) return "infinity";
  return fmt::format("{:.{}f} m", l.m(), l.m() < 100.0 ? 3 : 1);
}

std::string in_units(Length l, Length unit) {
  if (l.is_infinite()) return "infinity";
  return fmt::format("{:.6g}", l / unit);
}

std::string unit_text(Length unit) {
  return unit.m() >= 1.0     ? fmt::format("{:g} m", unit.m())
         : unit.mm() >= 10.0 ? fmt::format("{:g} cm", unit.mm() / 10.0)
                             : fmt::format("{:g} mm", unit.mm());
}

std::string blur_text(double px) {
  return std::abs(px) < 0.05 ? "0.0" : fmt::format("{:+.1f}", px);
}

std::string time_text(Duration time) {
  const double t = time.seconds();
  return t < 0.5 ? fmt::format("1/{:.4g} s", 1.0 / t) : fmt::format("{:.3g} s", t);
}

std::string stop_text(const Stop& stop) {
  return fmt::format("{}{:g}", stop.kind == Stop::Kind::f ? "f/" : "T", stop.value);
}

// Length of a text on the screen: bytes that go on a UTF-8 letter do not count.
std::size_t width_of(const std::string& text) {
  return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) {
    return (static_cast<unsigned char>(c) & 0xC0) != 0x80;
  }));
}

std::string padded(const std::string& text, std::size_t width) {
  return text + std::string(width - std::min(width, width_of(text)), ' ');
}

// Words over lines of at most 98 letters, the later ones indented.
std::string wrapped(const std::string& text, const std::string& first, const std::string& later) {
  constexpr std::size_t widest = 98;
  std::string out = first;
  std::size_t column = first.size();
  std::size_t at = 0;
  while (at < text.size()) {
    const std::size_t end = std::min(text.find(' ', at), text.size());
    const std::string word = text.substr(at, end - at);
    if (column + width_of(word) > widest) {
      out += '\n' + later;
      column = later.size();
    } else if (at > 0) {
      out += ' ';
      ++column;
    }
    out += word;
    column += width_of(word);
    at = end + 1;
  }
  return out + '\n';
}

}  // namespace jolly_iris::cli
