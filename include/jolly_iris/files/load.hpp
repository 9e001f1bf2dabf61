// A shot with its scene and its answer, in one call: what most programs begin with.
//
//   const LoadedShot loaded = load_shot("hero.shot.toml");
//   fmt::print("{:.2f} mm\n", loaded.answer.camera.focal.mm());
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/scene/frames.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Which primaries the working space of a colour config has; likewise. None: the config does not
/// say. @throws UsageError for a space, a display or a view that it has not; empty names are none
/// to look for
using PrimariesReader = std::function<std::optional<Primaries>(const ManagedSpace& space)>;

struct LoadedShot {
  Shot shot{};                   ///< as the file has it
  Shot now{};                    ///< as it is at the answer's frame
  std::optional<Scene> scene{};  ///< posed at that frame; none where the shot names none
  Answer answer{};
};

/// Looks up the focus in a depth picture, for shots that ask for a pixel or an area of one. Reading
/// pictures is another room's work (see pick.hpp), so it is handed in.
using DepthPicker = std::function<Picked(const Shot&, const Focus&)>;

/// Reads the picture that is laid over an iris; likewise.
using OpeningReader = std::function<OpeningPicture(const std::string& file)>;

/// Reads a scene; likewise, for many shots that share one.
using SceneReader = std::function<Scene(const std::filesystem::path& file)>;

struct LoadSettings {
  std::vector<Override> tried{};
  Solved solved = Solved::laid_over;
  std::optional<double> frame{};  ///< at which to answer; none: usual_frame
  DepthPicker pick{};
  OpeningReader opening{};      ///< none: a shot whose iris names a picture is refused
  SceneReader scene{};          ///< none: read_scene
  PrimariesReader primaries{};  ///< none: what plate.primaries says
  bool numbers_only = false;    ///< answered by answer_numbers: for many shots
};

/// Reads a shot file, its camera track and the scene it names (glTF or usda), and answers it at one
/// frame.
/// @param files if given, gains every file that was read, also when this throws half-way: what a
///        program has to watch
/// @throws as read_shot, read_gltf and answer do; a broken scene is told with the line that names
/// it
LoadedShot load_shot(const std::filesystem::path& path, const LoadSettings& settings = {},
                     std::vector<std::string>* files = nullptr);

/// A scene by its file's ending: .usda, else glTF. @throws as read_usda and read_gltf
Scene read_scene(const std::filesystem::path& path);

}  // namespace jolly_iris
