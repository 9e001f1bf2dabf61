// A shot's answer as people read it: the camera to type in, who is sharp, the exposure.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/files/load.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

std::string answer_text(const LoadedShot& loaded);

}  // namespace report
}  // namespace jolly_iris
