#include "jolly_iris/workflow/shot_glass.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// An adapter, a converter or a close-up lens.
bool has_mounted(const Lens& lens) {
  return lens.adapter != 1.0 || lens.converter != 1.0 || lens.close_up.dioptres() != 0.0;
}

}  // namespace

std::shared_ptr<const GlassCamera> glass_for_discs(const LoadedShot& loaded) {
  return has_mounted(loaded.now.lens) ? nullptr : glass_camera_of(loaded);
}

std::string thin_lens_note(const LoadedShot& loaded) {
  const Lens& lens = loaded.now.lens;
  if (lens.glass.empty() || !has_mounted(lens)) return {};
  return fmt::format(
      "discs are those of a thin lens with the focal length, pupil and iris of {}: rays are traced "
      "through the glass alone, not through what is mounted on it",
      lens.name);
}

std::shared_ptr<const GlassCamera> glass_camera_of(const LoadedShot& loaded) {
  const Lens& lens = loaded.now.lens;
  if (lens.glass.empty()) return nullptr;
  if (has_mounted(lens)) {
    throw UsageError(loaded.shot.file +
                     ": rays go through the glass alone, not through an adapter, a converter or a "
                     "close-up lens on it; leave lens.glass out (lens.focal in) to see those");
  }
  Prescription p = read_glass(lens.glass);
  p.iris = lens.iris;
  const VirtualCamera& camera = loaded.answer.camera;
  // As the glass squeezes at this focus: what a picture desqueezed by the nominal one shows wider
  // or narrower is in the size of its pixels.
  const double squeeze = camera.squeeze;
  const Length half = Length::from_mm(
      0.5 * std::hypot(camera.picture.width.mm() / squeeze, camera.picture.height.mm()) +
      std::hypot(camera.shift_right.mm(), camera.shift_up.mm()));
  return std::make_shared<const GlassCamera>(
      p, camera.focus, marked_f_number(lens, loaded.now.take.stop), half, squeeze);
}

}  // namespace jolly_iris
