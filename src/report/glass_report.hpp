// What a glass is, as text and as JSON.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/glass_look.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

std::string glass_text(const GlassLook& look);
Json glass_json(const GlassLook& look);

}  // namespace report
}  // namespace jolly_iris
