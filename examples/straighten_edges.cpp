// What the edges drawn on a plate say of its lens and of how its camera stood, and the level camera
// that would have kept verticals parallel.
//
//   straighten_edges SHOT
#include <fmt/format.h>

#include <iostream>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/measure/lines.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/undistort.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  if (argc != 2) {
    std::cerr << "usage: straighten_edges SHOT\n";
    return 2;
  }
  try {
    const LoadedShot loaded = load_shot(argv[1]);
    const std::vector<DrawnLine> edges =
        loaded.now.plate ? loaded.now.plate->marks.lines : std::vector<DrawnLine>{};
    VirtualCamera camera = loaded.answer.camera;

    camera.distortion = distortion_from_lines(camera, edges).distortion;
    const auto corner = DistortionMap(camera).undistorted({0.0, 0.0});
    fmt::print("the plate's corner belongs at ({:.1f}, {:.1f}) px\n", corner[0], corner[1]);

    const FoundPerspective found = perspective_from_lines(camera, edges);
    fmt::print("the camera looks {:.2f} ± {:.2f} deg up\n", found.tilt_deg.value,
               found.tilt_deg.margin);

    const LevelCamera level = level_camera(camera, found.lean, {960.0, 540.0});
    fmt::print("level, it takes {:.2f} mm and a shift of {:.2f} mm up\n", level.camera.focal.mm(),
               level.camera.shift_up.mm());
  } catch (const Error& e) {
    std::cerr << e.what() << '\n';
    return 1;
  }
}
