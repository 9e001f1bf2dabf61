// A plate decoded by a colour config against what OpenColorIO itself takes for it on one thread, in
// one run, 4096 x 2160 px.
#include <OpenColorIO/OpenColorIO.h>
#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include "jolly_iris/picture_files/colour_management.hpp"

namespace OCIO = OCIO_NAMESPACE;

int main(int argc, char** argv) {
  using namespace jolly_iris;
  const std::string config = argc > 1 ? argv[1] : "demo/regatta/lake.ocio";
  Picture plate(PixelSize{4096, 2160}, {0, 0, 0, 1});
  for (int y = 0; y < plate.height(); ++y) {
    for (int x = 0; x < plate.width(); ++x) {
      plate.at(x, y) = {static_cast<float>(x) / 4096.0F, static_cast<float>(y) / 2160.0F, 0.5F,
                        1.0F};
    }
  }
  const auto seconds = [](const auto& work) {
    double least = 1e9;
    for (int i = 0; i < 5; ++i) {
      const auto start = std::chrono::steady_clock::now();
      work();
      least = std::min(
          least, std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
    }
    return least;
  };
  const auto processor = OCIO::Config::CreateFromFile(config.c_str())
                             ->getProcessor("lake log", "lake linear")
                             ->getOptimizedCPUProcessor(OCIO::OPTIMIZATION_LOSSLESS);
  Picture alone = plate;
  const double theirs = seconds([&] {
    alone = plate;
    OCIO::PackedImageDesc image(alone.pixels().data(), plate.width(), plate.height(), 4);
    processor->apply(image);
  });
  Picture shared = plate;
  const double ours = seconds([&] {
    shared = plate;
    to_light(shared, {"lake log", {config, {}, {}, {}}});
  });
  fmt::print("{:<40} {:.3f} s\n{:<40} {:.3f} s, {:.2f} x\n{}\n", "OpenColorIO, one thread", theirs,
             "to_light", ours, ours / theirs,
             alone.pixels() == shared.pixels() ? "the same numbers" : "OTHER NUMBERS");
}
