// Plates over the whole grid of irises, squeezes, files and edges, drawn at random from a seed.
#pragma once

#include <fmt/format.h>

#include <filesystem>
#include <numeric>
#include <random>
#include <string>
#include <vector>

#include "camera_file.hpp"
#include "drawn.hpp"

namespace jolly_iris::plates {

inline constexpr std::array grid_blades{0, 5, 6, 7, 8, 9, 10, 11};
inline constexpr std::array grid_squeezes{1.0, 1.33, 1.5, 2.0};

/// How a plate of the grid came to be.
struct GridPlate {
  PlateDrawing drawing{};
  CameraFile camera{};
  double clipped = 0.0;  ///< how many times the brightest disc lies above the clip; 0: none does
  std::uint32_t seed = 0;

  std::string file_kind() const {
    return camera.quality == 0 ? "half" : camera.coarse ? "4:2:0" : "4:4:4";
  }
  std::string words() const {
    return fmt::format(
        "{} bl {:.2f} {:>5.1f} deg  S{:.2f}  {:<5} {:<10} x{:.0f}", drawing.opening.blades,
        drawing.opening.curvature, drawing.opening.rotation_deg, drawing.squeeze,
        camera.quality == 0 ? "half"
                            : fmt::format("q{} {}", camera.quality, camera.coarse ? "420" : "444"),
        name_of(camera.edges), clipped);
  }
};

/// Which discs are whole: in the frame, and no other reaches into them.
inline std::vector<bool> whole_discs(const PlateDrawing& plate) {
  std::vector<bool> out;
  for (const Lamp& a : plate.lamps) {
    const double r = 0.62 * a.height_px + 3.0;
    bool whole =
        a.at.x > r && a.at.y > r && a.at.x < plate.size.width - r && a.at.y < plate.size.height - r;
    for (const Lamp& b : plate.lamps) {
      if (&a == &b) continue;
      whole = whole && std::hypot(a.at.x - b.at.x, a.at.y - b.at.y) >
                           0.62 * (a.height_px + b.height_px) + 3.0;
    }
    out.push_back(whole);
  }
  return out;
}

struct GridChoice {
  PixelSize size{960, 540};
  int lamps = 26;
  double smallest_px = 16.0;
  double largest_px = 70.0;
};

/// Plate number `seed`: squeeze and blades go round with it, so that every cell has as many plates;
/// all else is drawn.
inline GridPlate grid_plate(std::uint32_t seed, const GridChoice& choice = {}) {
  std::mt19937 random(seed * 2654435761U + 97U);
  const auto uniform = [&](double low, double high) {
    return low + (high - low) * (static_cast<double>(random()) / 4294967296.0);
  };
  const auto among = [&](int count) {
    return static_cast<int>(random() % static_cast<unsigned>(count));
  };
  GridPlate out;
  out.seed = seed;
  PlateDrawing& d = out.drawing;
  d.size = choice.size;
  d.opening.blades = grid_blades[seed % grid_blades.size()];
  d.squeeze = grid_squeezes[(seed / grid_blades.size()) % grid_squeezes.size()];
  if (d.opening.blades > 0) {
    d.opening.curvature = among(4) == 0 ? 0.0 : uniform(0.0, 0.6);
    d.opening.rotation_deg = uniform(0.0, 360.0 / d.opening.blades);
  }
  const int kind = among(3);
  out.camera.quality = kind == 0 ? 0 : 75 + 5 * among(5);
  out.camera.coarse = kind == 2;
  out.camera.edges = all_edges[static_cast<std::size_t>(among(static_cast<int>(all_edges.size())))];
  out.camera.snr = uniform(40.0, 120.0);
  out.camera.seed = seed + 1U;
  constexpr std::array above{0.0, 2.0, 4.0, 8.0};
  out.clipped = above[static_cast<std::size_t>(among(4))];
  out.camera.clip = out.camera.quality == 0 && out.clipped == 0.0 ? 0.0 : 1.0;
  d.ground = std::exp(uniform(std::log(0.01), std::log(0.1)));
  d.contrast = uniform(0.1, 0.6);
  d.texture = seed;
  const double brightest = out.clipped > 0.0 ? out.clipped : 0.75;
  for (int i = 0; i < choice.lamps; ++i) {
    Lamp lamp;
    lamp.in_front = i % 4 == 3;
    lamp.height_px = std::exp(uniform(std::log(choice.smallest_px), std::log(choice.largest_px)));
    lamp.own_px = lamp.height_px * uniform(0.0, 0.06);
    const double level = out.clipped > 0.0 ? uniform(std::max(1.1, 0.6 * brightest), brightest)
                                           : brightest * std::exp(-uniform(0.0, 1.2));
    const double warm = uniform(0.0, 1.0);
    lamp.value = {level, level * (1.0 - 0.3 * warm), level * (1.0 - 0.6 * warm)};
    // Most stand free; where none of the places drawn is free, it overlaps others.
    for (int tries = 0; tries < 30; ++tries) {
      lamp.at = {uniform(0.02, 0.98) * d.size.width, uniform(0.03, 0.97) * d.size.height};
      const bool free = std::all_of(d.lamps.begin(), d.lamps.end(), [&](const Lamp& other) {
        return std::hypot(lamp.at.x - other.at.x, lamp.at.y - other.at.y) >
               0.65 * (lamp.height_px + other.height_px) + 4.0;
      });
      if (free) break;
    }
    d.lamps.push_back(lamp);
  }
  return out;
}

/// The plate as it is read back from its file, made once a folder.
inline Picture picture_of(const GridPlate& plate, const std::string& folder) {
  const std::string file =
      fmt::format("{}/grid{}.{}", folder, plate.seed, plate.camera.quality == 0 ? "exr" : "jpg");
  if (!std::filesystem::exists(file)) {
    std::filesystem::create_directories(folder);
    record(drawn(plate.drawing), plate.camera, file);
  }
  return read_picture(file).colour;
}

}  // namespace jolly_iris::plates
