// Many frames of a shot: which there are, what their pictures are called, the shot at each of them.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/frame_name.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Frames from first to last, every so many.
struct FrameSpan {
  FrameRange range{};
  double step = 0.0;  ///< 0: that of the request, and then the last one is among them
};

/// Which of several tasks this one is: number `number` of `count`, from 1.
struct FramePart {
  int number = 1;
  int count = 1;
};

/// Which frames: spans of them, without any the shot's own; of all these one part.
struct FrameRequest {
  bool asked = false;
  std::vector<FrameSpan> spans{};
  double step = 1.0;
  FramePart part{};
};

/// "1001-1097", "1003", "1001,1004", "1001-1097x4" (every fourth), "all" and several of these with
/// commas between; frames before 0 have their minus: "-8--1".
/// @return none for "all"
/// @throws UsageError for anything else
std::vector<FrameSpan> frame_spans(const std::string& text);

/// "2/8". @throws UsageError for anything else, a number below 1 or above its count
FramePart frame_part(const std::string& text);

/// What was asked for, else the shot's own frames, else those where its keys begin and end; each
/// once, in order. Of a part: its share of these, one after another, all parts as large but for one
/// frame; none where there are more parts than frames.
/// @throws UsageError where nothing says which frames there are, and for more than a hundred
///         thousand
std::vector<double> chosen_frames(const FrameRequest& request, const LoadedShot& loaded);

/// A sentence where some of the frames that were asked for lie outside the shot's own; else
/// nothing.
std::string frames_doubt(const FrameRequest& request, const LoadedShot& loaded);

/// The frames that keys, pulls, a track or an animation span; none where nothing moves.
std::optional<FrameRange> moving_range(const LoadedShot& loaded);

/// The frames of a shot: its own, else those that something moves over; none: it has none.
std::optional<FrameRange> frames_of_shot(const LoadedShot& loaded);

/// @throws UsageError for a name without #, which would be one picture for all frames
void require_numbered(const std::vector<std::string>& names);

/// @throws FileError for the first file of a sequence that is not there
void check_sequence(const std::vector<std::string>& names, const std::vector<double>& frames);

/// The plate's file with its ####, one picture a frame. @param why ends the sentence "names no
/// plate …", e.g. "to match"
/// @throws UsageError where the shot names no plate, or one picture
const std::string& sequence_of_plate(const LoadedShot& loaded, const std::string& why);

/// The shot with its scene as it is at that frame.
LoadedShot posed_at_frame(const LoadedShot& loaded, double frame);

/// The shot as it is at that frame, to be called for many frames side by side. Its scene is left
/// out, but for a smear, which asks it how things move (then it is posed as `loaded` has it).
LoadedShot at_frame(const LoadedShot& loaded, double frame);

/// One picture's name a frame, for each of the given names.
std::vector<std::string> numbered(const std::vector<std::string>& names, double frame);

}  // namespace jolly_iris
