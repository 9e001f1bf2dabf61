// Plates with known grain: even and textured walls, ramps of light, edges, things out of focus;
// grain drawn by the standard library's own normal numbers; as half floats or through a JPEG file.
#pragma once

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <random>
#include <string>
#include <vector>

#include "jolly_iris/measure/grain_in_plate.hpp"
#include "jolly_iris/picture/grain.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris::plates {

struct GrainedPlate {
  Picture picture{};
  Picture clean{};  ///< the same without grain, and without a file
  Rgb black{};      ///< standard deviations as the file has them
  Rgb grey{};
  double size_px = 0.0;
  double alike = 0.0;
  Rgb level{};     ///< a light at which …
  Rgb at_level{};  ///< … its standard deviation is this in the file
  bool jpeg = false;
  double textured = 0.0;  ///< share of the plate
};

namespace grained {

// Smooth bumps of light: octaves of values between random corners.
inline double texture(double x, double y, std::uint32_t seed) {
  const auto corner = [&](int i, int j, int octave) {
    std::uint32_t h = seed ^ (static_cast<std::uint32_t>(i) * 374761393U) ^
                      (static_cast<std::uint32_t>(j) * 668265263U) ^
                      (static_cast<std::uint32_t>(octave) * 2246822519U);
    h = (h ^ (h >> 13U)) * 1274126177U;
    return static_cast<double>(h ^ (h >> 16U)) / 4294967296.0 - 0.5;
  };
  double sum = 0.0;
  double size = 24.0;
  double height = 1.0;
  for (int o = 0; o < 4; ++o, size *= 0.45, height *= 0.6) {
    const double u = x / size;
    const double v = y / size;
    const int i = static_cast<int>(std::floor(u));
    const int j = static_cast<int>(std::floor(v));
    const double a = u - i;
    const double b = v - j;
    sum += height * ((1 - b) * ((1 - a) * corner(i, j, o) + a * corner(i + 1, j, o)) +
                     b * ((1 - a) * corner(i, j + 1, o) + a * corner(i + 1, j + 1, o)));
  }
  return sum;
}

inline std::vector<double> softened(std::vector<double> v, int width, int height, double sigma) {
  if (sigma <= 0.0) return v;
  const int reach = static_cast<int>(std::ceil(5.0 * sigma));
  std::vector<double> weights;
  double squares = 0.0;
  for (int i = -reach; i <= reach; ++i) {
    weights.push_back(std::exp(-0.5 * i * i / (sigma * sigma)));
    squares += weights.back() * weights.back();
  }
  for (double& w : weights) w /= std::sqrt(squares);
  const auto pass = [&](int dx, int dy) {
    std::vector<double> out(v.size());
    for (int y = 0; y < height; ++y) {
      for (int x = 0; x < width; ++x) {
        double sum = 0.0;
        for (int k = -reach; k <= reach; ++k) {
          // Goes round at the edges: the same everywhere.
          const int u = (x + k * dx + width) % width;
          const int w = (y + k * dy + height) % height;
          sum += weights[static_cast<std::size_t>(k + reach)] *
                 v[static_cast<std::size_t>(w * width + u)];
        }
        out[static_cast<std::size_t>(y * width + x)] = sum;
      }
    }
    v = std::move(out);
  };
  pass(1, 0);
  pass(0, 1);
  return v;
}

struct Region {
  int x, y, width, height;
  Rgb light, ramp_x, ramp_y;
  double texture;
};

}  // namespace grained

