// Pixels sorted into layers by their blur, spread layer by layer and joined from front to back.
#pragma once

#include <functional>
#include <vector>

#include "disc.hpp"
#include "jolly_iris/picture.hpp"

namespace jolly_iris::blur {

/// What is to be spread: for each pixel its colour, its lamp share, its disc and its layer.
struct Spread {
  const Picture& colour;
  const std::vector<float>& lamp_share;
  std::vector<int> step{};   ///< of the DiscSet
  std::vector<int> layer{};  ///< 0 is the front
  int layers = 1;
  const DiscSet& discs;
};

/// The layer a CoC belongs to (may be negative): a third of a doubling of the blur each, so that
/// within a layer nobody stands clearly in front of another.
int layer_of(double coc_px);

/// A joined picture with holes: what was covered, and the farthest surfaces for filling the rest.
struct Joined {
  Picture covered{};               ///< colour × coverage, lamps included
  std::vector<float> open{};       ///< 1 − coverage, ≥ 0
  Picture behind{};                ///< colour × weight of what is farthest here
  std::vector<float> behind_weight{};
};

/// Spreads and joins in strips of rows, on all cores.
Joined spread_and_join(const Spread& spread, const std::function<void(double)>& progress);

/// Fills what is open with the farthest surfaces within `reach` pixels.
Picture fill_open(const Joined& joined, int reach);

}  // namespace jolly_iris::blur
