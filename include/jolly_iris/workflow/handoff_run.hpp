// The camera of a shot for other programs, as files beside each other: glTF, USD text, JSON, and a
// table where something moves.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/sequence.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct HandoffRequest {
  std::string folder{"."};           ///< where they are written; has to be there
  FrameRequest frames{};             ///< not asked: all, where something moves
  bool one_frame = false;            ///< only the one that the shot is answered at
  std::vector<std::string> stamp{};  ///< EXRs whose headers get the camera's numbers
  Execution execution{};
};

struct HandedFile {
  std::string name{};
  std::string what{};  ///< in words
};

struct Handoff {
  std::vector<HandedFile> files{};
  bool zooms = false;  ///< glTF cannot change a focal length over time
};

/// Writes NAME.camera.gltf, .camera.usda, .camera.json and, over frames, .camera.csv.
/// @throws FileError for a folder that is not there or a file that cannot be written; as answers_at
///         and stamp_picture; Cancelled
Handoff hand_off(const HandoffRequest& request, const LoadedShot& loaded);

}  // namespace jolly_iris
