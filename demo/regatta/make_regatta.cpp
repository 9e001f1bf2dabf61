// Makes the demo scene: an evening regatta of paper boats on a canal. Everything is invented.
//
//   make_regatta FOLDER      writes regatta.gltf and lamps.gltf (lamps on black), each with its
//   .bin
//
// Metres, +Y up; the taking camera looks along −Z, the water is y = 0.
#include <fmt/format.h>

#include <Eigen/Geometry>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>
#include <numbers>
#include <string>
#include <vector>

#include "dice.hpp"
#include "disk/disk.hpp"
#include "maker.hpp"

namespace {

using Json = nlohmann::ordered_json;
using Vec = Eigen::Vector3f;
constexpr float pi = std::numbers::pi_v<float>;

struct Shape {
  std::vector<Vec> points;
  std::vector<Vec> normals;
  std::vector<std::array<std::uint32_t, 3>> triangles;

  // A face of its own: flat, as folded paper is.
  void triangle(const Vec& a, const Vec& b, const Vec& c) {
    const auto n = static_cast<std::uint32_t>(points.size());
    const Vec normal = (b - a).cross(c - a).normalized();
    for (const Vec& p : {a, b, c}) {
      points.push_back(p);
      normals.push_back(normal);
    }
    triangles.push_back({n, n + 1, n + 2});
  }
  void quad(const Vec& a, const Vec& b, const Vec& c, const Vec& d) {
    triangle(a, b, c);
    triangle(a, c, d);
  }
  void box(const Vec& low, const Vec& high) {
    const auto p = [&](int x, int y, int z) {
      return Vec(x ? high.x() : low.x(), y ? high.y() : low.y(), z ? high.z() : low.z());
    };
    quad(p(0, 0, 1), p(1, 0, 1), p(1, 1, 1), p(0, 1, 1));
    quad(p(1, 0, 0), p(0, 0, 0), p(0, 1, 0), p(1, 1, 0));
    quad(p(0, 1, 1), p(1, 1, 1), p(1, 1, 0), p(0, 1, 0));
    quad(p(0, 0, 0), p(1, 0, 0), p(1, 0, 1), p(0, 0, 1));
    quad(p(1, 0, 1), p(1, 0, 0), p(1, 1, 0), p(1, 1, 1));
    quad(p(0, 0, 0), p(0, 0, 1), p(0, 1, 1), p(0, 1, 0));
  }
};

// Collects a glTF document and its one buffer.
class Document {
 public:
  explicit Document(std::string name) : name_(std::move(name)) {
    json_["asset"] = {{"version", "2.0"}, {"generator", "make_regatta"}};
    json_["scene"] = 0;
    json_["scenes"] = Json::array({{{"name", name_}, {"nodes", Json::array()}}});
    for (const char* key : {"nodes", "meshes", "materials", "accessors", "bufferViews"}) {
      json_[key] = Json::array();
    }
    json_["extensionsUsed"] = {"KHR_materials_emissive_strength", "KHR_lights_punctual"};
  }

  void sky(const Vec& above, const Vec& below) {
    json_["scenes"][0]["extras"] = {{"sky", list(above)}, {"ground", list(below)}};
  }

  int material(const std::string& name, const Vec& base, const Vec& glow = Vec::Zero(),
               float strength = 1.0F, float lamp_diameter = 0.0F) {
    Json m{{"name", name},
           {"doubleSided", true},
           {"pbrMetallicRoughness",
            {{"baseColorFactor", {base[0], base[1], base[2], 1.0}},
             {"metallicFactor", 0},
             {"roughnessFactor", 1}}}};
    if (!glow.isZero()) {
      m["emissiveFactor"] = list(glow);
      m["extensions"]["KHR_materials_emissive_strength"] = {{"emissiveStrength", strength}};
    }
    if (lamp_diameter > 0.0F) m["extras"] = {{"point_diameter_m", lamp_diameter}};
    return add("materials", std::move(m));
  }

  int mesh(const std::string& name, const Shape& shape, int material) {
    Json p{
        {"attributes", {{"POSITION", vectors(shape.points)}, {"NORMAL", vectors(shape.normals)}}},
        {"material", material}};
    const std::size_t from = bytes_.size();
    for (const auto& t : shape.triangles) append(t.data(), sizeof t);
    p["indices"] = accessor(from, shape.triangles.size() * 3, 5125, "SCALAR");
    return add("meshes", {{"name", name}, {"primitives", Json::array({p})}});
  }

