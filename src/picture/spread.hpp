// Every pixel of a picture spread over its disc, in layers of like blur, and the layers joined from
// front to back.
#pragma once

#include <atomic>
#include <cstdint>
#include <functional>
#include <memory>
#include <vector>

#include "disc_table.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "large_memory.hpp"

namespace jolly_iris::blur {

inline constexpr double layers_an_octave = 3.0;  ///< of blur

/// The layer a CoC belongs to (may be negative): a third of a doubling of the blur each, so that
/// within a layer nobody stands clearly in front of another.
int layer_of(double coc_px);

/// A lamp: a pixel far brighter than all around it. Its disc is its own.
struct Lamp {
  int x = 0;
  int y = 0;
  int layer = 0;
  const Disc* disc = nullptr;
  std::array<float, 3> light{};  ///< vignetted
};

/// A pixel's light beyond what sums of differences hold exactly beside dark pixels.
struct Excess {
  int x = 0;
  std::array<float, 3> light{};
};

/// What is to be spread.
struct Spread {
  PixelSize size{};
  bool with_alpha = false;
  FrameEdge edge = FrameEdge::repeat;
  std::vector<std::int16_t> step{};           ///< of each pixel's CoC
  int first_step = 0;                         ///< the least
  std::vector<std::int8_t> layer_of_step{};   ///< from first_step on; layer 0 is the front
  std::vector<Lamp> lamps{};                  ///< in any order
  std::vector<std::vector<Excess>> excess{};  ///< by row; empty if there is none
  int layers = 1;
  int focus_layer = 0;  ///< the layer of no blur at all (may lie outside 0 … layers − 1)

  int channels() const;
  int layer_at(std::size_t pixel) const {
    return layer_of_step[static_cast<std::size_t>(step[pixel] - first_step)];
  }

  /// Room for surfaces (red, green, blue, coverage; with alpha, that and three unused), vignetted,
  /// in rows that have a margin at both sides. Not filled.
  void make_surface(int side_margin);
  float* surface_at(int y, int x) { return surface.get() + surface_index(y, x); }
  const float* surface_at(int y, int x) const { return surface.get() + surface_index(y, x); }
  int margin = 0;

 private:
  std::size_t surface_index(int y, int x) const {
    return (static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width + 2 * margin) +
            static_cast<std::size_t>(x + margin)) *
           static_cast<std::size_t>(channels());
  }
  LargeArray<float> surface{};
};

/// One picture with its discs.
struct Pass {
  Spread spread{};
  DiscTable table;
  std::vector<Disc> own{};  ///< lamps' own discs
};

/// Sums for filling what was hidden, at half the size: colour × weight, alpha, weight.
struct FillSums {
  int width = 0;
  int height = 0;
  LargeArray<std::array<float, 5>> cells{};
};

/// A joined picture with holes, and the surfaces they can be filled with, by where those are. What
/// hides something is in front of it: holes beside a blurred foreground show what is in focus or
/// farther, holes beside something in focus show what is blurred behind it. Memory is not filled:
/// each strip does so with its rows.
struct Composite {
  explicit Composite(PixelSize size);
  Picture covered;                 ///< colour × coverage, lamps included
  LargeArray<float> open;          ///< 1 − coverage, ≥ 0
  LargeArray<char> beside_front;   ///< a blurred foreground covers part of this pixel
  FillSums front;                  ///< surfaces blurred in front of the focus
  FillSums focus;                  ///< surfaces in focus
  FillSums behind;                 ///< surfaces blurred behind it
  std::atomic<bool> holes{false};  ///< whether any pixel is open
};

class StripLayers;

/// Brings all light that falls into rows [top, bottom) to their layers.
using Gather = std::function<void(StripLayers&, int top, int bottom)>;

/// Spreads and joins in strips of rows, on all cores.
std::unique_ptr<Composite> spread_and_join(Pass& pass, const Execution& execution);
/// The same with another way of gathering: what comparisons measure against.
/// @param margin px that rows have beyond the picture at both sides
std::unique_ptr<Composite> gather_and_join(const Spread& spread, int margin, const Gather& gather,
                                           const Execution& execution);

/// Fills what is open with surfaces within about `reach` pixels, the nearer in the picture the
/// more.
Picture fill_open(std::unique_ptr<Composite> joined, int reach);

}  // namespace jolly_iris::blur
