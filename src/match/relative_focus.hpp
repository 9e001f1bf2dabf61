// How a focus changes over frames, told by lamps whose distances nobody knows.
//
// A disc's diameter is c = D v |q − d|, with q and d the dioptres of focus and lamp. Where d is not
// known q is neither, but its change is: in a frame all discs become larger or smaller by D v Δq,
// those on one side of the focus larger, those on the other smaller. Which are on one side, they
// tell by growing alike. Whether the focus comes nearer or goes farther they cannot: everything
// mirrored, q → −q and d → −d, looks the same. That the notes have to say.
//
// Source: the thin lens's circle of confusion (circle_of_confusion); an additive model of two
// factors by weighted least squares (Searle, Linear Models, 1971, chapter 7).
#pragma once

#include "jolly_iris/match/camera_frames.hpp"

namespace jolly_iris::matching {

/// @param frames their `unplaced` discs, each by its track's name
/// @return focus_change, where it can be told, else why not; nothing else
/// @throws Cancelled
CameraFrames relative_focus(const std::vector<NotedFrame>& frames,
                            const CameraFramesSettings& settings);

}  // namespace jolly_iris::matching
