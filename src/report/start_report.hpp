// What a shot was begun from, and what of it is guessed.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/start_shot.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// @param file that was written
std::string started_text(const StartedShot& shot, const std::string& file);
Json started_json(const StartedShot& shot, const std::string& file);

}  // namespace report
}  // namespace jolly_iris
