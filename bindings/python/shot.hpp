// A shot as Python holds it: loaded, and what it was asked for with, so that it can be asked again.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/workflow/load.hpp"

namespace jolly_iris::python {

struct PythonShot {
  ShotRequest request{};
  LoadedShot loaded{};
  std::vector<std::string> files{};  ///< that were read
};

}  // namespace jolly_iris::python
