// What the shot focuses on, as one axial distance.
#pragma once

#include <string>
#include <vector>
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/scene/answer.hpp"

namespace jolly_iris {

/// @param guess what the camera was taken to be focused at so far (see subjects_of)
/// @throws UsageError for a subject that does not exist, OpticsError for a focus that cannot be
Length focus_of(const Shot& shot, const std::vector<SubjectPlace>& places, const Pose& stand,
                Length guess);

/// "on boat", "at 2.35 m", "from boat to bridge (40 %)".
std::string focus_description(const Shot& shot);

}  // namespace jolly_iris
