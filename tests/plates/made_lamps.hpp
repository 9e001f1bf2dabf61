// What made plates of lamps share: their dice, the dark ground, and the file that they go through.
#pragma once

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <random>
#include <string>

#include "grained.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris::plates {

/// Numbers from a seed, the same everywhere.
struct PlateDice {
  std::mt19937 random;
  double uniform(double low, double high) {
    return low + (high - low) * (static_cast<double>(random()) / 4294967296.0);
  }
  double log_uniform(double low, double high) {
    return std::exp(uniform(std::log(low), std::log(high)));
  }
};

/// A ramp of light with bumps. @param ramp of its light over the width
inline Picture dark_ground(PixelSize size, double light, double texture, double ramp,
                           std::uint32_t seed) {
  Picture out(size, {0, 0, 0, 1});
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const double bump = texture > 0.0 ? texture * grained::texture(x, y, seed) : 0.0;
      const double slope = 1.0 + ramp * (x / static_cast<double>(size.width) - 0.5);
      const auto here = static_cast<float>(std::max(0.001, light * slope * (1.0 + bump)));
      out.at(x, y) = {here, here, here, 1.0F};
    }
  }
  return out;
}

/// Grain on it, then through a file: half floats, or JPEG.
inline Picture through_file(Picture clean, double grain, bool jpeg, const std::string& kind,
                            std::uint32_t seed, std::mt19937& random) {
  std::normal_distribution<double> normal;
  for (Rgba& p : clean.pixels()) {
    for (std::size_t k = 0; k < 3; ++k) {
      const auto light = static_cast<double>(p[k]);
      p[k] = static_cast<float>(light + grain * std::sqrt(0.2 + light / 0.18) * normal(random));
    }
  }
  const std::string name =
      std::filesystem::temp_directory_path() /
      fmt::format("{}_{}_{}{}", kind, ::getpid(), seed, jpeg ? ".jpg" : ".exr");
  write_picture(name, {clean, {}, {}});
  Picture read = read_picture(name).colour;
  std::filesystem::remove(name);
  return read;
}

}  // namespace jolly_iris::plates
