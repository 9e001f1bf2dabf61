// Which picture sizes a gate behind a squeeze can fill, in words and as JSON.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/files/load.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

struct SqueezeSizes {
  std::string text{};
  Json json{};
};
SqueezeSizes squeeze_sizes(const LoadedShot& loaded);

}  // namespace report
}  // namespace jolly_iris
