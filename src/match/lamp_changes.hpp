// How light and colour of a plate change over frames, told by lamps that burn steadily.
#pragma once

#include <vector>

#include "jolly_iris/match/camera_frames.hpp"

namespace jolly_iris::matching {

/// Exposure (what stop, shutter, sensitivity and filters together make) and white, against the
/// first frame in which lamps are seen; none where fewer than three frames tell.
/// @param focal_mm of each frame: by it lamps' light is collected
std::vector<FollowedValue> lamp_changes(const std::vector<NotedFrame>& frames,
                                        const std::vector<double>& focal_mm);

}  // namespace jolly_iris::matching
