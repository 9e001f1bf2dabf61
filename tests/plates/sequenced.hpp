// Plates over frames, made up at random: lamps that stand or move, a focus that is held, pulled,
// overshot or hunts, a zoom, a change of exposure; each frame drawn in closed form from thin-lens
// formulas of its own (made_shot.hpp), so that what is read out of them can be judged.
#pragma once

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <string>
#include <vector>

#include "made_lamps.hpp"
#include "made_shot.hpp"

namespace jolly_iris::plates {

enum class FocusWay { hold, pull, overshoot, hunt };
inline const char* name_of(FocusWay way) {
  constexpr std::array names{"hold", "pull", "overshoot", "hunt"};
  return names[static_cast<std::size_t>(way)];
}

struct SequenceLamp {
  std::array<double, 3> at{};     ///< m, camera space, z < 0, at the first frame
  std::array<double, 3> moves{};  ///< m, over all frames
  double power = 1.0;             ///< value of its disc × area in px², at the first frame
};

struct MadeSequence {
  MadeShot base{};
  int first = 1001;
  int count = 96;
  FocusWay way = FocusWay::hold;
  double from_dpt = 0.4;
  double to_dpt = 0.4;
  double begins = 20.0;  ///< frames from the first one
  double lasts = 30.0;
  int ease = 0;        ///< 0 slow, fast, slow; 1 steady; 2 a cosine
  double past = 0.0;   ///< share of the way
  double back = 10.0;  ///< overshoot: frames in which it comes back
  double period = 14.0;
  double fades = 14.0;  ///< hunt: frames
  double zoom = 1.0;    ///< focal length at the end against the beginning
  double zoom_begins = 40.0;
  double zoom_lasts = 30.0;
  double brighter = 0.0;  ///< stops, once exposure was changed
  double brighter_at = 70.0;
  double brighter_lasts = 6.0;
  bool jpeg = false;
  std::vector<SequenceLamp> lamps{};
  std::vector<bool> dark{};  ///< frames without lamps

