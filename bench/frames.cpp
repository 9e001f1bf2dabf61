// The focus table of a long shot: the tool, start included, on 200 nodes of 500 vertices, each
// moved by a key a frame, against one report of the same shot.
//
//   frames TOOL [FRAMES]      makes its scene in the temporary folder
#include <fmt/format.h>

#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <iostream>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "disk/disk.hpp"

namespace {

using Json = nlohmann::json;

class Dice {
 public:
  float roll(float low, float high) {
    state_ = state_ * 1664525U + 1013904223U;
    return low + (high - low) * static_cast<float>(state_ >> 8U) * 0x1p-24F;
  }

 private:
  unsigned state_ = 7;
};

struct Document {
  Json json{{"asset", {{"version", "2.0"}}}, {"scene", 0}};
  std::string bytes{};

  std::size_t accessor(const std::vector<float>& values, const char* type, std::size_t width) {
    json["bufferViews"].push_back(
        {{"buffer", 0}, {"byteOffset", bytes.size()}, {"byteLength", values.size() * 4}});
    bytes.append(reinterpret_cast<const char*>(values.data()), values.size() * 4);
    json["accessors"].push_back({{"bufferView", json["bufferViews"].size() - 1},
                                 {"componentType", 5126},
                                 {"count", values.size() / width},
                                 {"type", type}});
    return json["accessors"].size() - 1;
  }
};

void make_scene(const std::filesystem::path& folder, int frames) {
  constexpr int nodes = 200;
  constexpr int vertices = 500;
  Dice dice;
  Document d;
  std::vector<float> cloud;
  for (int i = 0; i < 3 * vertices; ++i) cloud.push_back(dice.roll(-0.2F, 0.2F));
  const auto positions = d.accessor(cloud, "VEC3", 3);
  std::vector<float> seconds;
  for (int i = 0; i < frames; ++i) seconds.push_back(static_cast<float>(i) / 24.0F);
  const auto times = d.accessor(seconds, "SCALAR", 1);
  d.json["cameras"] = {
      {{"type", "perspective"}, {"perspective", {{"yfov", 0.4}, {"znear", 0.01}}}}};
  d.json["meshes"] = {{{"primitives", {{{"attributes", {{"POSITION", positions}}}}}}}};
  d.json["nodes"].push_back({{"name", "view"}, {"camera", 0}});
  Json animation;
  for (int n = 1; n <= nodes; ++n) {
    d.json["nodes"].push_back({{"name", fmt::format("thing {}", n)}, {"mesh", 0}});
    const float x = dice.roll(-2, 2);
    const float z = dice.roll(-40, -3);
    std::vector<float> path;
    for (int i = 0; i < frames; ++i) {
      const auto t = static_cast<float>(i);
      path.insert(path.end(), {x + 0.001F * t, 0.1F, z + 0.002F * t});
    }
    animation["samplers"].push_back({{"input", times}, {"output", d.accessor(path, "VEC3", 3)}});
    animation["channels"].push_back(
        {{"sampler", n - 1}, {"target", {{"node", n}, {"path", "translation"}}}});
  }
  d.json["animations"].push_back(animation);
  Json roots = Json::array();
  for (int n = 0; n <= nodes; ++n) roots.push_back(n);
  d.json["scenes"] = {{{"nodes", roots}}};
  d.json["buffers"] = {{{"uri", "long.bin"}, {"byteLength", d.bytes.size()}}};
  jolly_iris::write_whole_file(folder / "long.bin", d.bytes);
  jolly_iris::write_whole_file(folder / "long.gltf", d.json.dump());
  jolly_iris::write_whole_file(
      folder / "long.shot.toml",
      fmt::format("[body]\ngate = \"25.9 x 14.6 mm\"\npixels = \"1920 x 1080\"\n[lens]\n"
                  "focal = \"53 mm\"\n[take]\nstop = \"f/2.2\"\nfps = 24\n[frames]\nfirst = 1\n"
                  "last = {}\n[scene]\nfile = \"long.gltf\"\n[focus]\non = \"thing 7\"\n",
                  frames));
}

double seconds_of(const std::string& command) {
  double best = 1e9;
  for (int i = 0; i < 5; ++i) {
    const auto begin = std::chrono::steady_clock::now();
    if (std::system((command + " > /dev/null").c_str()) != 0) return -1.0;
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - begin;
    best = std::min(best, took.count());
  }
  return best;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) {
    std::cerr << "usage: frames TOOL [FRAMES]\n";
    return 2;
  }
  const int frames = argc > 2 ? std::atoi(argv[2]) : 1000;
  const auto folder = std::filesystem::temp_directory_path() / "jolly_iris_bench_frames";
  std::filesystem::create_directories(folder);
  make_scene(folder, frames);
  const std::string report =
      fmt::format("{} report {}", argv[1], (folder / "long.shot.toml").string());
  const double one = seconds_of(report);
  const double all = seconds_of(report + " --frames all");
  std::filesystem::remove_all(folder);
  fmt::print("one report {:.3f} s, {} frames {:.3f} s: {:.1f} times as long (best of 5)\n", one,
             frames, all, all / one);
  return one > 0.0 && all > 0.0 ? 0 : 1;
}
