// Many frames of a shot: which there are, what their pictures are called, the shot at each of them.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Which frames: a range, every so many; without one the shot's own.
struct FrameRequest {
  bool asked = false;
  std::optional<FrameRange> range{};
  double step = 1.0;
};

/// A range that was asked for, else the shot's own, else where its keys begin and end.
/// @throws UsageError where nothing says which frames there are
std::vector<double> chosen_frames(const FrameRequest& request, const LoadedShot& loaded);

/// A sentence where some of the frames that were asked for lie outside the shot's own; else
/// nothing.
std::string frames_doubt(const FrameRequest& request, const LoadedShot& loaded);

/// The frames that keys, pulls, a track or an animation span; none where nothing moves.
std::optional<FrameRange> moving_range(const LoadedShot& loaded);

/// The frames of a shot: its own, else those that something moves over; none: it has none.
std::optional<FrameRange> frames_of_shot(const LoadedShot& loaded);

/// "cg.####.exr", 12 → "cg.0012.exr": the last run of # stands for the number. Without a # the name
/// stays. @throws UsageError for a frame that is not whole
std::string numbered(const std::string& name, double frame);

/// @throws FileError for the first file of a sequence that is not there
void check_sequence(const std::vector<std::string>& names, const std::vector<double>& frames);

/// The shot as it is at that frame, to be called for many frames side by side. Its scene is left
/// out, but for a smear, which asks it how things move (then it is posed as `loaded` has it).
LoadedShot at_frame(const LoadedShot& loaded, double frame);

/// One picture's name a frame, for each of the given names.
std::vector<std::string> numbered(const std::vector<std::string>& names, double frame);

}  // namespace jolly_iris
