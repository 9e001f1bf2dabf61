// Shots made up at random: a true shot file, its scene, and its plate, drawn in closed form from
// thin-lens formulas of its own (design, section 3), so that what is made of it can be judged.
#pragma once

#include <fmt/format.h>

#include <cstring>
#include <filesystem>
#include <fstream>
#include <functional>
#include <random>
#include <string>
#include <utility>
#include <vector>

#include "camera_file.hpp"
#include "drawn.hpp"

namespace jolly_iris::plates {

/// What was really there, lengths in mm and m.
struct MadeShot {
  std::uint32_t seed = 0;
  double gate_w_mm = 25.9;
  double gate_h_mm = 14.6;
  double window = 1.0;  ///< share of the sensor's width and height that was recorded
  PixelSize pixels{960, 540};
  double focal_mm = 50.0;
  double adapter = 1.0;
  double squeeze = 1.0;
  double stop = 2.0;
  double transmission = 1.0;
  double focus_m = 2.5;
  double stretch = 1.0;  ///< the picture was made so much wider than it should be
  double scale = 1.0;    ///< the scene's file is so much smaller than reality
  Opening opening{};
  struct LampAt {
    double x = 0.0, y = 0.0;  ///< px of the true picture
    double z_m = 1.0;
    double own_m = 0.0;
  };
  std::vector<LampAt> lamps{};
  CameraFile file{};
  bool exif = false;

  // Thin lens: s from the pupil; the bare lens's image distance times the adapter.
  double image_mm() const { return adapter * focal_mm * focus_m / (focus_m - focal_mm / 1000.0); }
  double opening_mm() const { return focal_mm / stop; }
  double pitch_mm() const { return squeeze * window * gate_w_mm / pixels.width; }
  /// Signed height of a disc, px: + behind the focus.
  double disc_px(double z_m) const {
    return opening_mm() * image_mm() * (1.0 / focus_m - 1.0 / z_m) / 1000.0 / pitch_mm();
  }
};

/// The shot file's lines, by section and key, to be edited as people do.
class ShotText {
 public:
  void set(const std::string& section, const std::string& key, const std::string& value) {
    for (auto& [s, k, v] : lines_) {
      if (s == section && k == key) {
        v = value;
        return;
      }
    }
    lines_.push_back({section, key, value});
  }
  void erase(const std::string& section, const std::string& key) {
    std::erase_if(lines_, [&](const Line& l) { return l.section == section && l.key == key; });
  }
  std::string text() const {
    std::string out;
    std::vector<std::string> sections;
    for (const Line& l : lines_) {
      if (std::find(sections.begin(), sections.end(), l.section) == sections.end()) {
        sections.push_back(l.section);
      }
    }
    for (const std::string& s : sections) {
      if (!s.empty()) out += "[" + s + "]\n";
      for (const Line& l : lines_) {
        if (l.section == s) out += l.key + " = " + l.value + "\n";
      }
    }
    return out;
  }

