// A thousand shots of twenty scenes listed, and a look carried to two hundred of them: seconds, and
// as a ratio to reading one shot as often in one thread.
//
//   shots DEMO_FOLDER
#include <fmt/format.h>

#include <chrono>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <string>

#include "jolly_iris/jolly_iris.hpp"

using namespace jolly_iris;

namespace {

constexpr int scenes = 20;
constexpr int shots_a_scene = 50;

template <class Work>
double seconds(const Work& work) {
  const auto began = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
}

std::string text_of(const std::filesystem::path& file) {
  std::ifstream in(file, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

void make_show(const std::filesystem::path& demo, const std::filesystem::path& folder) {
  const std::string hero = text_of(demo / "hero.shot.toml");
  const std::string stop = "f/2.2";
  for (int s = 0; s < scenes; ++s) {
    const std::filesystem::path scene = folder / fmt::format("scene{}", s);
    std::filesystem::create_directories(scene);
    for (const char* file :
         {"regatta.gltf", "regatta.bin", "tansy.body.toml", "linden-53.lens.toml", "plate.jpg"}) {
      std::filesystem::copy_file(demo / file, scene / file);
    }
    for (int k = 0; k < shots_a_scene; ++k) {
      std::string text = hero;
      text.replace(text.find(stop), stop.size(), fmt::format("f/{:.1f}", 2.0 + 0.1 * k));
      std::ofstream(scene / fmt::format("shot{}.shot.toml", k)) << text;
    }
  }
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) {
    fmt::print(stderr, "shots DEMO_FOLDER\n");
    return EXIT_FAILURE;
  }
  const std::filesystem::path folder =
      std::filesystem::temp_directory_path() / "jolly_iris_bench_shots";
  std::filesystem::remove_all(folder);
  make_show(argv[1], folder);
  const std::string first = (folder / "scene0/shot0.shot.toml").string();
  const double one = seconds([&] {
                       for (int i = 0; i < 20; ++i) (void)load_shot(first, shot_settings());
                     }) /
                     20.0;
  std::size_t rows = 0;
  const double list = seconds([&] { rows = list_shots({.what = {folder.string()}}).rows.size(); });
  CarryRequest wanted;
  wanted.master.file = first;
  for (int s = 1; s < 5; ++s) {
    const auto some = shot_files({(folder / fmt::format("scene{}", s)).string()});
    wanted.to.insert(wanted.to.end(), some.begin(), some.end());
  }
  std::vector<std::string> files;
  const double carried = seconds([&] { (void)carry(wanted, files); });
  fmt::print("one shot loaded and answered      {:8.1f} ms\n", 1000.0 * one);
  fmt::print("{} shots of {} scenes listed   {:8.2f} s   {:.2f} of that, each\n", rows, scenes,
             list, list / static_cast<double>(rows) / one);
  fmt::print("a look carried to {} shots       {:8.2f} s   {:.2f} of that, each\n",
             wanted.to.size(), carried, carried / static_cast<double>(wanted.to.size()) / one);
  std::filesystem::remove_all(folder);
  return EXIT_SUCCESS;
}
