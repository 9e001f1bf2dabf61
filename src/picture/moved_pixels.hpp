// A picture's pixels at other moments, each moved along its vector, the nearer in front.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <vector>

#include "hidden_pixels.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "pixel_ways.hpp"

namespace jolly_iris::smearing {

/// The mean of some moments, and which pixel of the picture each place shows in the middle of them.
struct Shown {
  Picture picture{};
  std::vector<std::uint32_t> from{};  ///< empty unless it was asked for
};

class MovedPixels {
 public:
  /// The frame must outlive it. @throws as smeared
  MovedPixels(const Frame& frame, const MotionVectors& vectors, const ShutterSpan& span);

  double longest_px() const { return ways_.longest_px(); }
  std::size_t unusable() const { return ways_.unusable(); }
  /// The mean from one moment to another, in frames, as `moments` of them evenly in between show
  /// it, each drawn out by `taps` places.
  Shown between(double opens, double closes, int moments, int taps, bool from,
                const Execution& execution) const;

 private:
  struct Moments;
  struct Tile;
  void find_blocks(Tile& tile) const;
  template <class F>
  void each_moved(std::uint32_t block, float t, const F& f) const;
  void show(Tile& tile, float t) const;
  void show_left(const std::vector<int>& left, const Moments& at, Shown& out,
                 const Execution& execution) const;
  void show_all(std::vector<std::atomic<std::uint64_t>>& nearest, float t) const;
  void add(Tile& tile, float t) const;
  void add_all(Tile& tile, const std::vector<float>& times) const;
  void deliver(const Tile& tile, float fraction, Shown& out) const;
  void tell_from(const Tile& tile, Shown& out) const;
  std::unique_ptr<Tile> tile_of(int number, int across) const;

  PixelWays ways_;
  std::vector<HiddenPixel> hidden_;
  std::vector<std::uint32_t> hidden_begin_;  // by block; one more at the end
  std::vector<Bounds> bounds_{};             // by block, hidden pixels included
  float longest_x_ = 0.0F;                   // px a frame
  float longest_y_ = 0.0F;
};

}  // namespace jolly_iris::smearing
