// What stop, shutter, ISO and ND mean for light, in words and as JSON.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/exposure_trades.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// As rows: what, how much, and a word to it.
std::vector<std::array<std::string, 3>> exposure_rows(const LoadedShot& loaded);

/// The rows, what one stop costs whom, or the price of what was tried.
std::string take_text(const TakeExposure& exposure, const LoadedShot& loaded);
Json take_json(const TakeExposure& exposure, const LoadedShot& loaded);

/// Kelvin, tint and mired of a white.
Json white_json(const White& white);

}  // namespace report
}  // namespace jolly_iris
