// Looks at a candidate from its middle outward, in all directions: is there a step down at about
// one distance, is it even within, is it darker beyond? Corrects place, size and squeeze on the
// way.
#pragma once

#include <string>

#include "disc_search.hpp"
#include "grey_image.hpp"

namespace jolly_iris::measuring {

struct CheckedCandidate {
  Candidate disc{};  ///< corrected
  bool is_disc = false;
  std::string why{};      ///< else, in words
  double contrast = 0.0;  ///< of the plane's values
  double quality = 0.0;   ///< 0 … 1
};

/// @param noise deviation of a pixel of the plane
CheckedCandidate probe(const GreyImage& plane, const Candidate& candidate, double noise);

}  // namespace jolly_iris::measuring
