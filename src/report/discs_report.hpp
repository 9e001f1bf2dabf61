// What the discs in a plate told, in words and as JSON.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/disc_measurement.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

inline constexpr std::size_t max_rows = 40;  ///< of the table; all are in the JSON

/// @pre some disc was found
std::string discs_text(const DiscMeasurement& discs, const LoadedShot& loaded);
Json discs_json(const DiscMeasurement& discs, const LoadedShot& loaded);

/// "7 blades", "cannot tell: 5 or 7 blades".
std::string blades_words(const PlateIris& iris);

}  // namespace report
}  // namespace jolly_iris
