// What a look at a picture's light found, in words and as JSON.
#pragma once

#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/exposure_frames.hpp"
#include "jolly_iris/workflow/exposure_look.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

std::string look_text(const ExposureLook& look, const LoadedShot& loaded);
Json look_json(const ExposureLook& look);

/// A line a frame. @param applied whether what was applied is told, too
std::string exposed_table(const std::vector<ExposedFrame>& frames, bool applied);
Json exposed_json(const std::vector<ExposedFrame>& frames);

}  // namespace report
}  // namespace jolly_iris
