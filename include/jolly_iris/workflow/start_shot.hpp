// A shot begun from what there is: a scene, a depth picture, a plate, or several of them together.
// What they know is taken; what nobody said is guessed, and told as a guess until somebody confirms
// it.
//
//   StartRequest request{.file = "first.shot.toml", .scene = "regatta.gltf"};
//   const StartedShot shot = start_shot(request, files);   // shot.text is to be written
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/files/starter_file.hpp"
#include "jolly_iris/optics/plate_facts.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// At least one of scene, depth and plate.
struct StartRequest {
  std::string file{};    ///< the shot file to be: names in it are relative to its folder
  std::string scene{};   ///< glTF or usda
  std::string camera{};  ///< which of the scene's; empty: its only one, or the first
  std::string depth{};   ///< a picture with depth, or one that is nothing else
  std::string plate{};   ///< as it came from the camera
};

/// Something in the picture.
struct StartedSubject {
  std::string name{};
  Length axial{};                   ///< of its middle
  std::optional<Length> longest{};  ///< its longest side in the scene, where it has any
};

struct StartedShot {
  std::string text{};  ///< of the file: report works on it as it is
  PlateFacts facts{};  ///< what the plate said; of its pixels those of the picture to be
  std::vector<std::string> cameras{};      ///< of the scene
  std::vector<StartedSubject> subjects{};  ///< in the picture, near to far
  std::vector<Guess> guesses{};
  std::vector<std::string> notes{};  ///< what looks wrong
};

/// Sorts files into a request by what they are: .gltf, .glb and .usda are scenes, an EXR with depth
/// is one of the shot's depth pictures, every other picture the plate.
/// @throws UsageError for two of one kind, FileError as read_picture
StartRequest start_request(const std::vector<std::string>& what, std::vector<std::string>& files);

/// @param files gains what was read
/// @throws UsageError for a scene without cameras, and a camera that is none of its; as read_scene
///         and read_plate_facts
StartedShot start_shot(const StartRequest& request, std::vector<std::string>& files);

}  // namespace jolly_iris
