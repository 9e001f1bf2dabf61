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
  int focus_layer = 0;  ///< the layer of no blur at all (may lie outside 0 … layers − 1)
  const DiscSet& discs;
};

/// The layer a CoC belongs to (may be negative): a third of a doubling of the blur each, so that
/// within a layer nobody stands clearly in front of another.
int layer_of(double coc_px);

/// Colour × weight, and the weights.
struct Weighted {
  explicit Weighted(PixelSize size) : colour(size), weight(colour.pixels().size(), 0.0F) {}
  Picture colour;
  std::vector<float> weight;
};

/// A joined picture with holes, and the surfaces they can be filled with. What hides something is
/// in front of it: holes beside a blurred foreground show what is in focus or farther, holes beside
/// something in focus show what is blurred behind it.
struct Joined {
  explicit Joined(PixelSize size)
      : covered(size),
        open(covered.pixels().size(), 0.0F),
        beside_front(covered.pixels().size(), 0),
        from_focus(size),
        from_behind(size) {}
  Picture covered;                 ///< colour × coverage, lamps included
  std::vector<float> open;         ///< 1 − coverage, ≥ 0
  std::vector<char> beside_front;  ///< a blurred foreground covers part of this pixel
  Weighted from_focus;             ///< surfaces in focus and behind
  Weighted from_behind;            ///< surfaces blurred behind the focus
};

/// Spreads and joins in strips of rows, on all cores.
Joined spread_and_join(const Spread& spread, const std::function<void(double)>& progress);

/// Fills what is open with surfaces within about `reach` pixels, the nearer in the picture the
/// more.
Picture fill_open(const Joined& joined, int reach);

}  // namespace jolly_iris::blur
