// Whether measuring tells an iris of pictures that have no lamp out of focus in them: made ones
// (tests/plates/lookalikes.hpp), and photographs that are given.
//
//   lookalikes [PICTURES OF A KIND] [FIRST SEED] [PHOTOGRAPH …]
//
// A line a picture (with DISCS set, a line a disc): how many discs were found, and what was told.
// bench/fetch_photographs.sh brings photographs that are free to use.
#include <fmt/format.h>

#include <cstdlib>
#include <filesystem>
#include <iostream>

#include "../tests/plates/camera_file.hpp"
#include "../tests/plates/lookalikes.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace {

using namespace jolly_iris;

struct Sums {
  int pictures = 0;
  int told = 0;
  int sure = 0;
};

void one(const std::string& name, const Picture& picture, Sums& sums) {
  const FoundDiscs found = discs_in_plate(picture);
  ++sums.pictures;
  sums.told += found.iris.known ? 1 : 0;
  sums.sure += found.iris.sure() ? 1 : 0;
  fmt::print("{:<28} {:4} discs  {}\n", name, found.discs.size(),
             !found.iris.known
                 ? "no iris"
                 : fmt::format("IRIS of {} blades, from {} discs{}", found.iris.blades,
                               found.iris.discs, found.iris.sure() ? ", sure" : ""));
  if (std::getenv("DISCS") != nullptr) {
    for (const PlateDisc& d : found.discs) {
      fmt::print("    {:6.1f} {:6.1f}  {:5.1f} x {:5.1f} px  soft {:.2f}  left {:.2f}{}\n", d.at[0],
                 d.at[1], d.width_px.value, d.height_px.value, d.edge_sigma_px, d.residual,
                 d.outlier ? "  outlier" : "");
    }
  }
  std::fflush(stdout);
}

}  // namespace

int main(int argc, char** argv) {
  const int each = argc > 1 ? std::atoi(argv[1]) : 16;
  const int first = argc > 2 ? std::atoi(argv[2]) : 1;
  const auto folder = std::filesystem::temp_directory_path() / "jolly_iris_lookalikes";
  std::filesystem::create_directories(folder);
  Sums s;
  try {
    for (const plates::Lookalike what : plates::all_lookalikes) {
      for (int i = 0; i < each; ++i) {
        const auto seed = static_cast<std::uint32_t>(first + i);
        plates::CameraFile camera;
        camera.edges = plates::all_edges[seed % plates::all_edges.size()];
        camera.quality = 75 + 5 * (i % 5);
        camera.coarse = i % 2 == 0;
        camera.seed = seed;
        const std::string file =
            (folder / fmt::format("{}{}.jpg", plates::name_of(what), seed)).string();
        plates::record(plates::lookalike(what, seed), camera, file);
        one(std::filesystem::path(file).filename().string(), read_picture(file).colour, s);
      }
    }
    for (int i = 3; i < argc; ++i) {
      one(std::filesystem::path(argv[i]).filename().string(), read_picture(argv[i]).colour, s);
    }
  } catch (const std::exception& e) {
    std::cerr << "lookalikes: " << e.what() << '\n';
    return 1;
  }
  fmt::print("\n{} pictures: an iris was told of {}, surely of {}\n", s.pictures, s.told, s.sure);
  return 0;
}
