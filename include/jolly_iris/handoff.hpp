// The answer for other programs, in open formats.
#pragma once

#include <string>

#include "jolly_iris/answer.hpp"

namespace jolly_iris {

/// All numbers as JSON: the keys of docs/report-json.md, plus `world_matrix` (16 numbers,
/// column-major, metres: camera → world). Infinite distances are null.
std::string answer_json(const Answer& answer);

/// One number, truth or word of answer_json by its dotted key ("camera.focal_mm",
/// "subjects.boat.coc_px", "subjects.2.name") as plain text.
/// @throws UsageError for a key that is not there, naming the nearest
std::string answer_value(const Answer& answer, const std::string& key);

/// The same for any JSON text that our verbs print.
std::string json_value(const std::string& json, const std::string& key);

/// A glTF 2.0 file with the camera in its place: yfov and aspect ratio of the delivered picture
/// (its width shows the gate's whole width) for any reader, and everything that core glTF has no
/// word for (focus, f-number, blades …) in the camera's extras.
std::string camera_gltf(const Answer& answer, const std::string& name);

}  // namespace jolly_iris
