#include "jolly_iris/workflow/other_cameras.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/files/dialect_file.hpp"
#include "jolly_iris/files/usda.hpp"

namespace jolly_iris {

namespace {

DialectSetting setting_of(const LoadedShot& loaded) {
  DialectSetting setting{loaded.shot.unit, loaded.answer.camera.pixels, {}};
  // What is in focus may stand off the axis; then its radial distance is longer.
  for (const SubjectBlur& s : loaded.answer.subjects) {
    if (loaded.now.focus.on == s.name && !loaded.now.move && s.radial.mm() > 0.0) {
      setting.off_axis = Angle::from_radians(std::acos(std::min(1.0, s.axial / s.radial)));
    }
  }
  return setting;
}

PlacedCamera read_camera(const std::string& file, const LoadedShot& loaded,
                         const std::filesystem::path& shipped, std::vector<std::string>& files) {
  files.push_back(file);
  const VirtualCamera& wanted = loaded.answer.camera;
  if (std::filesystem::path(file).extension() == ".toml") {
    const TypedCamera typed = read_typed(file, shipped);
    PlacedCamera found{meant_by(typed.dialect, typed.values, setting_of(loaded), wanted.picture),
                       {}};
    found.camera.message = fmt::format("typed in '{}'", typed.dialect.name);
    return found;
  }
  const bool usda = std::filesystem::path(file).extension() == ".usda";
  Scene scene = usda ? read_usda(file, loaded.answer.frame) : read_scene(file);
  if (loaded.answer.frame && !scene.channels.empty()) {
    pose_at_frame(scene, loaded.shot, *loaded.answer.frame);
  }
  std::optional<std::string> name;
  for (const SceneCamera& camera : scene.cameras) {
    if (loaded.shot.scene && camera.name == loaded.shot.scene->camera) name = camera.name;
  }
  return camera_in(scene, name, wanted.picture);
}

}  // namespace

SpokenCamera speak(const LoadedShot& loaded, const std::string& dialect,
                   const std::filesystem::path& shipped, std::vector<std::string>& files) {
  const auto file = find_dialect(dialect, shipped);
  files.push_back(file.string());
  const Dialect found = read_dialect(file);
  return {found.name, fields_in(found, as_cg_camera(loaded.answer.camera), setting_of(loaded))};
}

CameraDeviations deviations_of(const std::string& file, const LoadedShot& loaded,
                               const std::filesystem::path& shipped,
                               std::vector<std::string>& files) {
  const PlacedCamera found = read_camera(file, loaded, shipped, files);
  const VirtualCamera& wanted = loaded.answer.camera;
  return {found.camera.message, real_lens_of(found.camera, wanted, loaded.now.lens, wanted.focus),
          deviations(found, loaded.now, loaded.answer)};
}

}  // namespace jolly_iris
