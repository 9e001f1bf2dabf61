#include "report/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <string_view>

namespace jolly_iris::report {

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

std::string partner_name(Partner partner) {
  return partner == Partner::iso  ? "ISO"
         : partner == Partner::nd ? "ND"
                                  : std::string(to_string(partner));
}

std::string stops_text(double stops) {
  return fmt::format("{:.2f} stop{}", std::abs(stops), std::abs(stops) <= 1.0 ? "" : "s");
}

std::string stem_of(const std::string& file) {
  std::string name = std::filesystem::path(file).filename().string();
  for (const char* ending : {".toml", ".shot", ".exr", ".png", ".jpg", ".jpeg", ".tif", ".tiff"}) {
    const std::string_view e(ending);
    if (name.size() > e.size() && name.ends_with(e)) name.resize(name.size() - e.size());
  }
  return name;
}

std::string file_name(const std::string& path) {
  return std::filesystem::path(path).filename().string();
}

std::string blades_text(int blades) {
  return blades == 0 ? "round" : fmt::format("{} blades", blades);
}

std::string counted(std::size_t n, const char* thing) {
  return fmt::format("{} {}{}", n, thing, n == 1 ? "" : "s");
}

std::string signed_text(double v, int digits) {
  const double unit = std::pow(10.0, -digits);
  return fmt::format("{:+.{}f}", std::abs(v) < 0.5 * unit ? 0.0 : v, digits);
}

// Length of a text on the screen: bytes that go on a UTF-8 letter do not count.
std::string decibels(double db) {
  return std::isinf(db) ? std::string("equal") : fmt::format("{:.1f} dB", db);
}

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

}  // namespace jolly_iris::report
