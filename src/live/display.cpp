#include "live/display.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "drawing/blur_strength.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/workflow/displayed.hpp"

namespace jolly_iris::live {

namespace {

// sRGB's byte by the square root of the light, in which its curve is nearly even: 4096 steps are
// finer than a sixteenth of a byte everywhere but in the darkest thousandth.
constexpr int steps = 4096;

const std::array<unsigned char, steps + 1>& bytes_by_root() {
  static const auto table = [] {
    std::array<unsigned char, steps + 1> out{};
    for (std::size_t i = 0; i < out.size(); ++i) {
      const float root = static_cast<float>(i) / steps;
      out[i] = static_cast<unsigned char>(
          std::lround(255.0F * std::clamp(encode(root * root, Transfer::srgb), 0.0F, 1.0F)));
    }
    return out;
  }();
  return table;
}

// A stripe or dot is this much of light or dark over what it lies on.
constexpr double covering = 0.55;

std::string bytes_of(const Picture& picture) {
  const auto& table = bytes_by_root();
  std::string out(picture.pixels().size() * 4, '\xff');
  char* to = out.data();
  for (const Rgba& p : picture.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) {
      // No number at all is black as well: !(v > 0).
      const float v = p[c] > 0.0F ? std::min(p[c], 1.0F) : 0.0F;
      // To the nearest: it is not negative, and a call to the library's rounding is dearer than all
      // else here.
      const float position = std::sqrt(v) * steps + 0.5F;
      const auto i = static_cast<std::size_t>(position);
      to[c] = static_cast<char>(table[i]);
    }
    to += 4;
  }
  return out;
}

}  // namespace

std::string display_bytes(const Picture& picture, const LoadedShot& loaded) {
  if (loaded.now.colour.display.empty()) return bytes_of(picture);
  return bytes_of(displayed(picture, loaded));
}

void shade_blur(std::string& bytes, int width, const std::vector<float>& coc_px, double limit_px) {
  for (std::size_t i = 0; i < coc_px.size(); ++i) {
    const auto coc = static_cast<double>(coc_px[i]);
    if (std::abs(coc) <= limit_px) continue;
    const double strength = drawing::blur_strength(coc, limit_px);
    const auto x = static_cast<int>(i % static_cast<std::size_t>(width));
    const auto y = static_cast<int>(i / static_cast<std::size_t>(width));
    // From every eighth pixel at the limit to every third.
    const int apart = 8 - static_cast<int>(std::lround(5.0 * strength));
    bool marked = false;
    if (coc < 0.0) {
      marked = (x + y) % apart == 0;
    } else {
      marked = x % apart < 2 && y % apart < 2;
    }
    if (!marked) continue;
    for (std::size_t c = 0; c < 3; ++c) {
      char& byte = bytes[4 * i + c];
      const double was = static_cast<unsigned char>(byte);
      const double towards = coc < 0.0 ? 255.0 : 0.0;
      byte = static_cast<char>(
          static_cast<unsigned char>(std::lround(was + covering * (towards - was))));
    }
  }
}

}  // namespace jolly_iris::live