 private:
  struct Line {
    std::string section, key, value;
  };
  std::vector<Line> lines_{};
};

inline std::string quoted(const std::string& text) { return '"' + text + '"'; }
inline std::string in_mm(double v) { return quoted(fmt::format("{:.6g} mm", v)); }
inline std::string in_m(double v) { return quoted(fmt::format("{:.6g} m", v)); }

/// The file as somebody writes it who makes no mistake.
inline ShotText true_text(const MadeShot& m) {
  ShotText t;
  t.set("", "unit", quoted("m"));
  t.set("body", "gate", quoted(fmt::format("{:.6g} x {:.6g} mm", m.gate_w_mm, m.gate_h_mm)));
  t.set("body", "pixels", quoted(fmt::format("{} x {}", m.pixels.width, m.pixels.height)));
  if (m.window != 1.0) {
    t.set("body", "photosites", quoted("4000 x 2256"));
    t.set("body", "window",
          quoted(fmt::format("{:.0f} x {:.0f}", 4000 * m.window, 2256 * m.window)));
  }
  t.set("lens", "focal", in_mm(m.focal_mm));
  if (m.adapter != 1.0) t.set("lens", "adapter", fmt::format("{:g}", m.adapter));
  if (m.squeeze != 1.0) t.set("lens", "squeeze", fmt::format("{:g}", m.squeeze));
  t.set("lens.iris", "blades", fmt::format("{}", m.opening.blades));
  if (m.opening.blades > 0) {
    t.set("lens.iris", "rotation", quoted(fmt::format("{:.4g} deg", m.opening.rotation_deg)));
    t.set("lens.iris", "blade_radius",
          m.opening.curvature == 0.0 ? quoted("straight")
                                     : quoted(fmt::format("{:.4g} x", 1.0 / m.opening.curvature)));
  }
  t.set("take", "stop", quoted(fmt::format("f/{:.6g}", m.stop)));
  t.set("focus", "at", in_m(m.focus_m));
  t.set("scene", "file", quoted("lamps.gltf"));
  t.set("scene", "camera", quoted("taking camera"));
  t.set("plate", "file", quoted("plate.jpg"));
  return t;
}

/// Lamps over the frame, at distances from half the focus to the horizon, standing free.
inline void scatter_lamps(MadeShot& m, std::mt19937& random, int count) {
  const auto uniform = [&](double low, double high) {
    return low + (high - low) * (static_cast<double>(random()) / 4294967296.0);
  };
  for (int i = 0; i < count; ++i) {
    MadeShot::LampAt lamp;
    for (int tries = 0; tries < 400; ++tries) {
      // In dioptres against the focus: a quarter stands before it.
      const double against = i % 4 == 3 ? uniform(1.35, 2.2) : uniform(0.0, 0.72);
      lamp.z_m = against < 0.01 ? 100.0 * m.focus_m : m.focus_m / against;
      const double disc = std::abs(m.disc_px(lamp.z_m));
      lamp.x = uniform(0.04, 0.96) * m.pixels.width;
      lamp.y = uniform(0.05, 0.95) * m.pixels.height;
      lamp.own_m = uniform(0.0, 0.03) * disc * m.pitch_mm() / m.image_mm() * lamp.z_m;
      if (disc < 14.0 || disc > 0.3 * m.pixels.height) continue;
      const double reach = 0.6 * disc + 5.0;
      bool free = lamp.x > reach && lamp.y > reach && lamp.x < m.pixels.width - reach &&
                  lamp.y < m.pixels.height - reach;
      for (const auto& other : m.lamps) {
        free = free && std::hypot(other.x - lamp.x, other.y - lamp.y) >
                           0.62 * (disc + std::abs(m.disc_px(other.z_m))) + 5.0;
      }
      if (!free) continue;
      m.lamps.push_back(lamp);
      break;
    }
  }
}

inline MadeShot made_shot(std::uint32_t seed) {
  std::mt19937 random(seed * 2246822519U + 3U);
  const auto uniform = [&](double low, double high) {
    return low + (high - low) * (static_cast<double>(random()) / 4294967296.0);
  };
  MadeShot m;
  m.seed = seed;
  m.gate_w_mm = uniform(17.0, 36.0);
  m.gate_h_mm = m.gate_w_mm * 0.564;  // a little higher than 16 : 9
  m.focal_mm = std::round(std::exp(uniform(std::log(28.0), std::log(110.0))));
  constexpr std::array stops{1.4, 1.8, 2.0, 2.2, 2.5, 2.8, 3.2, 4.0};
  m.focus_m = std::exp(uniform(std::log(1.2), std::log(4.0)));
  m.stop = stops[random() % stops.size()];
  constexpr std::array blades{0, 5, 6, 7, 8, 9};
  m.opening.blades = blades[random() % blades.size()];
  if (m.opening.blades > 0) {
    m.opening.curvature = uniform(0.1, 0.6);
    m.opening.rotation_deg = uniform(0.0, 360.0 / m.opening.blades);
  }
  m.file.quality = 85 + 5 * static_cast<int>(random() % 3U);
  m.file.snr = uniform(60.0, 140.0);
  m.file.seed = seed + 11U;
  m.exif = random() % 2U == 0;
  return m;
}

/// Something people get wrong: what was true then, and how the true file was edited.
struct PlantedEdit {
  std::string name{};
  std::string said{};  ///< what the first explanation must hold
  std::function<void(MadeShot&, std::mt19937&)> truth{};
  std::function<void(const MadeShot&, ShotText&)> edit{};
};

inline double pick(std::mt19937& random, std::initializer_list<double> all) {
  return *(all.begin() + static_cast<std::ptrdiff_t>(random() % all.size()));
}

inline std::vector<PlantedEdit> planted_edits() {
  const auto nothing = [](MadeShot&, std::mt19937&) {};
  const auto with_adapter = [](MadeShot& m, std::mt19937& r) {
    m.adapter = pick(r, {0.64, 0.71, 0.84, 1.4, 2.0});
  };
  const auto squeezed = [](MadeShot& m, std::mt19937& r) {
    m.squeeze = pick(r, {1.33, 1.5, 1.8, 2.0});
    m.gate_w_mm /= 1.4;
    m.gate_h_mm = m.gate_w_mm * m.squeeze * 0.564;
  };
  const auto gate = [](double w, double h) {
    return quoted(fmt::format("{:.6g} x {:.6g} mm", w, h));
  };
  const auto scaled = [](double by) { return [by](MadeShot& m, std::mt19937&) { m.scale = by; }; };
  const auto unedited = [](const MadeShot&, ShotText&) {};
  std::vector<PlantedEdit> all;
  all.push_back({"adapter key left out", "left out of both", with_adapter,
                 [](const MadeShot&, ShotText& t) { t.erase("lens", "adapter"); }});
  all.push_back({"adapter left out of stop", "left out of the stop", with_adapter,
                 [](const MadeShot& m, ShotText& t) {
                   t.erase("lens", "adapter");
                   t.set("lens", "focal", in_mm(m.focal_mm * m.adapter));
                 }});
  all.push_back({"adapter left out of focal", "left out of the focal length", with_adapter,
                 [](const MadeShot& m, ShotText& t) {
                   t.erase("lens", "adapter");
                   t.set("take", "stop", quoted(fmt::format("f/{:.5g}", m.stop * m.adapter)));
                 }});
  all.push_back({"focal had adapter", "focal length had the adapter", with_adapter,
                 [](const MadeShot& m, ShotText& t) {
                   t.set("lens", "focal", in_mm(m.focal_mm * m.adapter));
                 }});
  all.push_back({"stop had adapter", "stop had the adapter", with_adapter,
                 [](const MadeShot& m, ShotText& t) {
                   t.set("take", "stop", quoted(fmt::format("f/{:.5g}", m.stop * m.adapter)));
                 }});
  all.push_back({"adapter not mounted", "was not mounted", nothing,
                 [](const MadeShot&, ShotText& t) { t.set("lens", "adapter", "0.71"); }});
  all.push_back({"window left out", "record window forgotten",
                 [](MadeShot& m, std::mt19937& r) {
                   m.window = pick(r, {0.8, 0.75, 0.6, 0.5});
                 },
                 [](const MadeShot&, ShotText& t) { t.erase("body", "window"); }});
  all.push_back(
      {"window not used", "whole gate was recorded", nothing, [](const MadeShot&, ShotText& t) {
         t.set("body", "photosites", quoted("4000 x 2256"));
         t.set("body", "window", quoted("3000 x 1692"));
       }});
  all.push_back({"squeeze key left out", "forgotten", squeezed,
                 [](const MadeShot&, ShotText& t) { t.erase("lens", "squeeze"); }});
  all.push_back({"squeeze left out, desqueezed gate", "forgotten", squeezed,
                 [gate](const MadeShot& m, ShotText& t) {
                   t.erase("lens", "squeeze");
                   t.set("body", "gate", gate(m.gate_w_mm * m.squeeze, m.gate_h_mm));
                 }});
  all.push_back(
      {"squeeze used twice", "was used twice", squeezed, [gate](const MadeShot& m, ShotText& t) {
         t.set("body", "gate", gate(m.gate_w_mm * m.squeeze, m.gate_h_mm));
       }});
  all.push_back({"no squeeze", "but the lens has none", nothing,
                 [](const MadeShot&, ShotText& t) { t.set("lens", "squeeze", "1.5"); }});
  all.push_back({"mark as distance", "mark was read as the distance",
                 [](MadeShot& m, std::mt19937&) {
                   m.focal_mm = 120.0;
                   m.focus_m = 1.1;
                 },
                 [](const MadeShot& m, ShotText& t) {
                   const double s = m.focus_m * 1000.0;
                   const double v = m.focal_mm * s / (s - m.focal_mm);
                   t.set("focus", "at", in_m((s + v) / 1000.0));
                 }});
  all.push_back(
      {"along the floor", "measured along the floor", nothing, [](const MadeShot& m, ShotText& t) {
         const double height = 0.6 * m.focus_m;
         t.set("take", "height", in_m(height));
         t.set("focus", "at", in_m(std::sqrt(m.focus_m * m.focus_m - height * height)));
       }});
  all.push_back(
      {"feet for metres", "in feet, not in metres", nothing,
       [](const MadeShot& m, ShotText& t) { t.set("focus", "at", in_m(m.focus_m / 0.3048)); }});
  all.push_back(
      {"metres for feet", "in metres, not in feet", nothing, [](const MadeShot& m, ShotText& t) {
         t.set("focus", "at", quoted(fmt::format("{:.6g} ft", m.focus_m)));
       }});
  all.push_back({"inches for cm", "in inches, not in centimetres", nothing,
                 [](const MadeShot& m, ShotText& t) {
                   t.set("focus", "at", quoted(fmt::format("{:.6g} cm", m.focus_m / 0.0254)));
                 }});
  all.push_back({"cm for inches", "in centimetres, not in inches", nothing,
                 [](const MadeShot& m, ShotText& t) {
                   t.set("focus", "at", quoted(fmt::format("{:.6g} in", m.focus_m * 100.0)));
                 }});
  all.push_back({"scene 10 too small", "10 times too small", scaled(10.0), unedited});
  all.push_back({"scene 10 too large", "10 times too large", scaled(0.1), unedited});
  all.push_back({"scene 100 too small", "100 times too small", scaled(100.0), unedited});
  all.push_back({"scene 100 too large", "100 times too large", scaled(0.01), unedited});
  all.push_back({"inches as cm scene", "2.54 times too small", scaled(2.54), unedited});
  all.push_back({"cm as inches scene", "2.54 times too large", scaled(1.0 / 2.54), unedited});
  all.push_back({"radius for diameter", "opening's radius instead", nothing,
                 [](const MadeShot& m, ShotText& t) {
                   t.set("take", "stop", quoted(fmt::format("f/{:.5g}", 2.0 * m.stop)));
                 }});
  all.push_back(
      {"diameter as radius", "typed as its radius", nothing, [](const MadeShot& m, ShotText& t) {
         t.set("take", "stop", quoted(fmt::format("f/{:.5g}", 0.5 * m.stop)));
       }});
  all.push_back({"stretch left", "a stretch of",
                 [](MadeShot& m, std::mt19937& r) {
                   m.stretch = pick(r, {1.1, 1.2});
                 },
                 unedited});
  all.push_back(
      {"equivalent focal", "equivalent on a 36 x 24", nothing, [](const MadeShot& m, ShotText& t) {
         const double crop = std::hypot(36.0, 24.0) / std::hypot(m.gate_w_mm, m.gate_h_mm);
         t.set("lens", "focal", in_mm(m.focal_mm * crop));
       }});
  all.push_back(
      {"another stop", "the stop is another", nothing, [](const MadeShot& m, ShotText& t) {
         t.set("take", "stop", quoted(fmt::format("f/{:.4g}", 1.65 * m.stop)));
       }});
  all.push_back({"another focal length", "the focal length is another", nothing,
                 [](const MadeShot& m, ShotText& t) {
                   t.set("lens", "focal", in_mm(std::round(m.focal_mm * 1.17)));
                 }});
  all.push_back(
      {"another focus", "focus was not where noted", nothing,
       [](const MadeShot& m, ShotText& t) { t.set("focus", "at", in_m(m.focus_m * 1.45)); }});
  return all;
}

/// The glTF of its lamps and camera: one mesh of points, written at the scene's own (wrong) scale.
inline void write_scene(const MadeShot& m, const std::string& folder) {
  if (m.lamps.empty()) return;
  std::string bytes;
  std::string meshes, nodes, accessors, views, materials, list;
  int offset = 0;
  const double width = m.pixels.width;
  for (std::size_t i = 0; i < m.lamps.size(); ++i) {
    const auto& l = m.lamps[i];
    const double k = m.pitch_mm() / m.image_mm() * l.z_m / m.scale;
    const std::array<float, 3> at{static_cast<float>((l.x - 0.5 * width) * k),
                                  static_cast<float>(-(l.y - 0.5 * m.pixels.height) * k),
                                  static_cast<float>(-l.z_m / m.scale)};
    bytes.append(reinterpret_cast<const char*>(at.data()), 12);
    const char* comma = i == 0 ? "" : ",";
    accessors += fmt::format(
        R"({}{{"bufferView":{},"componentType":5126,"count":1,"type":"VEC3","min":[{},{},{}],"max":[{},{},{}]}})",
        comma, i, at[0], at[1], at[2], at[0], at[1], at[2]);
    views += fmt::format(R"({}{{"buffer":0,"byteOffset":{},"byteLength":12}})", comma, offset);
    materials += fmt::format(
        R"({}{{"name":"lamp","emissiveFactor":[1,0.8,0.6],"extras":{{"point_diameter_m":{:.6g}}}}})",
        comma, std::max(1e-5, l.own_m));
    meshes += fmt::format(
        R"({}{{"primitives":[{{"attributes":{{"POSITION":{}}},"mode":0,"material":{}}}]}})", comma,
        i, i);
    nodes += fmt::format(R"(,{{"name":"lamp {}","mesh":{}}})", static_cast<char>('a' + i % 26), i);
    list += fmt::format(",{}", i + 1);
    offset += 12;
  }
  const double yfov = 2.0 * std::atan(0.5 * m.pixels.height * m.pitch_mm() / m.image_mm());
  std::ofstream(folder + "/lamps.bin", std::ios::binary) << bytes;
  std::ofstream(folder + "/lamps.gltf") << fmt::format(
      R"({{"asset":{{"version":"2.0"}},"scene":0,"scenes":[{{"nodes":[0{}]}}],"nodes":[{{"name":"taking camera","camera":0}}{}],"cameras":[{{"type":"perspective","perspective":{{"yfov":{:.9g},"znear":0.01}}}}],"meshes":[{}],"materials":[{}],"accessors":[{}],"bufferViews":[{}],"buffers":[{{"uri":"lamps.bin","byteLength":{}}}]}})",
      list, nodes, yfov, meshes, materials, accessors, views, offset);
}

inline void write_plate(const MadeShot& m, const std::string& folder) {
  PlateDrawing d;
  d.size = {static_cast<int>(std::lround(m.pixels.width * m.stretch)), m.pixels.height};
  d.opening = m.opening;
  d.squeeze = m.squeeze / m.stretch;
  d.texture = m.seed;
  d.ground = 0.03;
  for (const auto& l : m.lamps) {
    Lamp lamp;
    lamp.at = {l.x * m.stretch, l.y};
    const double disc = m.disc_px(l.z_m);
    lamp.height_px = std::abs(disc);
    lamp.in_front = disc < 0.0;
    lamp.own_px = l.own_m / l.z_m * m.image_mm() / m.pitch_mm();
    const double level = 0.45 + 0.2 * std::sin(1.7 * l.x);
    lamp.value = {level, 0.8 * level, 0.6 * level};
    d.lamps.push_back(lamp);
  }
  Picture light = drawn(d);
  // The file has the delivered size, whatever of the plane it shows.
  if (m.stretch != 1.0) {
    Picture cut(m.pixels, {0, 0, 0, 1});
    const int left = (d.size.width - m.pixels.width) / 2;
    for (int y = 0; y < m.pixels.height; ++y) {
      for (int x = 0; x < m.pixels.width; ++x) cut.at(x, y) = light.at(x + left, y);
    }
    light = std::move(cut);
  }
  record(light, m.file, folder + "/plate.jpg");
}

/// Writes scene, plate and shot into a folder. @return the shot file
inline std::string write_shot(const MadeShot& m, const ShotText& text, const std::string& folder) {
  std::filesystem::create_directories(folder);
  write_scene(m, folder);
  write_plate(m, folder);
  const std::string file = folder + "/made.shot.toml";
  std::ofstream(file) << text.text();
  return file;
}

}  // namespace jolly_iris::plates
