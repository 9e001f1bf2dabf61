// Where the focus goes over frames, roughly: on a grid of dioptres, all frames at once.
#pragma once

#include <vector>

#include "jolly_iris/match/camera_frames.hpp"

namespace jolly_iris::matching {

struct FocusWalk {
  std::vector<double> dioptres{};  ///< one for each frame
  /// By how much discs are larger than noted (logarithm) at each frame; 0 where nothing was seen.
  std::vector<double> larger{};
  bool two_sides = false;  ///< another way, on the other side of the lamps, does about as well
};

/// @param larger_sigma how far a frame's discs may be off from what the notes make of them as a
///        whole (logarithm): a stop that is another
FocusWalk walk_focus(const std::vector<NotedFrame>& frames, double larger_sigma);

}  // namespace jolly_iris::matching
