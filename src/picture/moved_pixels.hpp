// A picture's pixels at other moments, each moved along its vector, the nearer in front.
#pragma once

#include <cstdint>
#include <vector>

#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/motion_vectors.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::smearing {

/// A pixel of a background that a nearer thing hides and may leave.
struct HiddenPixel {
  std::uint32_t at = 0;      ///< where it is at the frame's moment
  std::uint32_t like = 0;    ///< the pixel whose vector and depth it has
  std::uint32_t colour = 0;  ///< the pixel whose colour it has
};

/// The mean of some moments, and which pixel of the picture each place shows in the middle of them.
struct Shown {
  Picture picture{};
  std::vector<std::uint32_t> from{};  ///< empty unless it was asked for
};

class MovedPixels {
 public:
  /// Both must outlive it. @throws as smeared
  MovedPixels(const Frame& frame, const MotionVectors& vectors, const ShutterSpan& span);

  double longest_px() const { return longest_; }
  std::size_t unusable() const { return unusable_; }
  /// The mean from one moment to another, in frames, as `moments` of them evenly in between show
  /// it, each drawn out by `taps` places.
  Shown between(double opens, double closes, int moments, int taps, bool from,
                const Execution& execution) const;

 private:
  struct Bounds {  // of vectors, px a frame
    float x0 = 0.0F, x1 = 0.0F, y0 = 0.0F, y1 = 0.0F;
  };
  struct Tile;
  void clean(const ShutterSpan& span);
  void find_hidden(const ShutterSpan& span);
  void bound_blocks();
  std::uint32_t key(std::uint32_t i) const;
  bool alike(std::uint32_t a, std::uint32_t b) const;
  void show(Tile& tile, double t) const;
  void add(Tile& tile, double t) const;
  void add_all(Tile& tile, const std::vector<float>& times) const;
  void find_outlines();
  Bounds bounds_within(int column0, int column1, int row0, int row1) const;
  Bounds reaching(const Tile& tile) const;

  const Frame& frame_;
  const std::vector<float>& depth_;  // the frame's, or that of the vectors; or empty
  PixelSize size_;
  std::vector<std::array<float, 2>> v_;
  std::vector<HiddenPixel> hidden_{};
  std::vector<std::uint32_t> hidden_begin_{};  // by block; one more at the end
  std::vector<Bounds> bounds_{};               // by block
  std::vector<std::uint8_t> outline_{};        // by pixel: whether a neighbour goes another way
  int columns_ = 0;
  int rows_ = 0;
  double longest_ = 0.0;    // px
  float longest_x_ = 0.0F;  // px a frame
  float longest_y_ = 0.0F;
  double farthest_t_ = 0.0;  // frames from the frame's moment
  std::size_t unusable_ = 0;
};

}  // namespace jolly_iris::smearing
