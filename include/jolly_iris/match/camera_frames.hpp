// A camera over frames, out of what each frame of a plate shows: focus, stop, focal length, and by
// how much the picture became brighter or warmer, each with its margin and as one smooth curve.
//
//   const CameraFrames c = follow_camera(frames);
//   const FollowedValue& focus = *c.value(Parameter::focus);
//   focus.at[i].curve, .margin;  focus.moves       // dioptres, and what the hand on the ring did
//
// What stays the same in all frames (the gate, the scene's scale, and stop and focal length as far
// as they stand still) is told by several frames together, then each frame tells what is its own.
// Discs grow on both sides of the focus: which side it is, is asked of all frames at once, along
// the way of the focus that goes least far out of its way (Viterbi 1967, over a grid of dioptres).
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/match/match.hpp"
#include "jolly_iris/match/moves.hpp"
#include "jolly_iris/match/value_curve.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What a lamp sends through the lens.
struct LampLight {
  std::string name{};
  std::array<double, 3> light{};  ///< all of its disc, linear RGB
  Length z{};
};

struct NotedFrame {
  double frame = 0.0;
  CameraEstimate estimate{};        ///< the notes at that frame
  std::vector<Observation> seen{};  ///< may be empty: nothing was seen
  std::vector<LampLight> lights{};  ///< of discs that are not clipped
  /// Discs of lamps whose distances nobody knows, named by their tracks. They count where no frame
  /// has any other.
  std::vector<Observation> unplaced{};
};

/// Values are counted where they feel even: focus in dioptres, stops in stops of the f-number (2
/// log₂ N), focal lengths by their logarithm, white in mired against the first frame; exposure in
/// stops against the first frame; so is the change of a focus, in dioptres.
struct FrameValue {
  double frame = 0.0;
  double noted = 0.0;             ///< of exposure and white 0: notes do not tell them by frames
  std::optional<double> value{};  ///< what this frame alone tells
  double value_margin = 0.0;      ///< two deviations
  double curve = 0.0;
  double margin = 0.0;  ///< of the curve, two deviations, with what is off in all frames alike
};

struct FollowedValue {
  Parameter of = Parameter::focus;
  std::vector<FrameValue> at{};  ///< one for each frame
  Moves moves{};                 ///< none: it stood still
  bool relative = false;         ///< only how it changes is told
};

struct CameraFrames {
  std::vector<FollowedValue> values{};
  /// Of several frames together: what is the same in all of them.
  std::vector<FittedParameter> common{};
  std::vector<double> told_by{};  ///< those frames
  std::size_t seen = 0;           ///< frames that tell anything
  /// Only how the focus changes was asked: no lamp's distance is known.
  bool relative = false;
  std::size_t lamps = 0;  ///< then: how many told it
  /// Then: whether it comes nearer or goes farther neither discs nor notes tell; all of its change
  /// may as well be mirrored.
  bool way_open = false;
  std::string untold{};  ///< why the focus is not told, where it is not
  /// A focus on the other side of the lamps would explain their discs about as well: the side is
  /// the notes'. One more lamp, at another distance, would settle it.
  bool two_sides = false;
  bool notes_disagree = false;  ///< what stays the same is not as noted, beyond its margins
  /// Root mean square of what is left over of discs, px.
  double residual_px = 0.0;

  const FollowedValue* value(Parameter of) const {
    for (const FollowedValue& v : values) {
      if (v.of == of) return &v;
    }
    return nullptr;
  }
};

/// The number that curves are made of, and back.
double evenly_counted(Parameter of, double value);
double as_written(Parameter of, double even);

struct CameraFramesSettings {
  std::vector<PriorOverride> doubts{};  ///< notes that are believed otherwise than usual
  Execution execution{};
};

/// @param frames by rising number; a frame without observations is bridged
/// @return focus, stop, focal length; exposure and white where lamps are seen in several frames.
///         Where no lamp's distance is known: focus_change instead of the first three, as far as
///         stop, focal length and the places of camera and lamps are as noted
/// @throws UsageError for frames that do not rise; OpticsError where no frame shows a disc, or no
///         camera fits; Cancelled
CameraFrames follow_camera(const std::vector<NotedFrame>& frames,
                           const CameraFramesSettings& settings = {});

}  // namespace jolly_iris
