// What a camera of a scene file may be, whichever format it stands in.
#pragma once

#include <string>

#include "jolly_iris/scene/scene.hpp"

namespace jolly_iris {

/// What is out of reach about it, as "a gate of 1e20 mm; …"; empty where all is usual.
std::string unusual(const SceneCamera& camera);

}  // namespace jolly_iris
