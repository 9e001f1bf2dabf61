// Names of what stands in a scene, so that each can be asked for.
#pragma once

#include "jolly_iris/scene/scene.hpp"

namespace jolly_iris {

/// Formats let several nodes have one name; where they do, each gets its parent's before its own
/// ("quay/lamp"), and where that is still the same a number behind it ("quay/lamp (2)").
/// @pre parents stand before their children
void name_apart(Scene& scene);

}  // namespace jolly_iris
