// What a scene's camera sees, and what of it somebody would focus on.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/optics/body.hpp"
#include "jolly_iris/scene/scene.hpp"
#include "jolly_iris/workflow/start_shot.hpp"

namespace jolly_iris {

struct CameraView {
  std::vector<StartedSubject> subjects{};  ///< in the picture, near to far
  std::optional<std::string> on{};         ///< one of them
  std::optional<Length> distance{};        ///< axial: of that one, or of what the middle shows
  std::string why{};                       ///< how it was chosen, a sentence without its point
};

/// The nearest thing in the frame's middle ninth; where nothing is there, the thing nearest to the
/// middle; grounds and walls are none. Where only those are seen, how far away they are there.
/// @param camera its name; empty: the scene's only one
/// @param focal that sees as much as the camera, focused at infinity
CameraView look_at_scene(const Scene& scene, const std::string& camera, const Body& body,
                         Length focal);

}  // namespace jolly_iris
