// Cameras in USD text (.usda): read into a Scene, written with time samples.
//
// What is read: the stage's units, up axis and time codes; prims of any kind as nodes with their
// transform ops; cameras with the attributes of the camera schema. Meshes, references, variants and
// everything else is passed over. What the schema counts in tenths of a scene unit (focal length,
// apertures) is turned into millimetres and back.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// @param time_code at which the cameras' own numbers are read, where they change; none: the first
/// @return +Y up, in metres, posed at its start; its time 0 is the stage's startTimeCode
/// @throws FileError naming line and column for text that is no usda, for an unknown transform op,
///         and for numbers that are none
Scene read_usda(const std::filesystem::path& path, std::optional<double> time_code = std::nullopt);

/// The camera of one answer, or of several frames of a shot, as a stage of one camera. Units are
/// the artist's own; `name` becomes a legal prim name.
/// @param fps time codes a second; none: 24
std::string camera_usda(const std::vector<Answer>& frames, const std::string& name,
                        std::optional<double> fps);

}  // namespace jolly_iris