  static double eased(int ease, double t) {
    t = std::clamp(t, 0.0, 1.0);
    if (ease == 0) return t * t * (3.0 - 2.0 * t);
    return ease == 1 ? t : 0.5 - 0.5 * std::cos(std::numbers::pi * t);
  }
  /// 1/m at a frame, counted from 0.
  double dioptres(double frame) const {
    const double step = to_dpt - from_dpt;
    const double arrived = frame - begins - lasts;
    const double there = eased(ease, (frame - begins) / lasts);
    switch (way) {
      case FocusWay::hold:
        return from_dpt;
      case FocusWay::pull:
        return from_dpt + step * there;
      case FocusWay::overshoot:
        if (arrived <= 0.0) return from_dpt + step * (1.0 + past) * there;
        return from_dpt + step * (1.0 + past * (1.0 - eased(0, arrived / back)));
      case FocusWay::hunt:
        break;
    }
    if (arrived <= 0.0) return from_dpt + step * (1.0 + past) * there;
    return from_dpt + step * (1.0 + past * std::cos(2.0 * std::numbers::pi * arrived / period) *
                                        std::exp(-arrived / fades));
  }
  double focal_mm(double frame) const {
    return base.focal_mm * std::exp(std::log(zoom) * eased(0, (frame - zoom_begins) / zoom_lasts));
  }
  double stops_brighter(double frame) const {
    return brighter * eased(1, (frame - brighter_at) / brighter_lasts);
  }
  /// The camera at a frame, and where its lamps show.
  MadeShot at(int frame) const {
    MadeShot m = base;
    m.focus_m = 1.0 / dioptres(frame);
    m.focal_mm = focal_mm(frame);
    m.lamps.clear();
    const double t = frame / static_cast<double>(count - 1);
    for (const SequenceLamp& l : lamps) {
      const double z = -(l.at[2] + t * l.moves[2]);
      const double k = m.image_mm() / m.pitch_mm() / z;  // px a metre
      m.lamps.push_back({0.5 * m.pixels.width + k * (l.at[0] + t * l.moves[0]),
                         0.5 * m.pixels.height - k * (l.at[1] + t * l.moves[1]), z, 0.0});
    }
    return m;
  }
  std::string plate_of(int frame) const {
    return fmt::format("plate.{:04}.{}", first + frame, jpeg ? "jpg" : "exr");
  }
};

/// @param width of its pictures, px
inline MadeSequence made_sequence(std::uint32_t seed, int width = 960, int least_lamps = 4,
                                  int most_lamps = 20) {
  PlateDice dice{std::mt19937(seed * 2654435761U + 17U)};
  MadeSequence s;
  s.base.seed = seed;
  s.base.pixels = {width, width * 9 / 16};
  s.base.gate_w_mm = dice.uniform(20.0, 36.0);
  s.base.gate_h_mm = s.base.gate_w_mm * 0.5625;
  s.base.focal_mm = std::round(dice.log_uniform(35.0, 85.0));
  constexpr std::array stops{1.4, 1.8, 2.0, 2.2, 2.8};
  s.base.stop = stops[dice.random() % stops.size()];
  constexpr std::array blades{0, 5, 6, 7, 8, 9};
  s.base.opening.blades = blades[dice.random() % blades.size()];
  if (s.base.opening.blades > 0) {
    s.base.opening.curvature = dice.uniform(0.1, 0.6);
    s.base.opening.rotation_deg = dice.uniform(0.0, 360.0 / s.base.opening.blades);
  }
  s.jpeg = seed % 2U == 1U;
  s.base.file.quality = s.jpeg ? 90 : 0;
  s.base.file.clip = s.jpeg ? 1.0 : 0.0;
  s.base.file.snr = dice.uniform(60.0, 140.0);
  s.first = dice.random() % 4U == 0 ? 0 : 1001;
  s.way = static_cast<FocusWay>((seed / 2U) % 4U);
  s.from_dpt = dice.log_uniform(0.2, 0.7);
  do {
    s.to_dpt = dice.log_uniform(0.2, 0.7);
  } while (std::abs(s.to_dpt - s.from_dpt) < 0.12);
  s.begins = dice.uniform(14.0, 30.0);
  s.lasts = dice.uniform(8.0, 36.0);
  s.ease = static_cast<int>(dice.random() % 3U);
  s.back = dice.uniform(6.0, 12.0);
  s.past = s.way == FocusWay::hunt ? dice.uniform(0.2, 0.45) : dice.uniform(0.1, 0.3);
  s.period = dice.uniform(10.0, 18.0);
  s.fades = dice.uniform(10.0, 18.0);
  const bool zooms = seed % 5U == 0;
  if (zooms) {
    s.zoom = dice.random() % 2U == 0 ? dice.uniform(1.15, 1.5) : dice.uniform(0.7, 0.87);
    s.zoom_begins = dice.uniform(10.0, 40.0);
    s.zoom_lasts = dice.uniform(15.0, 35.0);
  }
  if (zooms || seed % 7U == 0) {
    s.brighter = (dice.random() % 2U == 0 ? 1.0 : -1.0) * dice.uniform(0.4, 1.0);
    s.brighter_at = zooms ? s.zoom_begins + s.zoom_lasts + dice.uniform(0.0, 5.0) : 60.0;
  }
  // A lens that blurs enough to tell anything: what is at infinity, wherever the focus is.
  for (int tries = 0; tries < 3000; ++tries) {
    MadeShot nearly = s.base;
    nearly.focus_m = 1.0 / std::min(s.from_dpt, s.to_dpt);
    nearly.focal_mm = s.base.focal_mm * std::min(1.0, s.zoom);
    if (nearly.disc_px(1e6) > 0.045 * width) break;
    s.base.focal_mm = std::round(dice.log_uniform(35.0, 100.0));
    s.base.stop = stops[dice.random() % stops.size()];
    s.from_dpt = std::min(0.7, 1.005 * s.from_dpt);
    s.to_dpt = std::min(0.7, 1.005 * s.to_dpt);
  }
  // About a tenth of all frames show none, some alone, some after one another.
  s.dark.assign(static_cast<std::size_t>(s.count), false);
  int left = s.count / 10;
  while (left > 0) {
    const int run = std::min(left, 1 + static_cast<int>(dice.random() % 5U));
    const auto at = dice.random() % static_cast<std::uint32_t>(s.count - run);
    for (int i = 0; i < run; ++i) s.dark[at + static_cast<std::size_t>(i)] = true;
    left -= run;
  }
  // Lamps apart from each other at rest; every third sequence has some that walk through the frame.
  const int lamps =
      least_lamps +
      static_cast<int>(dice.random() % static_cast<std::uint32_t>(most_lamps - least_lamps + 1));
  const bool walk = seed % 3U == 0;
  const MadeShot start = s.at(0);
  const MadeShot end = s.at(s.count - 1);
  const double wide = std::max(1.0, s.zoom);
  for (int i = 0; i < lamps; ++i) {
    for (int tries = 0; tries < 3000; ++tries) {
      const double dpt = i % 4 == 3 ? dice.uniform(0.8, 1.2) : dice.uniform(0.02, 0.75);
      const double z = 1.0 / dpt;
      const double x = dice.uniform(-0.46, 0.46) * s.base.pixels.width / wide;
      const double y = dice.uniform(-0.45, 0.45) * s.base.pixels.height / wide;
      const double largest = std::max(std::abs(start.disc_px(z)), std::abs(end.disc_px(z)));
      const double least = std::min(std::abs(start.disc_px(z)), std::abs(end.disc_px(z)));
      if (largest < 16.0 || largest > 0.28 * s.base.pixels.height) continue;
      const double k = start.image_mm() / start.pitch_mm() / z;
      bool free = true;
      for (const SequenceLamp& other : s.lamps) {
        for (const MadeShot* m : {&start, &end}) {
          const double zo = -other.at[2];
          const double ko = m->image_mm() / m->pitch_mm();
          const double dx = ko * (x / k / z - other.at[0] / zo);
          const double dy = ko * (y / k / z - other.at[1] / zo);
          free = free && std::hypot(dx, dy) >
                             0.55 * (std::abs(m->disc_px(z)) + std::abs(m->disc_px(zo))) + 4.0;
        }
      }
      if (!free) continue;
      SequenceLamp l;
      l.at = {x / k, y / k, -z};
      if (walk && i % 2 == 0) {
        const double way = dice.uniform(0.15, 0.5) * s.base.pixels.width / k;
        l.moves = {x > 0.0 ? -way : way, dice.uniform(-0.03, 0.03) * way, 0.0};
      }
      // As bright as lets it be seen at both ends of the pull.
      const double area = 0.25 * std::numbers::pi * std::sqrt(largest * std::max(least, 14.0)) *
                          std::sqrt(largest * std::max(least, 14.0));
      l.power = dice.uniform(0.25, 0.5) * area;
      s.lamps.push_back(l);
      break;
    }
  }
  return s;
}

inline void write_frame(const MadeSequence& s, int frame, const std::string& folder) {
  const MadeShot m = s.at(frame);
  const MadeShot first = s.at(0);
  PlateDrawing d;
  d.size = m.pixels;
  d.opening = m.opening;
  d.texture = m.seed;
  const double exposure = std::exp2(s.stops_brighter(frame));
  d.ground = 0.03 * exposure;
  for (std::size_t i = 0; i < m.lamps.size() && !s.dark[static_cast<std::size_t>(frame)]; ++i) {
    const MadeShot::LampAt& l = m.lamps[i];
    const double disc = m.disc_px(l.z_m);
    const double height = std::max(std::abs(disc), 1.5);  // never finer than the lens draws
    if (l.x < -height || l.y < -height || l.x > m.pixels.width + height ||
        l.y > m.pixels.height + height) {
      continue;
    }
    // The pupil's area is what a lamp's light goes through.
    const double pupil = std::pow(m.opening_mm() / first.opening_mm(), 2.0);
    const double level =
        exposure * pupil * s.lamps[i].power / (0.25 * std::numbers::pi * height * height);
    Lamp lamp;
    lamp.at = {l.x, l.y};
    lamp.height_px = height;
    lamp.in_front = disc < 0.0;
    lamp.value = {level, 0.8 * level, 0.6 * level};
    d.lamps.push_back(lamp);
  }
  CameraFile file = m.file;
  file.seed = m.seed * 1000U + static_cast<std::uint32_t>(frame);
  record(drawn(d), file, folder + "/" + s.plate_of(frame));
}

/// The scene of its lamps, with their ways as an animation.
inline void write_sequence_scene(const MadeSequence& s, const std::string& folder) {
  std::string bytes;
  std::string meshes, nodes, materials, list, samplers, channels;
  std::string accessors, views;
  int accessor = 0;
  const auto add = [&](const std::vector<float>& values, const char* type, int count) {
    const auto offset = bytes.size();
    bytes.append(reinterpret_cast<const char*>(values.data()), values.size() * sizeof(float));
    const std::size_t parts = values.size() / static_cast<std::size_t>(count);
    std::string least;
    std::string most;
    for (std::size_t p = 0; p < parts; ++p) {
      float low = values[p];
      float high = values[p];
      for (std::size_t i = p; i < values.size(); i += parts) {
        low = std::min(low, values[i]);
        high = std::max(high, values[i]);
      }
      least += fmt::format("{}{}", p == 0 ? "" : ",", low);
      most += fmt::format("{}{}", p == 0 ? "" : ",", high);
    }
    const char* comma = accessor == 0 ? "" : ",";
    views += fmt::format(R"({}{{"buffer":0,"byteOffset":{},"byteLength":{}}})", comma, offset,
                         values.size() * sizeof(float));
    accessors += fmt::format(
        R"({}{{"bufferView":{},"componentType":5126,"count":{},"type":"{}","min":[{}],"max":[{}]}})",
        comma, accessor, count, type, least, most);
    return accessor++;
  };
  const int point = add({0.0F, 0.0F, 0.0F}, "VEC3", 1);
  const int times = add({0.0F, static_cast<float>((s.count - 1) / 24.0)}, "SCALAR", 2);
  int moving = 0;
  for (std::size_t i = 0; i < s.lamps.size(); ++i) {
    const SequenceLamp& l = s.lamps[i];
    const char* comma = i == 0 ? "" : ",";
    materials += fmt::format(
        R"({}{{"name":"lamp","emissiveFactor":[1,0.8,0.6],"extras":{{"point_diameter_m":1e-5}}}})",
        comma);
    meshes += fmt::format(
        R"({}{{"primitives":[{{"attributes":{{"POSITION":{}}},"mode":0,"material":{}}}]}})", comma,
        point, i);
    nodes += fmt::format(R"(,{{"name":"lamp {}","mesh":{},"translation":[{:.9g},{:.9g},{:.9g}]}})",
                         static_cast<char>('a' + i % 26), i, l.at[0], l.at[1], l.at[2]);
    list += fmt::format(",{}", i + 1);
    if (l.moves == std::array<double, 3>{}) continue;
    std::vector<float> way;
    for (const double t : {0.0, 1.0}) {
      for (std::size_t k = 0; k < 3; ++k) {
        way.push_back(static_cast<float>(l.at[k] + t * l.moves[k]));
      }
    }
    const int output = add(way, "VEC3", 2);
    const char* one = moving == 0 ? "" : ",";
    samplers +=
        fmt::format(R"({}{{"input":{},"output":{},"interpolation":"LINEAR"}})", one, times, output);
    channels += fmt::format(R"({}{{"sampler":{},"target":{{"node":{},"path":"translation"}}}})",
                            one, moving, i + 1);
    ++moving;
  }
  const MadeShot m = s.at(0);
  const double yfov = 2.0 * std::atan(0.5 * m.pixels.height * m.pitch_mm() / m.image_mm());
  const std::string animation =
      moving == 0 ? std::string()
                  : fmt::format(R"(,"animations":[{{"samplers":[{}],"channels":[{}]}}])", samplers,
                                channels);
  std::ofstream(folder + "/lamps.bin", std::ios::binary) << bytes;
  std::ofstream(folder + "/lamps.gltf") << fmt::format(
      R"({{"asset":{{"version":"2.0"}},"scene":0,"scenes":[{{"nodes":[0{}]}}],"nodes":[{{"name":"taking camera","camera":0}}{}],"cameras":[{{"type":"perspective","perspective":{{"yfov":{:.9g},"znear":0.01}}}}],"meshes":[{}],"materials":[{}],"accessors":[{}],"bufferViews":[{}],"buffers":[{{"uri":"lamps.bin","byteLength":{}}}]{}}})",
      list, nodes, yfov, meshes, materials, accessors, views, bytes.size(), animation);
}

/// The notes of a sequence: what was true at the first frame, held, and as far off as notes are:
/// the stop by 4 %, the focal length by 1 %, the gate by 0.3 %, lamps by half a per cent of their
/// distance (one deviation each). Without its plates.
inline std::string write_sequence_notes(const MadeSequence& s, const std::string& folder) {
  std::filesystem::create_directories(folder);
  std::mt19937 random(s.base.seed + 77U);
  std::normal_distribution<double> normal;
  MadeSequence off = s;
  for (SequenceLamp& l : off.lamps) {
    const double times = 1.0 + 0.005 * normal(random);
    for (double& v : l.at) v *= times;
    for (double& v : l.moves) v *= times;
  }
  write_sequence_scene(off, folder);
  MadeShot noted = s.at(0);
  noted.stop *= std::exp(0.04 * normal(random));
  noted.focal_mm *= std::exp(0.01 * normal(random));
  const double gate = std::exp(0.003 * normal(random));
  noted.gate_w_mm *= gate;
  noted.gate_h_mm *= gate;
  ShotText t = true_text(noted);
  t.set("take", "fps", "24");
  t.set("take", "shutter", quoted("180 deg"));
  t.set("take", "iso", "800");
  t.set("plate", "file", quoted(std::string("plate.####.") + (s.jpeg ? "jpg" : "exr")));
  t.set("frames", "first", fmt::format("{}", s.first));
  t.set("frames", "last", fmt::format("{}", s.first + s.count - 1));
  const std::string file = folder + "/made.shot.toml";
  std::ofstream(file) << t.text();
  return file;
}

}  // namespace jolly_iris::plates
