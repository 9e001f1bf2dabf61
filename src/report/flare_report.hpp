// Ghosts in words and as JSON.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/flare_run.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// Lamps, the strongest ghosts and all of them together.
std::string flare_text(const FlaredFrame& made);
void add_flare_json(const FlaredFrame& made, Json& json);

}  // namespace report
}  // namespace jolly_iris
