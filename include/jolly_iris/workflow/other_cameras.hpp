// The shot's camera against cameras of other programs: said as they count, or read from them.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/cg_camera.hpp"
#include "jolly_iris/optics/dialect.hpp"
#include "jolly_iris/scene/deviation.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The numbers that a program asks for, in its own way.
struct SpokenCamera {
  std::string dialect{};
  std::vector<DialectValue> values{};
};
/// @param dialect a dialect's name, or its file
/// @param shipped the folder with those that come along
SpokenCamera speak(const LoadedShot& loaded, const std::string& dialect,
                   const std::filesystem::path& shipped, std::vector<std::string>& files);

/// How an existing CG camera differs from the shot's.
struct CameraDeviations {
  std::string who{};  ///< "typed in 'shares'"
  RealLens lens{};    ///< the lens on this body that it amounts to
  std::vector<Deviation> deviations{};
};
/// @param file .gltf, .glb, .usda, or numbers as typed in, .toml
/// @param shipped the folder with dialects that come along
CameraDeviations deviations_of(const std::string& file, const LoadedShot& loaded,
                               const std::filesystem::path& shipped,
                               std::vector<std::string>& files);

}  // namespace jolly_iris
