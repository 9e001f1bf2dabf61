// What plates of one camera and file have in common, as discs of one of them showed it.
#pragma once

#include <vector>

#include "disc_fit.hpp"
#include "jolly_iris/measure/discs.hpp"
#include "plate_iris.hpp"

namespace jolly_iris {

class PlateLook {
 public:
  PixelSize size{};
  std::vector<measuring::LikelyKernel> kernels{};
  measuring::PooledIris iris{};
  bool vignetting = false;  ///< whether a barrel cuts discs
  double aspect = 1.0;      ///< width over height of its discs
  std::size_t discs = 0;    ///< that told it
};

}  // namespace jolly_iris
