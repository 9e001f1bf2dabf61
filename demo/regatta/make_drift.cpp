// Makes the regatta move, with the meshes of regatta.gltf and animation of its own.
//
//   drift.gltf       four seconds: the boats drift and sway, a buoy bobs, the taking camera rides
//   on
//                    a dolly
//   passing.gltf     one second: the hero boat shoots past the camera, which stands
//
//   make_drift FOLDER      reads regatta.gltf there, writes both and their .bin beside it
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <numbers>
#include <string>
#include <vector>

#include "disk/disk.hpp"
#include "maker.hpp"

namespace {

using Json = nlohmann::ordered_json;
using Rows = std::vector<std::vector<float>>;

class Mover {
 public:
  Mover(Json scene, std::string name) : json_(std::move(scene)), name_(std::move(name)) {
    json_["animations"] = Json::array({{{"name", name_}}});
  }

  std::size_t node(const std::string& name) const {
    const Json& nodes = json_["nodes"];
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      if (nodes[i].value("name", "") == name) return i;
    }
    throw std::runtime_error("regatta.gltf has no " + name);
  }

  /// A new root node that carries another one.
  std::size_t carry(const std::string& name, std::size_t child) {
    const std::size_t index = json_["nodes"].size();
    json_["nodes"].push_back({{"name", name}, {"children", {child}}});
    Json& roots = json_["scenes"][0]["nodes"];
    roots.erase(std::find(roots.begin(), roots.end(), child));
    roots.push_back(index);
    return index;
  }

  void move(std::size_t node, const char* path, const char* step, const std::vector<float>& times,
            const Rows& values) {
    Json& animation = json_["animations"][0];
    const std::size_t sampler = animation["samplers"].size();
    Rows seconds;
    for (const float t : times) seconds.push_back({t});
    const std::size_t input = accessor(seconds, "SCALAR");
    json_["accessors"][input]["min"] = {times.front()};
    json_["accessors"][input]["max"] = {times.back()};
    const std::size_t output = accessor(values, values[0].size() == 4 ? "VEC4" : "VEC3");
    animation["samplers"].push_back(
        {{"input", input}, {"output", output}, {"interpolation", step}});
    animation["channels"].push_back(
        {{"sampler", sampler}, {"target", {{"node", node}, {"path", path}}}});
  }

  std::vector<float> numbers(std::size_t node, const char* key) const {
    return json_["nodes"][node][key].get<std::vector<float>>();
  }

  void write(const std::filesystem::path& folder) {
    json_["buffers"].push_back({{"uri", name_ + ".bin"}, {"byteLength", bytes_.size()}});
    jolly_iris::write_whole_file(folder / (name_ + ".bin"), bytes_);
    jolly_iris::write_whole_file(folder / (name_ + ".gltf"), json_.dump(1) + "\n");
  }

 private:
  std::size_t accessor(const Rows& rows, const char* type) {
    const std::size_t from = bytes_.size();
    for (const auto& row : rows) {
      bytes_.append(reinterpret_cast<const char*>(row.data()), row.size() * sizeof(float));
    }
    json_["bufferViews"].push_back(
        {{"buffer", 1}, {"byteOffset", from}, {"byteLength", bytes_.size() - from}});
    json_["accessors"].push_back({{"bufferView", json_["bufferViews"].size() - 1},
                                  {"componentType", 5126},
                                  {"count", rows.size()},
                                  {"type", type}});
    return json_["accessors"].size() - 1;
  }

  Json json_;
  std::string name_;
  std::string bytes_;
};

// A turn about the upright axis, as glTF writes it.
std::vector<float> heading(float degrees) {
  const float half = degrees / 360.0F * std::numbers::pi_v<float>;
  return {0.0F, std::sin(half), 0.0F, std::cos(half)};
}

std::vector<float> moved(std::vector<float> from, float x, float y, float z) {
  return {from[0] + x, from[1] + y, from[2] + z};
}

void make_drift(const std::filesystem::path& folder) {
  Mover m(Json::parse(jolly_iris::read_whole_file(folder / "regatta.gltf")), "drift");
  const std::vector<float> still{0.0F, 0.0F, 0.0F};
  // The hero boat starts and ends gently: cubic, with tangents of zero at both ends.
  const std::size_t boat = m.node("boat");
  const auto home = m.numbers(boat, "translation");
  m.move(boat, "translation", "CUBICSPLINE", {0.0F, 2.0F, 4.0F},
         {still,
          home,
          still,  //
          {0.10F, 0.0F, -0.12F},
          moved(home, 0.18F, 0.0F, -0.22F),
          {0.10F, 0.0F, -0.12F},  //
          still,
          moved(home, 0.40F, 0.0F, -0.55F),
          still});
  m.move(boat, "rotation", "LINEAR", {0.0F, 1.5F, 3.0F, 4.0F},
         {heading(16.0F), heading(24.0F), heading(12.0F), heading(18.0F)});
  const std::size_t second = m.node("second boat");
  const auto start = m.numbers(second, "translation");
  m.move(second, "translation", "LINEAR", {0.0F, 4.0F}, {start, moved(start, -0.45F, 0.0F, 0.50F)});
  const std::size_t buoy = m.node("buoy 1");
  const auto anchor = m.numbers(buoy, "translation");
  m.move(buoy, "translation", "STEP", {0.0F, 1.0F, 2.0F, 3.0F},
         {anchor, moved(anchor, 0.0F, 0.02F, 0.0F), anchor, moved(anchor, 0.0F, -0.01F, 0.0F)});
  const std::size_t dolly = m.carry("dolly", m.node("taking camera"));
  m.move(dolly, "translation", "LINEAR", {0.0F, 4.0F}, {still, {0.12F, 0.03F, -0.30F}});
  m.write(folder);
}

// At half a second, frame 1013 of a shot that begins with 1001, the boat is where it always was.
void make_passing(const std::filesystem::path& folder) {
  Mover m(Json::parse(jolly_iris::read_whole_file(folder / "regatta.gltf")), "passing");
  const std::size_t boat = m.node("boat");
  const auto home = m.numbers(boat, "translation");
  constexpr float half_way = 0.75F;  // m: 1.5 m/s
  m.move(boat, "translation", "LINEAR", {0.0F, 1.0F},
         {moved(home, -half_way, 0.0F, -0.1F), moved(home, half_way, 0.0F, 0.1F)});
  m.write(folder);
}

void make_all(const std::filesystem::path& folder) {
  make_drift(folder);
  make_passing(folder);
}

}  // namespace

int main(int argc, char** argv) { return made_into_folder("make_drift", argc, argv, make_all); }
