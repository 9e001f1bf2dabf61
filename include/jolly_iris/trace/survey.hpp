// What a camera sees where, as a coarse grid: for pointing at things in a picture.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A grid over the (undistorted) picture, row by row from the top.
struct Survey {
  PixelSize size{};
  std::vector<float> depth{};        ///< axial, metres; infinity where nothing is
  std::vector<int> thing{};          ///< index into `names`, −1: none
  std::vector<std::string> names{};  ///< of nodes, or of the nearest named one above
};

}  // namespace jolly_iris
