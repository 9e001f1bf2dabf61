#include "pixel_ways.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <bit>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "parallel.hpp"
#include "require_finite.hpp"
#include "to_size.hpp"

namespace jolly_iris::smearing {

namespace {

// One depth is clearly behind another from this ratio on.
constexpr float behind_ratio = 1.03F;
// A vector this many frames long is rubbish that a renderer left where it knew none.
constexpr double longest_in_frames = 4.0;

constexpr Bounds no_bounds{std::numeric_limits<float>::max(), std::numeric_limits<float>::lowest(),
                           std::numeric_limits<float>::max(), std::numeric_limits<float>::lowest()};

}  // namespace

void Bounds::hold(const std::array<float, 2>& v) { hold(Bounds{v[0], v[0], v[1], v[1]}); }

void Bounds::hold(const Bounds& b) {
  *this = {std::min(x0, b.x0), std::max(x1, b.x1), std::min(y0, b.y0), std::max(y1, b.y1)};
}

PixelWays::PixelWays(const Frame& frame, const MotionVectors& vectors, const ShutterSpan& span)
    : frame_(frame),
      span_(span),
      own_depth_(frame.has_depth() ? std::vector<float>{} : vectors.depth),
      size_(frame.colour.size()),
      columns_((size_.width + block_px - 1) / block_px),
      rows_((size_.height + block_px - 1) / block_px),
      farthest_(static_cast<float>(std::max(std::abs(span.opens), std::abs(span.closes)))),
      v_(vectors.px_a_frame) {
  require_sound(vectors);
  clean();
  bound_blocks();
  find_outlines();
}

void PixelWays::require_sound(const MotionVectors& vectors) const {
  require_finite(frame_.colour);
  if (vectors.size != size_ || v_.size() != frame_.colour.pixels().size()) {
    throw PictureError(fmt::format("the vectors are {} x {} px, but the picture is {} x {}",
                                   vectors.size.width, vectors.size.height, size_.width,
                                   size_.height));
  }
  const std::vector<float>& z = depth();
  if (z.empty()) return;
  if (z.size() != v_.size()) {
    throw PictureError("the depth picture has another size than the colour");
  }
  const std::size_t i = first_of(z.size(), [&](std::size_t k) { return !(z[k] > 0.0F); });
  if (i == z.size()) return;
  refuse_pixel(frame_.colour, i,
               fmt::format("the depth is {:g}, which is not in front of the camera,", z[i]));
}

void PixelWays::clean() {
  const double time = span_.closes - span_.opens;
  const double most = longest_in_frames * (size_.width + size_.height) / time;
  std::vector<double> longest(to_size(size_.height), 0.0);
  std::atomic<std::size_t> unusable{0};
  parallel_for(0, size_.height, [&](int y) {
    std::size_t here = 0;
    for (int x = 0; x < size_.width; ++x) {
      auto& v = v_[index(x, y)];
      const double length = std::hypot(static_cast<double>(v[0]), static_cast<double>(v[1]));
      if (!(length <= most)) {  // NaN too
        v = {0.0F, 0.0F};
        ++here;
        continue;
      }
      longest[to_size(y)] = std::max(longest[to_size(y)], length);
    }
    unusable.fetch_add(here);
  });
  longest_ = *std::max_element(longest.begin(), longest.end()) * time;
  unusable_ = unusable;
}

void PixelWays::bound_blocks() {
  bounds_.resize(to_size(columns_) * to_size(rows_));
  parallel_for(0, rows_, [&](int row) {
    for (int column = 0; column < columns_; ++column) {
      Bounds b = no_bounds;
      in_block(column, row, size_, [&](int x, int y) { b.hold(v_[index(x, y)]); });
      bounds_[to_size(row) * to_size(columns_) + to_size(column)] = b;
    }
  });
}

void PixelWays::find_outlines() {
  outline_.assign(v_.size(), 0);
  const float most = together_px / farthest_;
  parallel_for(0, rows_, [&](int row) {
    for (int column = 0; column < columns_; ++column) {
      Bounds b = no_bounds;
      for (int r = std::max(0, row - 1); r <= std::min(rows_ - 1, row + 1); ++r) {
        for (int c = std::max(0, column - 1); c <= std::min(columns_ - 1, column + 1); ++c) {
          b.hold(bounds_[to_size(r) * to_size(columns_) + to_size(c)]);
        }
      }
      if (b.x1 - b.x0 <= most && b.y1 - b.y0 <= most) continue;
      in_block(column, row, size_, [&](int x, int y) {
        const std::uint32_t i = index(x, y);
        for (int ny = std::max(0, y - 1); ny <= std::min(size_.height - 1, y + 1); ++ny) {
          for (int nx = std::max(0, x - 1); nx <= std::min(size_.width - 1, x + 1); ++nx) {
            if (!alike(i, index(nx, ny))) outline_[i] = 1;
          }
        }
      });
    }
  });
}

std::uint32_t PixelWays::key(std::uint32_t i) const {
  // Floats above zero count as their bits do.
  if (!depth().empty()) return std::bit_cast<std::uint32_t>(depth()[i]);
  return ~std::bit_cast<std::uint32_t>(v_[i][0] * v_[i][0] + v_[i][1] * v_[i][1]);
}

bool PixelWays::behind(std::uint32_t far, std::uint32_t near) const {
  if (depth().empty()) return key(far) > key(near);
  return depth()[far] > behind_ratio * depth()[near];
}

bool PixelWays::alike(std::uint32_t a, std::uint32_t b) const {
  const float most = together_px / farthest_;
  return std::abs(v_[a][0] - v_[b][0]) <= most && std::abs(v_[a][1] - v_[b][1]) <= most;
}

std::size_t PixelWays::block_of(std::uint32_t pixel) const {
  const auto width = static_cast<std::uint32_t>(size_.width);
  return to_size(columns_) * (pixel / width / block_px) + pixel % width / block_px;
}

}  // namespace jolly_iris::smearing