  int lamps(const std::string& name, const std::vector<Vec>& places, int material) {
    return add("meshes",
               {{"name", name},
                {"primitives", Json::array({{{"attributes", {{"POSITION", vectors(places)}}},
                                             {"mode", 0},
                                             {"material", material}}})}});
  }

  void place(const std::string& name, int mesh, const Vec& at, float turn_deg = 0.0F) {
    Json n{{"mesh", mesh}};
    if (!name.empty()) n["name"] = name;
    put(n, at, Eigen::Quaternionf(Eigen::AngleAxisf(turn_deg * pi / 180.0F, Vec::UnitY())));
    root(std::move(n));
  }

  void camera(const std::string& name, const Vec& at, float yaw_deg, float pitch_deg) {
    const int index = add("cameras", {{"name", name},
                                      {"type", "perspective"},
                                      {"perspective", {{"yfov", 0.351}, {"znear", 0.01}}}});
    Json n{{"name", name}, {"camera", index}};
    put(n, at,
        Eigen::AngleAxisf(yaw_deg * pi / 180.0F, Vec::UnitY()) *
            Eigen::Quaternionf(Eigen::AngleAxisf(pitch_deg * pi / 180.0F, Vec::UnitX())));
    root(std::move(n));
  }

  struct Glow {
    const char* type;
    Vec colour;
    float intensity;
    float range;  // metres; 0: no end
  };
  void light(const std::string& name, const Glow& glow, const Vec& at,
             const Vec& towards = -Vec::UnitZ()) {
    Json& lights = json_["extensions"]["KHR_lights_punctual"]["lights"];
    lights.push_back({{"name", name},
                      {"type", glow.type},
                      {"color", list(glow.colour)},
                      {"intensity", glow.intensity}});
    if (glow.range > 0.0F) lights.back()["range"] = glow.range;
    Json n{{"name", name},
           {"extensions", {{"KHR_lights_punctual", {{"light", lights.size() - 1}}}}}};
    put(n, at, Eigen::Quaternionf::FromTwoVectors(-Vec::UnitZ(), towards.normalized()));
    root(std::move(n));
  }

  void write(const std::filesystem::path& folder) {
    json_["buffers"] = Json::array({{{"uri", name_ + ".bin"}, {"byteLength", bytes_.size()}}});
    jolly_iris::write_whole_file(folder / (name_ + ".bin"), bytes_);
    jolly_iris::write_whole_file(folder / (name_ + ".gltf"), json_.dump(1) + "\n");
    std::cout << (folder / (name_ + ".gltf")).string() << ", " << bytes_.size() / 1024
              << " KiB of geometry\n";
  }

 private:
  static Json list(const Vec& v) { return {v[0], v[1], v[2]}; }

  int add(const char* key, Json value) {
    json_[key].push_back(std::move(value));
    return static_cast<int>(json_[key].size()) - 1;
  }

  void root(Json node) { json_["scenes"][0]["nodes"].push_back(add("nodes", std::move(node))); }

  static void put(Json& node, const Vec& at, const Eigen::Quaternionf& turn) {
    node["translation"] = list(at);
    if (turn.angularDistance(Eigen::Quaternionf::Identity()) > 1e-6F) {
      node["rotation"] = {turn.x(), turn.y(), turn.z(), turn.w()};
    }
  }

  void append(const void* data, std::size_t size) {
    bytes_.append(static_cast<const char*>(data), size);
  }

  int accessor(std::size_t from, std::size_t count, int component, const char* type) {
    const int view = add(
        "bufferViews", {{"buffer", 0}, {"byteOffset", from}, {"byteLength", bytes_.size() - from}});
    return add(
        "accessors",
        {{"bufferView", view}, {"componentType", component}, {"count", count}, {"type", type}});
  }

  int vectors(const std::vector<Vec>& values) {
    const std::size_t from = bytes_.size();
    Vec low = values.front();
    Vec high = values.front();
    for (const Vec& v : values) {
      append(v.data(), 3 * sizeof(float));
      low = low.cwiseMin(v);
      high = high.cwiseMax(v);
    }
    const int index = accessor(from, values.size(), 5126, "VEC3");
    json_["accessors"][static_cast<std::size_t>(index)]["min"] = list(low);
    json_["accessors"][static_cast<std::size_t>(index)]["max"] = list(high);
    return index;
  }

