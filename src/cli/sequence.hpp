// Pictures of a sequence, and the shot at their frames.
#pragma once

#include <string>

#include "verbs.hpp"

namespace jolly_iris::cli {

/// "cg.####.exr", 12 → "cg.0012.exr": the last run of # stands for the number. Without a # the name
/// stays. @throws UsageError for a frame that is not whole
std::string numbered(const std::string& name, double frame);

/// The shot as it is at that frame. A scene is copied only where something moves, since frames are
/// posed side by side.
LoadedShot at_frame(const LoadedShot& loaded, double frame);

}  // namespace jolly_iris::cli
