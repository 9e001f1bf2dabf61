// What drawn edges told, in words and as JSON.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/line_measurement.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

std::string lines_text(const LineMeasurement& both, const LoadedShot& loaded);
Json lines_json(const LineMeasurement& both, const LoadedShot& loaded);

}  // namespace report
}  // namespace jolly_iris
