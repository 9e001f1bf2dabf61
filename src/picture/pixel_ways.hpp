// How each pixel of a picture goes while a shutter is open, and who goes with whom.
#pragma once

#include <array>
#include <atomic>
#include <cstdint>
#include <vector>

#include "jolly_iris/picture/motion_vectors.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::smearing {

/// Pixels are looked at in square blocks with so many to a side.
inline constexpr int block_px = 16;
/// Things that part by less than this while the shutter is open are drawn as one.
inline constexpr float together_px = 0.5F;

/// How the pixels of a block go, px a frame.
struct Bounds {
  float x0 = 0.0F, x1 = 0.0F, y0 = 0.0F, y1 = 0.0F;
  void hold(const std::array<float, 2>& v);
  void hold(const Bounds& b);
};

class PixelWays {
 public:
  /// The frame must outlive it. @throws as smeared
  PixelWays(const Frame& frame, const MotionVectors& vectors, const ShutterSpan& span);

  PixelSize size() const { return size_; }
  std::uint32_t count() const { return static_cast<std::uint32_t>(v_.size()); }
  std::uint32_t index(int x, int y) const {
    return static_cast<std::uint32_t>(y) * static_cast<std::uint32_t>(size_.width) +
           static_cast<std::uint32_t>(x);
  }
  bool within(int x, int y) const {
    return x >= 0 && y >= 0 && x < size_.width && y < size_.height;
  }
  const Frame& frame() const { return frame_; }
  const ShutterSpan& span() const { return span_; }
  /// Frames from the frame's own moment to the farther end of the shutter's time.
  float farthest() const { return farthest_; }
  const std::array<float, 2>& at(std::uint32_t i) const { return v_[i]; }
  /// The lower, the nearer: by depth, or without one by who goes farther.
  std::uint32_t key(std::uint32_t i) const;
  /// Clearly: a slope is not behind itself.
  bool behind(std::uint32_t far, std::uint32_t near) const;
  bool alike(std::uint32_t a, std::uint32_t b) const;
  /// Whether a neighbour goes another way: only there who is who has to be asked.
  bool at_outline(std::uint32_t i) const { return outline_[i] != 0; }

  double longest_px() const { return longest_; }
  std::size_t unusable() const { return unusable_; }

  int columns() const { return columns_; }
  int rows() const { return rows_; }
  const Bounds& block(std::size_t number) const { return bounds_[number]; }
  std::size_t block_of(std::uint32_t pixel) const;

 private:
  void require_sound(const MotionVectors& vectors) const;
  void clean();
  void bound_blocks();
  void find_outlines();

  const Frame& frame_;
  ShutterSpan span_;
  std::vector<float> own_depth_{};  // of the vectors, where the frame has none
  PixelSize size_;
  int columns_;
  int rows_;
  float farthest_;
  std::vector<std::array<float, 2>> v_;
  std::vector<Bounds> bounds_{};
  std::vector<std::uint8_t> outline_{};
  double longest_ = 0.0;
  std::size_t unusable_ = 0;

  const std::vector<float>& depth() const { return frame_.has_depth() ? frame_.depth : own_depth_; }
};

/// Of all values that threads bring, the least stays, whoever comes first.
inline void keep_least(std::atomic<std::uint64_t>& of, std::uint64_t value) {
  std::uint64_t now = of.load(std::memory_order_relaxed);
  while (value < now && !of.compare_exchange_weak(now, value, std::memory_order_relaxed)) {
  }
}

/// Runs f(x, y) for each pixel of a block.
template <class F>
void in_block(int column, int row, PixelSize size, const F& f) {
  const int x1 = size.width < (column + 1) * block_px ? size.width : (column + 1) * block_px;
  const int y1 = size.height < (row + 1) * block_px ? size.height : (row + 1) * block_px;
  for (int y = row * block_px; y < y1; ++y) {
    for (int x = column * block_px; x < x1; ++x) f(x, y);
  }
}

}  // namespace jolly_iris::smearing
