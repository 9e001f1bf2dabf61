// Plates whose truth is known: lamps before and behind the focus on a textured ground, traced
// through a random lens, with noise, as half floats or as clipped 8-bit JPEG.
#pragma once

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <numbers>
#include <random>
#include <string>
#include <vector>

#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris::testing {

struct MadeDisc {
  std::array<double, 2> at{};
  double height_px = 0.0;  ///< signed: + behind
  double z_m = 0.0;
  double value = 0.0;  ///< of the disc, linear
  bool clean = true;   ///< no other reaches into it
};

struct MadePlate {
  Picture picture{};
  Body body{};
  Lens lens{};
  Take take{};
  VirtualCamera camera{};  ///< of the three, and what it is focused on
  Iris iris{};
  double curvature = 1.0;
  double height_over_width = 1.0;
  std::vector<MadeDisc> discs{};  ///< whole in the frame, 12 px or more
  std::vector<MadeDisc> all{};
  std::string message{};
};

/// One-sided numbers for plates: how the light comes to the file.
struct PlateMaking {
  PixelSize size{960, 540};
  int lamps = 26;
  int samples = 48;
  bool noise = true;
  std::vector<VignettingRim> vignetting{};
  std::string kept{};  ///< a folder: plates that were made before are taken from there
};

