// What a shot is begun from, read: what each file says, and what of it cannot be believed.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/scene/scene.hpp"
#include "jolly_iris/workflow/start_shot.hpp"

namespace jolly_iris {

struct StartSources {
  PlateFacts facts{};            ///< of the plate
  std::optional<Length> mark{};  ///< that its header has and that a lens can have
  std::optional<Frame> depth{};  ///< the depth picture
  bool ours = false;             ///< we wrote it: axial metres
  std::optional<Scene> scene{};
  std::vector<std::string> cameras{};
  std::string camera{};  ///< the one that is taken; empty: the only one
  std::optional<SceneCamera> seen{};
  std::vector<Guess> guesses{};
  std::vector<std::string> notes{};
};

/// @throws as start_shot
StartSources read_start_sources(const StartRequest& request, std::vector<std::string>& files);

}  // namespace jolly_iris
