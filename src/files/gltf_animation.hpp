// Animations of a glTF file as channels of a scene.
#pragma once

#include <optional>
#include <vector>

#include "gltf_model.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace jolly_iris::gltf {

/// All animations together; channels of nodes outside the scene, and of morph weights, are left
/// out.
/// @param place glTF node → scene node
/// @throws FileError for indices out of range, times that do not rise, numbers that are none, and
///         for a node that has a matrix or is moved twice in the same way
std::vector<Channel> read_channels(const CheckedModel& m,
                                   const std::vector<std::optional<std::size_t>>& place);

}  // namespace jolly_iris::gltf
