// Distances as people entered them, made axial for one camera.
#pragma once

#include <string>
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/scene/answer.hpp"

namespace jolly_iris {

/// @param key of the entry's section ("focus", "subject[0]"), for messages
/// @param focus what the camera is focused at (see subjects_of)
Length axial_of(const DistanceEntry& entry, const Shot& shot, const Pose& stand, Length focus,
                const std::string& key);

/// Whether anything was entered by where the picture shows it, which hangs on the focus.
bool hangs_on_focus(const Shot& shot);

}  // namespace jolly_iris
