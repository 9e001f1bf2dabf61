// The focus over frames, as somebody plays with it: where it is at each frame, what its keys are,
// and what has to change in the hand for a key to be set, moved or taken out.
//
//   LiveShot shot({.file = "drift.shot.toml"});
//   shot.go_to_frame(1060.0);
//   shot.change(as_focus_key(shot.loaded(), 1060.0, {{"focus.on", "boat"}}));
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/live_shot.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One key of a pull ([[pull]] in the shot file).
struct FocusKey {
  double frame = 0.0;
  std::string on{};  ///< "boat", "2.35 m": as it is written
  Length axial{};    ///< where the focus is at that frame, from the camera's origin
  std::string ease{};
};

struct FocusCurve {
  FrameRange range{};
  std::vector<double> frames{};  ///< rising, evenly over the range, its ends among them
  std::vector<Length> axial{};   ///< the focus at each
  std::vector<FocusKey> keys{};  ///< rising; none: the focus has no keys of its own
};

/// @param samples at most so many frames are answered, 2 or more
/// @throws UsageError for a shot without frames; as answer
FocusCurve focus_curve(const LoadedShot& loaded, std::size_t samples = 97);

/// Changes of `focus.…` turned into a key at this frame; others stay as they are. In a shot whose
/// focus had no keys, what it was on becomes the key of the first frame.
/// @throws UsageError for a shot without frames, or with a focus that goes over them by
///         [over.focus.…]
std::vector<LiveChange> as_focus_key(const LoadedShot& loaded, double frame,
                                     const std::vector<LiveChange>& changes);

/// A key goes to another frame, or to another distance, or both.
/// @param at none: it stays on what it is on
/// @throws UsageError where there is no such key, or one at `to` already
std::vector<LiveChange> moved_focus_key(const LoadedShot& loaded, double from, double to,
                                        std::optional<Length> at = {});

/// Takes a key out. @throws UsageError where there is no such key, or it is the last one
std::vector<LiveChange> without_focus_key(const LoadedShot& loaded, double frame);

}  // namespace jolly_iris
