// How near defocus comes to the traced truth, and how near two traces are to each other.
//
//   truth SHOT [SAMPLES] [WIDTH] [FOLDER] [NODE]
//
// Prints the PSNR of both; with a folder (- is none), also writes the pictures there. With a node,
// also what two layers give: that node, and all the rest without it.
#include <fmt/format.h>

#include <cstdlib>
#include <exception>
#include <iostream>

#include "jolly_iris/jolly_iris.hpp"

namespace {

using namespace jolly_iris;

struct Wanted {
  std::string shot;
  int samples = 512;
  int width = 960;
  std::string folder{};
  std::string front{};
};

void measure(const Wanted& wanted) {
  const LoadedShot loaded = load_shot(wanted.shot);
  const Scene& scene = loaded.scene.value();
  const Answer& a = loaded.answer;
  TraceSettings settings;
  settings.samples = wanted.samples;
  settings.size =
      PixelSize{wanted.width, wanted.width * a.camera.pixels.height / a.camera.pixels.width};
  const Frame truth = trace(scene, a.camera, a.place, settings);
  settings.seed = 2;
  const Frame other = trace(scene, a.camera, a.place, settings);
  settings.pinhole = true;
  settings.seed = 3;
  const Frame sharp = trace(scene, a.camera, a.place, settings);
  const Frame blurred{defocus(sharp, a.camera), {}};
  fmt::print("{} at {} x {}, {} rays a pixel\n", wanted.shot, settings.size->width,
             settings.size->height, wanted.samples);
  fmt::print("  defocus against truth   {:.2f} dB\n", psnr(blurred.colour, truth.colour));
  fmt::print("  truth against truth     {:.2f} dB (another seed)\n",
             psnr(other.colour, truth.colour));
  fmt::print("  sharp against truth     {:.2f} dB (doing nothing)\n",
             psnr(sharp.colour, truth.colour));
  if (!wanted.front.empty()) {
    settings.just = {wanted.front};
    const Frame front = trace(scene, a.camera, a.place, settings);
    settings.just.clear();
    settings.without = {wanted.front};
    const Frame back = trace(scene, a.camera, a.place, settings);
    const Frame layered{defocus_layers({{front}, {back}}, a.camera), {}};
    fmt::print("  two layers against truth {:.2f} dB ({} in front)\n",
               psnr(layered.colour, truth.colour), wanted.front);
    if (!wanted.folder.empty()) write_picture(wanted.folder + "/layers.png", layered);
  }
  if (wanted.folder.empty()) return;
  write_picture(wanted.folder + "/truth.exr", truth);
  write_picture(wanted.folder + "/truth.png", truth);
  write_picture(wanted.folder + "/sharp.png", sharp);
  write_picture(wanted.folder + "/defocus.png", blurred);
  write_picture(wanted.folder + "/sharp.exr", sharp);
  // Ten times the difference, around grey.
  Frame difference{Picture(truth.colour.size(), {0, 0, 0, 1}), {}};
  for (std::size_t i = 0; i < truth.colour.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) {
      difference.colour.pixels()[i][c] =
          0.2F + 10.0F * (blurred.colour.pixels()[i][c] - truth.colour.pixels()[i][c]);
    }
  }
  write_picture(wanted.folder + "/difference.png", difference);
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) {
    std::cerr << "usage: truth SHOT [SAMPLES] [WIDTH] [FOLDER] [NODE]\n";
    return 2;
  }
  try {
    Wanted wanted{argv[1]};
    if (argc > 2) wanted.samples = std::atoi(argv[2]);
    if (argc > 3) wanted.width = std::atoi(argv[3]);
    if (argc > 4 && std::string(argv[4]) != "-") wanted.folder = argv[4];
    if (argc > 5) wanted.front = argv[5];
    measure(wanted);
  } catch (const std::exception& e) {
    std::cerr << "truth: " << e.what() << '\n';
    return 1;
  }
  return 0;
}
