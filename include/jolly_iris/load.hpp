// A shot with its scene and its answer, in one call: what most programs begin with.
//
//   const LoadedShot loaded = load_shot("hero.shot.toml");
//   fmt::print("{:.2f} mm\n", loaded.answer.camera.focal.mm());
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/answer.hpp"
#include "jolly_iris/scene.hpp"
#include "jolly_iris/shot.hpp"
#include "jolly_iris/shot_file.hpp"

namespace jolly_iris {

struct LoadedShot {
  Shot shot{};
  std::optional<Scene> scene{};  ///< none where the shot names none
  Answer answer{};
};

/// Reads a shot file and the scene it names, and answers it.
/// @param files if given, gains every file that was read, also when this throws half-way: what a
///        program has to watch
/// @throws as read_shot, read_gltf and answer do; a broken scene is told with the line that names
/// it
LoadedShot load_shot(const std::filesystem::path& path, const std::vector<Tried>& tried = {},
                     std::vector<std::string>* files = nullptr);

}  // namespace jolly_iris
