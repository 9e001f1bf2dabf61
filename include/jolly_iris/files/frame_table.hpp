// The focus table: a shot's answers over frames, as CSV and JSON for other programs.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/scene/answer.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One line a frame: focus, mark, limits, camera, and for each subject its axial distance, its CoC
/// and (if the shot has depth pictures) its depth as they count. Subjects that are behind the
/// camera are blank; infinity is written "inf". Columns are named with their unit, subjects "NAME
/// axial_m".
std::string frames_csv(const std::vector<Answer>& frames);

/// {"frames": [{"frame", "focus_m", …, "subjects": {"boat": {…}}}]}
std::string frames_json(const std::vector<Answer>& frames);

}  // namespace jolly_iris
