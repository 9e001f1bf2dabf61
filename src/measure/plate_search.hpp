// Where in a plate discs may be: looked for at all sizes and squeezes, and where hints say.
#pragma once

#include <string>
#include <vector>

#include "disc_search.hpp"
#include "jolly_iris/measure/discs.hpp"

namespace jolly_iris::measuring {

/// What looks like a disc; places and sizes are px of the plate.
struct DetectedDisc {
  Candidate disc{};
  double contrast = 0.0;
  double quality = 0.0;  ///< 0 … 1, how well its edge is an oval
  std::string name{};    ///< of the hint
};

struct PlateSearch {
  std::vector<DetectedDisc> seen{};      ///< each once, the best first
  std::vector<DetectedDisc> hinted{};    ///< where hints say; no hint without a disc
  std::vector<RejectedDisc> rejected{};  ///< what has edges like one and is none
  double noise = 0.0;                    ///< deviation of a pixel of the ground (of its root)
};

PlateSearch search_plate(const Picture& plate, const DiscHints& hints,
                         const DiscSettings& settings);

}  // namespace jolly_iris::measuring
