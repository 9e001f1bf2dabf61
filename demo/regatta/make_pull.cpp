// Makes the pull's plate: the focus goes from the second boat to the hero boat twelve frames later
// than noted, an eighth of the way too far, and back. Halfway through, a hand is before the lens
// for four frames. The shot file knows nothing of it.
//
//   make_pull FOLDER [SAMPLES]      reads FOLDER/pull.shot.toml, writes FOLDER/pull/plate.####.exr
#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <jolly_iris/jolly_iris.hpp>

namespace {

using namespace jolly_iris;

constexpr int first = 1001;
constexpr int last = 1060;
constexpr double begins = 1022.0;
constexpr double arrives = 1042.0;
constexpr double settles = 1050.0;
constexpr double past = 0.125;
constexpr float exposed = 0.45F;  // so that no lamp clips

double smooth(double t) {
  t = std::clamp(t, 0.0, 1.0);
  return t * t * (3.0 - 2.0 * t);
}

// How far the ring has gone from the second boat (0) to the hero boat (1), evenly in dioptres.
double way(double frame) {
  if (frame <= arrives) return (1.0 + past) * smooth((frame - begins) / (arrives - begins));
  return 1.0 + past * (1.0 - smooth((frame - arrives) / (settles - arrives)));
}

bool is_hidden(int frame) { return frame >= 1053 && frame < 1057; }

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) return 2;
  const std::string folder = argv[1];
  const LoadedShot loaded = load_shot(folder + "/pull.shot.toml");
  const auto dioptres = [&](const char* subject) {
    for (const SubjectBlur& s : loaded.answer.subjects) {
      if (s.name == subject) return 1.0 / s.axial.m();
    }
    std::exit(3);
  };
  const double from = dioptres("second boat");
  const double to = dioptres("boat");
  TraceSettings settings;
  settings.samples = argc > 2 ? std::atoi(argv[2]) : 64;
  settings.size = PixelSize{960, 540};
  std::filesystem::create_directories(folder + "/pull");
  for (int frame = first; frame <= last; ++frame) {
    settings.seed = static_cast<std::uint32_t>(frame);
    const Length focus = Length::from_m(1.0 / (from + way(frame) * (to - from)));
    const Shot& shot = loaded.now;
    Frame made = trace(*loaded.scene, resolve(shot.body, shot.lens, shot.take, focus),
                       loaded.answer.place, settings);
    for (Rgba& p : made.colour.pixels()) {
      for (std::size_t c = 0; c < 3; ++c) p[c] *= exposed;
    }
    if (is_hidden(frame)) {
      std::fill(made.colour.pixels().begin(), made.colour.pixels().end(),
                Rgba{0.01F, 0.008F, 0.007F, 1.0F});
    }
    write_picture(folder + "/pull/" + numbered("plate.####.exr", frame), made);
  }
}
