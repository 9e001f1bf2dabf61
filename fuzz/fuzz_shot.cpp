// Shot files of any bytes: a message or a shot, and a shot answers or says why not. What it answers
// are numbers, and the camera that is handed over is read again as the same.
#include <cmath>

#include "fuzz_file.hpp"
#include "jolly_iris/files/gltf.hpp"
#include "jolly_iris/files/handoff.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/files/usda.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/scene/answer.hpp"

namespace {

using namespace jolly_iris;

void same(const Scene& scene, const Answer& answer) {
  if (scene.cameras.size() != 1) fuzz::fail("the camera handed over is not one");
  const double told = answer.camera.vertical_picture_view().radians();
  if (std::abs(scene.cameras[0].yfov - told) > 1e-4 * told + 1e-9) {
    fuzz::fail("the camera handed over sees otherwise");
  }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  try {
    Shot shot = read_shot(fuzz::as_file("a.shot.toml", data, size));
    const Answer all = answer(shot, nullptr);
    const std::string json = answer_json(all);
    fuzz::require_numbers(fuzz::without_texts(json));
    const std::string gltf = camera_gltf({all}, "camera", shot.take.fps);
    const std::string usda = camera_usda({all}, "camera", shot.take.fps);
    try {
      same(read_gltf(fuzz::as_file("c.gltf", gltf)), all);
      same(read_usda(fuzz::as_file("c.usda", usda)), all);
    } catch (const Error& e) {
      fuzz::fail(std::string("what was handed over is refused: ") + e.what());
    }
  } catch (const Error&) {
    // told: that is what shall happen
  }
  return 0;
}
