// The answer for other programs, in open formats.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/scene/answer.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// All numbers as JSON: the keys of docs/report-json.md, plus `world_matrix` (16 numbers,
/// column-major, metres: camera → world). Infinite distances are null.
std::string answer_json(const Answer& answer);

/// One number, truth or word of answer_json by its dotted key ("camera.focal_mm",
/// "subjects.boat.coc_px", "subjects.2.name") as plain text.
/// @throws UsageError for a key that is not there, naming the nearest
std::string answer_value(const Answer& answer, const std::string& key);

/// A glTF 2.0 file with the camera in its place: yfov and aspect ratio of the delivered picture for
/// any reader, and everything that core glTF has no word for (focus, f-number, blades …) in the
/// camera's extras. Several frames become an animation of its place, in a buffer of its own file;
/// glTF cannot animate a focal length, so yfov is that of the first frame.
/// @param fps frames a second; none: 24
std::string camera_gltf(const std::vector<Answer>& frames, const std::string& name,
                        std::optional<double> fps = std::nullopt);

}  // namespace jolly_iris
