#include "jolly_iris/workflow/shot_glass.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

std::string thin_lens_note(const LoadedShot& loaded) {
  if (loaded.now.lens.glass.empty()) return {};
  return fmt::format(
      "discs are those of a thin lens with the focal length, pupil and iris of {}; trace goes "
      "through its surfaces",
      loaded.now.lens.name);
}

std::shared_ptr<const GlassCamera> glass_camera_of(const LoadedShot& loaded) {
  const Lens& lens = loaded.now.lens;
  if (lens.glass.empty()) return nullptr;
  if (lens.adapter != 1.0 || lens.converter != 1.0 || lens.close_up.dioptres() != 0.0) {
    throw UsageError(loaded.shot.file +
                     ": rays go through the glass alone, not through an adapter, a converter or a "
                     "close-up lens on it; leave lens.glass out (lens.focal in) to see those");
  }
  Prescription p = read_glass(lens.glass);
  p.iris = lens.iris;
  const VirtualCamera& camera = loaded.answer.camera;
  const double squeeze = lens.squeeze;
  const Length half = Length::from_mm(
      0.5 * std::hypot(camera.picture.width.mm() / squeeze, camera.picture.height.mm()) +
      std::hypot(camera.shift_right.mm(), camera.shift_up.mm()));
  return std::make_shared<const GlassCamera>(
      p, camera.focus, marked_f_number(lens, loaded.now.take.stop), half, squeeze);
}

}  // namespace jolly_iris
