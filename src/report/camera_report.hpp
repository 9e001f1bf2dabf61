// The shot's camera beside those of other programs, in words and as JSON.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/other_cameras.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

std::string spoken_text(const SpokenCamera& spoken);
Json spoken_json(const SpokenCamera& spoken);

std::string deviations_text(const CameraDeviations& found, const LoadedShot& loaded);
Json deviations_json(const CameraDeviations& found);

}  // namespace report
}  // namespace jolly_iris