inline MadePlate made_plate(std::uint32_t seed, const PlateMaking& making = {}) {
  std::mt19937 random(seed * 7919U + 13U);
  const auto uniform = [&](double low, double high) {
    return low + (high - low) * (static_cast<double>(random()) / 4294967296.0);
  };
  MadePlate out;
  Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = making.size};
  Lens lens{.focal = Length::from_mm(std::exp(uniform(std::log(18.0), std::log(150.0))))};
  const double stop = std::exp(uniform(std::log(1.2), std::log(8.0)));
  const int kinds[] = {0, 5, 6, 7, 8, 9, 10, 11};
  lens.iris.blades = kinds[random() % 8U];
  const double times = uniform(1.2, 3.2);
  const bool straight = times > 2.8;
  if (lens.iris.blades > 0) {
    lens.iris.blade_radius = straight ? BladeRadius::straight() : BladeRadius::multiple(times);
    lens.iris.rotation = Angle::from_degrees(uniform(0.0, 360.0 / lens.iris.blades));
    out.curvature = straight ? 0.0 : 1.0 / times;
  }
  const double squeezes[] = {1.0, 1.0, 1.33, 1.5, 1.8, 2.0};
  lens.squeeze = squeezes[random() % 6U];
  lens.vignetting = making.vignetting;
  const Length focus = Length::from_m(std::exp(uniform(std::log(0.8), std::log(6.0))));
  out.body = body;
  out.lens = lens;
  out.take = {.stop = f_number(stop)};
  out.camera = resolve(body, lens, out.take, focus);
  const VirtualCamera& cam = out.camera;
  out.iris = lens.iris;
  out.height_over_width = lens.squeeze;
  const bool jpeg = random() % 2U == 0U;
  const double ground = std::exp(uniform(std::log(0.01), std::log(0.12)));

  Scene scene;
  const double max = to_pixels(circle_of_confusion(cam, Length::infinity()), cam);
  const double pitch_y = cam.pixel_pitch().m();
  const double pitch_x = cam.pixel_pitch_x().m();
  const double power = 2.0 * cam.aperture_radius.m() * cam.focal.m() / pitch_y;  // px a dioptre
  double nearest = focus.m();
  double farthest = focus.m();
  for (int i = 0; i < making.lamps; ++i) {
    const bool front = i % 4 == 3;
    const double largest = front ? 90.0 : std::min(90.0, 0.97 * max);
    if (largest < 9.0) continue;
    const double size = std::exp(uniform(std::log(9.0), std::log(largest)));
    const double inverse = 1.0 / focus.m() + (front ? size : -size) / power;
    const double z = 1.0 / inverse;
    if (z < 0.25 || z < 3.0 * cam.focal.m()) continue;
    const double px = uniform(0.03, 0.97) * making.size.width;
    const double py = uniform(0.04, 0.96) * making.size.height;
    const auto d = direction_of_pixel(cam, px, py);
    const double value = std::exp(uniform(std::log(0.25), std::log(4.0)));
    // A small ball whose picture, spread over the disc, has that value.
    const double area =
        std::numbers::pi / 4.0 * size * size * cam.pupil_aspect() * pitch_y / pitch_x;
    const double r = 0.5 * uniform(0.01, 0.06) * size * pitch_y * z / cam.focal.m();
    const double cosine = 1.0 / std::sqrt(d[0] * d[0] + d[1] * d[1] + 1.0);
    const double seen = std::numbers::pi * r * r * cam.focal.m() * cam.focal.m() /
                        (z * z * cosine * pitch_y * pitch_x);
    Material m;
    const auto light = static_cast<float>(value * area / seen);
    const double warm = uniform(0.0, 1.0);
    m.emission = {light, static_cast<float>(light * (1.0 - 0.35 * warm)),
                  static_cast<float>(light * (1.0 - 0.7 * warm))};
    m.point_diameter_m = 2.0 * r;
    scene.materials.push_back(m);
    Primitive p;
    p.kind = Primitive::Kind::points;
    p.positions = {
        {static_cast<float>(d[0] * z), static_cast<float>(d[1] * z), static_cast<float>(-z)}};
    p.material = scene.materials.size() - 1;
    Mesh mesh;
    mesh.primitives.push_back(p);
    scene.meshes.push_back(mesh);
    Node node;
    node.mesh = scene.meshes.size() - 1;
    node.name = fmt::format("lamp {}", i);
    scene.nodes.push_back(node);
    out.all.push_back({{px, py}, front ? -size : size, z, value, true});
    nearest = std::min(nearest, z);
    farthest = std::max(farthest, z);
  }
  // A wall behind everything, patched at two scales, not quite in focus.
  const double wall = std::min(200.0, 1.05 * farthest + 0.2);
  const std::size_t first = scene.materials.size();
  constexpr int tones = 12;
  for (int i = 0; i < tones; ++i) {
    Material m;
    const double v = ground * std::exp(1.2 * (static_cast<double>(i) / (tones - 1) - 0.5));
    m.emission = {static_cast<float>(v * uniform(0.8, 1.2)), static_cast<float>(v),
                  static_cast<float>(v * uniform(0.8, 1.2))};
    m.base = Vec3f{};
    scene.materials.push_back(m);
  }
  constexpr int across = 72;
  constexpr int down = 42;
  const auto corner = direction_of_pixel(cam, 0.0, 0.0);
  const double x1 = 1.6 * std::abs(corner[0]) * wall;
  const double y1 = 1.6 * std::abs(corner[1]) * wall;
  std::vector<Primitive> patches(tones);
  for (int j = 0; j < down; ++j) {
    for (int i = 0; i < across; ++i) {
      const int coarse = static_cast<int>((static_cast<std::uint32_t>(i / 9) * 2654435761U ^
                                           static_cast<std::uint32_t>(j / 9) * 40503U ^ seed) >>
                                          7U) &
                         7;
      const auto tone = static_cast<std::size_t>(
          std::clamp(coarse + static_cast<int>(random() % 5U), 0, tones - 1));
      Primitive& p = patches[tone];
      const auto n = static_cast<std::uint32_t>(p.positions.size());
      for (int k = 0; k < 4; ++k) {
        const double u = -1.0 + 2.0 * (i + (k == 1 || k == 2 ? 1 : 0)) / across;
        const double v = -1.0 + 2.0 * (j + (k >= 2 ? 1 : 0)) / down;
        p.positions.push_back(
            {static_cast<float>(u * x1), static_cast<float>(v * y1), static_cast<float>(-wall)});
      }
      p.triangles.push_back({n, n + 1, n + 2});
      p.triangles.push_back({n, n + 2, n + 3});
    }
  }
  Mesh mesh;
  for (std::size_t t = 0; t < tones; ++t) {
    patches[t].material = first + t;
    if (!patches[t].positions.empty()) mesh.primitives.push_back(patches[t]);
  }
  scene.meshes.push_back(mesh);
  Node node;
  node.mesh = scene.meshes.size() - 1;
  node.name = "wall";
  scene.nodes.push_back(node);
  for (Mesh& m : scene.meshes.edit()) {
    for (const Primitive& p : m.primitives) {
      for (const auto& v : p.positions) m.bounds.extend(Vec3(v));
    }
  }

  const std::string kind = jpeg ? "jpg" : "exr";
  const std::string file = making.kept.empty()
                               ? (std::filesystem::temp_directory_path() /
                                  fmt::format("jolly_iris_plate_{}_{}.{}", ::getpid(), seed, kind))
                                     .string()
                               : fmt::format("{}/plate{}.{}", making.kept, seed, kind);
  if (!std::filesystem::exists(file)) {
    TraceSettings settings;
    settings.samples = making.samples;
    settings.seed = seed;
    out.picture = trace(scene, cam, Pose{}, settings).colour;
    if (making.noise) {
      const double snr = uniform(25.0, 80.0);
      std::normal_distribution<float> normal(0.0F, 1.0F);
      for (Rgba& p : out.picture.pixels()) {
        for (std::size_t c = 0; c < 3; ++c) {
          p[c] += normal(random) * std::sqrt(std::max(p[c], 0.01F)) / static_cast<float>(snr);
        }
      }
    }
    write_picture(file, {out.picture, {}});
  }
  out.picture = read_picture(file).colour;
  if (making.kept.empty()) std::filesystem::remove(file);

  for (MadeDisc& d : out.all) {
    for (const MadeDisc& other : out.all) {
      if (&other == &d) continue;
      if (std::hypot(other.at[0] - d.at[0], other.at[1] - d.at[1]) <
          0.55 * (std::abs(d.height_px) + std::abs(other.height_px))) {
        d.clean = false;
      }
    }
    const double r = 0.56 * std::abs(d.height_px);
    const bool whole = d.at[0] > r && d.at[1] > r && d.at[0] < making.size.width - r &&
                       d.at[1] < making.size.height - r;
    if (whole && std::abs(d.height_px) >= 12.0) out.discs.push_back(d);
  }
  out.message = fmt::format("{:.0f} mm f/{:.1f} {} bl {:.2f} S{:.2f} {}", lens.focal.mm(), stop,
                            lens.iris.blades, out.curvature, lens.squeeze, jpeg ? "jpg" : "exr");
  return out;
}

}  // namespace jolly_iris::testing