inline GrainedPlate grained_plate(std::uint32_t seed, bool jpeg, PixelSize size = {720, 408}) {
  std::mt19937 random(seed * 2654435761U + 77U);
  const auto uniform = [&](double low, double high) {
    return low + (high - low) * (static_cast<double>(random()) / 4294967296.0);
  };
  const auto log_uniform = [&](double low, double high) {
    return std::exp(uniform(std::log(low), std::log(high)));
  };
  GrainedPlate out;
  out.jpeg = jpeg;
  // The set: strips and boxes of walls, some with texture.
  std::vector<grained::Region> regions;
  const int count = 6 + static_cast<int>(random() % 8U);
  const double texture_share = uniform(0.0, 0.6);
  regions.push_back({0, 0, size.width, size.height, {}, {}, {}, 0.0});
  for (int i = 0; i < count; ++i) {
    const int w = static_cast<int>(uniform(0.15, 0.6) * size.width);
    const int h = static_cast<int>(uniform(0.15, 0.7) * size.height);
    regions.push_back({static_cast<int>(uniform(-0.1, 0.9) * size.width),
                       static_cast<int>(uniform(-0.1, 0.9) * size.height),
                       w,
                       h,
                       {},
                       {},
                       {},
                       0.0});
  }
  for (grained::Region& r : regions) {
    const double level = log_uniform(0.015, 0.6);
    for (std::size_t c = 0; c < 3; ++c) {
      r.light[c] = level * uniform(0.6, 1.4);
      r.ramp_x[c] = r.light[c] * uniform(-0.3, 0.3) / size.width;
      r.ramp_y[c] = r.light[c] * uniform(-0.3, 0.3) / size.height;
    }
    if (uniform(0.0, 1.0) < texture_share) r.texture = log_uniform(0.02, 0.5);
  }
  Picture clean(size, {0, 0, 0, 1});
  std::vector<char> plain(static_cast<std::size_t>(size.width * size.height), 0);
  std::size_t textured = 0;
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const grained::Region* at = &regions.front();
      for (const grained::Region& r : regions) {
        if (x >= r.x && x < r.x + r.width && y >= r.y && y < r.y + r.height) at = &r;
      }
      const double bump = at->texture > 0.0 ? at->texture * grained::texture(x, y, seed) : 0.0;
      textured += at->texture > 0.0;
      plain[static_cast<std::size_t>(y * size.width + x)] = at->texture == 0.0;
      for (std::size_t c = 0; c < 3; ++c) {
        const double light =
            at->light[c] + at->ramp_x[c] * (x - at->x) + at->ramp_y[c] * (y - at->y);
        clean.at(x, y)[c] = static_cast<float>(std::max(0.002, light * (1.0 + bump)));
      }
    }
  }
  out.textured = static_cast<double>(textured) / static_cast<double>(plain.size());
  // Its grain.
  const double at_grey = log_uniform(0.003, 0.03);
  for (std::size_t c = 0; c < 3; ++c) {
    out.grey[c] = at_grey * uniform(0.7, 1.4);
    out.black[c] = out.grey[c] * uniform(0.03, 0.6);
  }
  out.size_px = uniform(0.0, 1.0) < 0.3 ? 0.0 : uniform(0.35, 1.3);
  out.alike = uniform(0.0, 0.7);
  std::normal_distribution<double> normal;
  std::array<std::vector<double>, 4> noise;
  for (auto& n : noise) {
    n.resize(plain.size());
    for (double& v : n) v = normal(random);
    n = grained::softened(std::move(n), size.width, size.height, out.size_px);
  }
  Picture dirty = clean;
  for (std::size_t i = 0; i < plain.size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) {
      const double light = static_cast<double>(clean.pixels()[i][c]);
      const double a = out.black[c] * out.black[c];
      const double b = (out.grey[c] * out.grey[c] - a) / 0.18;
      const double n =
          std::sqrt(out.alike) * noise[3][i] + std::sqrt(1.0 - out.alike) * noise[c][i];
      dirty.pixels()[i][c] = static_cast<float>(light + std::sqrt(a + b * light) * n);
    }
  }
  const std::string ending = jpeg ? ".jpg" : ".exr";
  const auto through_file = [&](const Picture& p) {
    const std::string name = std::filesystem::temp_directory_path() /
                             fmt::format("grained_{}_{}{}", ::getpid(), seed, ending);
    write_picture(name, {p, {}, {}});
    Picture read = read_picture(name).colour;
    std::filesystem::remove(name);
    return read;
  };
  out.clean = clean;
  out.picture = through_file(dirty);
  // What the file has: against the file of the plate without grain, where there is no texture and
  // nothing ends at white or black.
  const Picture still = through_file(clean);
  std::array<std::vector<std::array<double, 2>>, 3> seen;  // light, squared difference
  double near = 0.0;
  double all = 0.0;
  double common = 0.0;
  double own = 0.0;
  const auto away = [&](std::size_t i, std::size_t c) {
    return (static_cast<double>(out.picture.pixels()[i][c]) -
            static_cast<double>(still.pixels()[i][c])) /
           std::sqrt(out.black[c] * out.black[c] +
                     (out.grey[c] * out.grey[c] - out.black[c] * out.black[c]) / 0.18 *
                         static_cast<double>(still.pixels()[i][c]));
  };
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x + 1 < size.width; ++x) {
      const auto i = static_cast<std::size_t>(y * size.width + x);
      if (!plain[i] || !plain[i + 1]) continue;
      for (std::size_t c = 0; c < 3; ++c) {
        const double light = static_cast<double>(still.pixels()[i][c]);
        if (light > 0.8 || light < 0.003) continue;
        const double d = static_cast<double>(out.picture.pixels()[i][c]) - light;
        seen[c].push_back({light, d * d});
        near += away(i, c) * away(i + 1, c);
        all += away(i, c) * away(i, c);
        common += away(i, c) * away(i, (c + 1) % 3);
        own += away(i, c) * away(i, c);
      }
    }
  }
  for (std::size_t c = 0; c < 3; ++c) {
    double sw = 0.0, sx = 0.0, sy = 0.0, sxx = 0.0, sxy = 0.0;
    const double a0 = out.black[c] * out.black[c];
    const double b0 = (out.grey[c] * out.grey[c] - a0) / 0.18;
    for (const auto& [x, y] : seen[c]) {
      const double w = 1.0 / std::pow(a0 + b0 * x, 2.0);
      sw += w;
      sx += w * x;
      sy += w * y;
      sxx += w * x * x;
      sxy += w * x * y;
    }
    out.level[c] = sx / sw;
    if (!jpeg) continue;
    const double det = sw * sxx - sx * sx;
    const double b = (sw * sxy - sx * sy) / det;
    const double a = (sxx * sy - sx * sxy) / det;
    out.black[c] = std::sqrt(std::max(0.0, a));
    out.grey[c] = std::sqrt(std::max(0.0, a + 0.18 * b));
  }
  for (std::size_t c = 0; c < 3; ++c) {
    const double a = out.black[c] * out.black[c];
    out.at_level[c] = std::sqrt(a + (out.grey[c] * out.grey[c] - a) / 0.18 * out.level[c]);
  }
  if (jpeg) {
    const double rho = std::clamp(near / all, 1e-6, 0.99);
    out.size_px = rho > 1e-3 ? 0.5 / std::sqrt(-std::log(rho)) : 0.0;
    out.alike = common / own;
  }
  return out;
}

}  // namespace jolly_iris::plates