  std::string name_;
  Json json_;
  std::string bytes_;
};

// ---- shapes -------------------------------------------------------------------------------------

// A folded paper boat: two slanting sides that meet at both ends, and the peaked fold between them.
// Length 1 along x; the waterline is y = 0.
Shape paper_boat() {
  Shape s;
  const Vec bow(0.5F, 0.27F, 0.0F);
  const Vec stern(-0.5F, 0.27F, 0.0F);
  const Vec keel_front(0.26F, -0.02F, 0.0F);
  const Vec keel_back(-0.26F, -0.02F, 0.0F);
  const Vec peak(0.0F, 0.56F, 0.0F);
  for (const float side : {1.0F, -1.0F}) {
    const Vec rim(0.0F, 0.20F, side * 0.17F);
    const Vec bulge_front(0.24F, 0.02F, side * 0.07F);
    const Vec bulge_back(-0.24F, 0.02F, side * 0.07F);
    s.triangle(bow, rim, bulge_front);
    s.triangle(rim, stern, bulge_back);
    s.triangle(rim, bulge_back, bulge_front);
    s.triangle(bow, bulge_front, keel_front);
    s.triangle(stern, keel_back, bulge_back);
    s.quad(bulge_front, bulge_back, keel_back, keel_front);
    // the fold that stands up in the middle, leaning on the sides
    const Vec foot_front(0.30F, 0.17F, side * 0.03F);
    const Vec foot_back(-0.30F, 0.17F, side * 0.03F);
    s.triangle(peak, foot_back, foot_front);
    s.triangle(foot_front, foot_back, rim * 0.8F);
  }
  return s;
}

Shape scaled(Shape s, float k) {
  for (Vec& p : s.points) p *= k;
  return s;
}

Shape ball(float radius, int rings) {
  Shape s;
  const auto at = [&](int i, int j) {
    const float theta = pi * static_cast<float>(i) / static_cast<float>(rings);
    const float phi = pi * static_cast<float>(j) / static_cast<float>(rings);
    return Vec(std::sin(theta) * std::cos(phi), std::cos(theta), std::sin(theta) * std::sin(phi));
  };
  for (int i = 0; i < rings; ++i) {
    for (int j = 0; j < 2 * rings; ++j) {
      const auto n = static_cast<std::uint32_t>(s.points.size());
      for (const Vec& v : {at(i, j), at(i, j + 1), at(i + 1, j + 1), at(i + 1, j)}) {
        s.points.push_back(radius * v);
        s.normals.push_back(v);
      }
      s.triangles.push_back({n, n + 1, n + 2});
      s.triangles.push_back({n, n + 2, n + 3});
    }
  }
  return s;
}

// A buoy: a ball half in the water with a short mast.
Shape buoy() {
  Shape s = ball(0.055F, 10);
  s.box({-0.004F, 0.05F, -0.004F}, {0.004F, 0.15F, 0.004F});
  return s;
}

// Water with low ripples: many near the camera, few far away.
Shape water() {
  Shape s;
  constexpr int rows = 90;
  constexpr int columns = 44;
  const auto depth = [](int i) {
    return -0.6F - 47.4F * std::pow(static_cast<float>(i) / rows, 2.6F);
  };
  const auto point = [&](int i, int j) {
    const float z = depth(i);
    const float x = (static_cast<float>(j) / columns - 0.5F) * (2.0F - 0.95F * z);
    const float height = 0.006F * std::sin(5.0F * x + 2.1F * z) +
                         0.005F * std::sin(-3.7F * x + 6.3F * z) +
                         0.003F * std::sin(11.0F * x + 9.0F * z);
    return Vec(x, i == rows ? 0.0F : height - 0.008F, z);
  };
  const auto normal = [](const Vec& p) {
    const float x = p.x();
    const float z = p.z();
    const float dx = 0.030F * std::cos(5.0F * x + 2.1F * z) -
                     0.0185F * std::cos(-3.7F * x + 6.3F * z) +
                     0.033F * std::cos(11.0F * x + 9.0F * z);
    const float dz = 0.0126F * std::cos(5.0F * x + 2.1F * z) +
                     0.0315F * std::cos(-3.7F * x + 6.3F * z) +
                     0.027F * std::cos(11.0F * x + 9.0F * z);
    return Vec(Vec(-dx, 1.0F, -dz).normalized());
  };
  for (int i = 0; i <= rows; ++i) {
    for (int j = 0; j <= columns; ++j) {
      s.points.push_back(point(i, j));
      s.normals.push_back(normal(s.points.back()));
    }
  }
  for (std::uint32_t i = 0; i < rows; ++i) {
    for (std::uint32_t j = 0; j < columns; ++j) {
      const std::uint32_t a = i * (columns + 1) + j;
      s.triangles.push_back({a, a + 1, a + columns + 2});
      s.triangles.push_back({a, a + columns + 2, a + columns + 1});
    }
  }
  return s;
}

// A flat arch over the canal with a railing; lamps stand on it at `lamp_places`.
Shape footbridge(std::vector<Vec>& lamp_places) {
  Shape s;
  const auto height = [](float x) { return 0.95F + 0.75F * (1.0F - x * x / 64.0F); };
  // A bar from x0 to x1 that follows the arch, `low` to `high` above the deck.
  const auto bar = [&](float x0, float x1, float low, float high, float back, float front) {
    const Vec a(x0, height(x0) + low, front);
    const Vec b(x1, height(x1) + low, front);
    const Vec c(x1, height(x1) + high, front);
    const Vec d(x0, height(x0) + high, front);
    const Vec deep(0.0F, 0.0F, back - front);
    s.quad(a, b, c, d);
    s.quad(b + deep, a + deep, d + deep, c + deep);
    s.quad(d, c, c + deep, d + deep);
    s.quad(a + deep, b + deep, b, a);
  };
  for (int i = -16; i < 16; ++i) {
    const float x0 = 0.5F * static_cast<float>(i);
    const float x1 = x0 + 0.5F;
    bar(x0, x1, -0.16F, 0.0F, -0.6F, 0.6F);
    bar(x0, x1, 0.47F, 0.52F, 0.55F, 0.60F);
    bar(x0 + 0.22F, x0 + 0.26F, 0.0F, 0.5F, 0.56F, 0.59F);
    if (i % 4 == 0) {
      bar(x0 + 0.21F, x0 + 0.27F, 0.0F, 0.95F, 0.50F, 0.56F);
      lamp_places.emplace_back(x0 + 0.24F, height(x0) + 1.02F, 0.53F);
    }
  }
  s.box({-8.6F, -0.2F, -0.8F}, {-7.6F, 1.2F, 0.8F});
  s.box({7.6F, -0.2F, -0.8F}, {8.6F, 1.2F, 0.8F});
  return s;
}

struct Quay {
  Shape wall;
  Shape houses;
  Shape dark_houses;
  Shape windows;
};

// The far side: a wall, and houses with some of their windows lit.
Quay quay(Dice<float>& dice) {
  Quay q;
  q.wall.box({-40.0F, -0.2F, -1.0F}, {50.0F, 1.1F, 0.0F});
  float x = -24.0F;
  for (int house = 0; x < 46.0F; ++house) {
    const float width = dice.roll(2.6F, 4.4F);
    const float height = dice.roll(4.6F, 8.2F);
    Shape& walls = house % 2 == 0 ? q.houses : q.dark_houses;
    walls.box({x, 1.0F, -5.0F}, {x + width, 1.0F + height, -1.2F});
    const Vec ridge_front(x + 0.5F * width, 2.2F + height, -1.2F);
    const Vec ridge_back(x + 0.5F * width, 2.2F + height, -5.0F);
    const Vec left(x, 1.0F + height, -1.2F);
    const Vec right(x + width, 1.0F + height, -1.2F);
    walls.triangle(left, right, ridge_front);
    walls.quad(left, ridge_front, ridge_back, Vec(x, 1.0F + height, -5.0F));
    walls.quad(ridge_front, right, Vec(x + width, 1.0F + height, -5.0F), ridge_back);
    for (float y = 2.0F; y < 0.4F + height; y += 1.5F) {
      for (float wx = x + 0.5F; wx < x + width - 0.6F; wx += 1.1F) {
        if (dice.roll(0.0F, 1.0F) < 0.45F) continue;
        const float z = -1.18F;
        q.windows.quad({wx, y, z}, {wx + 0.42F, y, z}, {wx + 0.42F, y + 0.6F, z},
                       {wx, y + 0.6F, z});
      }
    }
    x += width + 0.15F;
  }
  return q;
}

// Reeds: thin leaning blades, each of three pieces.
Shape reeds(Dice<float>& dice) {
  Shape s;
  for (int i = 0; i < 26; ++i) {
    const float x = dice.roll(-0.16F, 0.16F);
    const float z = dice.roll(-0.12F, 0.12F);
    const float lean = dice.roll(-0.10F, 0.12F);
    const float height = dice.roll(0.32F, 0.62F);
    const float width = dice.roll(0.003F, 0.006F);
    for (int k = 0; k < 3; ++k) {
      const auto at = [&](float t, float side) {
        return Vec(x + lean * t * t + side * width * (1.0F - 0.8F * t), height * t, z + 0.02F * t);
      };
      const float t0 = static_cast<float>(k) / 3.0F;
      const float t1 = static_cast<float>(k + 1) / 3.0F;
      s.quad(at(t0, -1), at(t0, 1), at(t1, 1), at(t1, -1));
    }
  }
  return s;
}

// ---- scenes -------------------------------------------------------------------------------------

void make_boats(Document& d) {
  const Shape boat = paper_boat();
  const int red = d.material("red paper", {0.62F, 0.055F, 0.04F});
  const int cream = d.material("cream paper", {0.72F, 0.62F, 0.42F});
  const int blue = d.material("blue paper", {0.14F, 0.30F, 0.62F});
  d.place("boat", d.mesh("boat", scaled(boat, 0.30F), red), {-0.07F, 0.004F, -2.35F}, 16.0F);
  d.place("second boat", d.mesh("second boat", scaled(boat, 0.30F), cream), {0.62F, 0.004F, -3.7F},
          -24.0F);
  d.place("third boat", d.mesh("third boat", scaled(boat, 0.30F), blue), {-1.05F, 0.004F, -5.4F},
          40.0F);
}

void make_buoys(Document& d) {
  const int orange = d.material("orange buoy", {0.75F, 0.25F, 0.05F});
  const int mesh = d.mesh("buoy", buoy(), orange);
  const int glow = d.material("buoy lamp", Vec::Zero(), {1.0F, 0.72F, 0.36F}, 70.0F, 0.012F);
  std::vector<Vec> lamps;
  const float depths[] = {4.2F, 5.6F, 7.4F, 9.8F, 13.0F, 17.5F, 23.0F, 31.0F, 40.0F};
  for (int side = 0; side < 2; ++side) {
    for (int i = 0; i < 9; ++i) {
      const float z = depths[i] * (side == 0 ? 1.0F : 1.13F);
      const float x =
          (side == 0 ? 1.0F : -1.0F) * (0.62F + 0.118F * z) + 0.25F * std::sin(2.4F * z);
      // One row has names, the other only looks: a set has both kinds of things.
      const std::string name = side == 0 ? fmt::format("buoy {}", i + 1) : std::string();
      d.place(name, mesh, {x, 0.0F, -z});
      lamps.emplace_back(x, 0.158F, -z);
    }
  }
  d.place("buoy lamps", d.lamps("buoy lamps", lamps, glow), Vec::Zero());
}

void make_shore(Document& d, Dice<float>& dice) {
  const int stone = d.material("stone", {0.20F, 0.18F, 0.17F});
  const int brick = d.material("brick", {0.23F, 0.12F, 0.09F});
  const int plaster = d.material("plaster", {0.22F, 0.21F, 0.24F});
  const int wood = d.material("bridge", {0.13F, 0.10F, 0.08F});
  std::vector<Vec> bridge_lamps;
  d.place("footbridge", d.mesh("footbridge", footbridge(bridge_lamps), wood), {0.6F, 0.0F, -18.5F},
          4.0F);
  const int white = d.material("bridge lamp", Vec::Zero(), {1.0F, 0.86F, 0.62F}, 55.0F, 0.045F);
  d.place("bridge lamps", d.lamps("bridge lamps", bridge_lamps, white), {0.6F, 0.0F, -18.5F}, 4.0F);
  const Quay q = quay(dice);
  d.place("quay wall", d.mesh("quay wall", q.wall, stone), {0.0F, 0.0F, -46.0F});
  d.place("houses", d.mesh("houses", q.houses, brick), {0.0F, 0.0F, -46.0F});
  d.place("houses between", d.mesh("houses between", q.dark_houses, plaster), {0.0F, 0.0F, -46.0F});
  const int lit = d.material("window", {0.1F, 0.1F, 0.1F}, {1.0F, 0.62F, 0.24F}, 1.15F);
  d.place("windows", d.mesh("windows", q.windows, lit), {0.0F, 0.0F, -46.0F});
  const int far = d.material("quay lamp", Vec::Zero(), {1.0F, 0.80F, 0.50F}, 95.0F, 0.07F);
  std::vector<Vec> quay_lamps;
  for (int i = 0; i < 11; ++i)
    quay_lamps.emplace_back(-20.0F + 4.1F * static_cast<float>(i), 2.6F, -45.6F);
  d.place("quay lamps", d.lamps("quay lamps", quay_lamps, far), Vec::Zero());
  // What a few lamps are reflected as: broken streaks on the water in front of them.
  const int streak = d.material("streak", {0.02F, 0.03F, 0.04F}, {1.0F, 0.66F, 0.30F}, 0.9F);
  Shape streaks;
  for (const Vec& lamp : quay_lamps) {
    for (float z = 44.0F; z > 20.0F; z *= 0.94F) {
      const float w = dice.roll(0.05F, 0.16F);
      const float x = lamp.x() * z / 45.6F + dice.roll(-0.1F, 0.1F);
      streaks.quad({x - w, 0.012F, -z}, {x + w, 0.012F, -z}, {x + w, 0.012F, -z - 0.12F},
                   {x - w, 0.012F, -z - 0.12F});
    }
  }
  d.place("streaks", d.mesh("streaks", streaks, streak), Vec::Zero());
}

void make_regatta(const std::filesystem::path& folder) {
  Dice<float> dice(7);
  Document d("regatta");
  d.sky({0.085F, 0.115F, 0.21F}, {0.030F, 0.040F, 0.060F});
  const int canal = d.material("water", {0.055F, 0.085F, 0.10F});
  d.place("water", d.mesh("water", water(), canal), Vec::Zero());
  make_boats(d);
  make_buoys(d);
  make_shore(d, dice);
  const int green = d.material("reed", {0.16F, 0.20F, 0.06F});
  d.place("reeds", d.mesh("reeds", reeds(dice), green), {-1.06F, 0.0F, -1.13F});
  d.camera("taking camera", {0.0F, 0.41F, 0.0F}, 0.0F, 0.0F);
  d.camera("reeds camera", {-1.30F, 0.32F, -0.30F}, -26.0F, 0.0F);
  d.light("last sun", {"directional", {1.0F, 0.62F, 0.38F}, 1.9F, 0.0F}, {0, 5, 0},
          {0.75F, -0.42F, -0.65F});
  d.light("shore light", {"point", {1.0F, 0.78F, 0.5F}, 6.0F, 7.0F}, {-1.6F, 1.7F, -1.2F});
  d.light("bridge light", {"point", {1.0F, 0.86F, 0.62F}, 10.0F, 7.0F}, {0.6F, 2.9F, -17.4F});
  d.light("quay light", {"point", {1.0F, 0.8F, 0.5F}, 45.0F, 13.0F}, {-6.0F, 3.4F, -43.4F});
  d.light("quay light right", {"point", {1.0F, 0.8F, 0.5F}, 45.0F, 13.0F}, {9.0F, 3.4F, -43.4F});
  d.write(folder);
}

// Lamps on black, some in front of the focus at 2.35 m and some behind: the shape of the iris.
void make_triangles(const std::filesystem::path& folder) {
  Document d("lamps");
  for (int i = 0; i < 4; ++i) {
    const float s = static_cast<float>(i);
    const float far = 5.0F + 5.0F * s;
    const float near = 1.25F + 0.1F * s;
    // Diameters in proportion to the distance: all appear equally large, and blur alone differs.
    const int warm = d.material(fmt::format("lamp {} m behind", far), Vec::Zero(),
                                {1.0F, 0.62F, 0.26F}, 180.0F, 0.001F * far);
    const int cool = d.material(fmt::format("lamp {} m in front", near), Vec::Zero(),
                                {0.30F, 0.55F, 1.0F}, 110.0F, 0.001F * near);
    const Vec behind((-1.5F + s) * 0.1F * far, 0.05F * far, -far);
    const Vec front((-1.5F + s) * 0.1F * near, -0.05F * near, -near);
    d.place(fmt::format("lamp behind {}", i + 1), d.lamps("lamp", {behind}, warm), Vec::Zero());
    d.place(fmt::format("lamp in front {}", i + 1), d.lamps("lamp", {front}, cool), Vec::Zero());
  }
  d.camera("taking camera", {0, 0, 0}, 0.0F, 0.0F);
  d.write(folder);
}

}  // namespace

int main(int argc, char** argv) {
  return made_into_folder("make_regatta", argc, argv, [](const std::filesystem::path& folder) {
    make_regatta(folder);
    make_triangles(folder);
  });
}
