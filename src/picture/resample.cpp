#include "jolly_iris/picture/resample.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "parallel.hpp"

namespace jolly_iris {

namespace {

// Within a pixel, t from 0 to 1: left + t (right − left + six (1 − t)).
struct Parabola {
  float left = 0.0F;
  float right = 0.0F;
  float six = 0.0F;
  // The light from its left end to t, of a pixel one wide.
  float up_to(float t) const {
    const float rise = right - left;
    return t * (left + t * (0.5F * (rise + six) - t * six / 3.0F));
  }
};

// One line of one channel.
class Rebuilt {
 public:
  void set(const std::vector<float>& line) {
    const std::size_t n = line.size();
    parts_.resize(n);
    sums_.resize(n + 1);
    const auto at = [&](std::size_t i, int by) {
      const auto j = static_cast<std::ptrdiff_t>(i) + by;
      return line[static_cast<std::size_t>(
          std::clamp<std::ptrdiff_t>(j, 0, static_cast<std::ptrdiff_t>(n) - 1))];
    };
    double sum = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
      const Parabola p{edge(at(i, -2), at(i, -1), line[i], at(i, 1)),
                       edge(at(i, -1), line[i], at(i, 1), at(i, 2)), 0.0F};
      parts_[i] = limited(p, line[i]);
      sums_[i] = sum;
      sum += static_cast<double>(line[i]);
    }
    sums_[n] = sum;
  }

  // The light left of x, px.
  double up_to(double x) const {
    const std::size_t n = parts_.size();
    const auto i = std::min(static_cast<std::size_t>(std::max(x, 0.0)), n - 1);
    const auto t = static_cast<float>(std::clamp(x - static_cast<double>(i), 0.0, 1.0));
    if (t >= 1.0F) return sums_[i + 1];
    return sums_[i] + static_cast<double>(parts_[i].up_to(t));
  }

 private:
  // Between b and c: the cubic through the sums of four pixels, kept between those two.
  static float edge(float a, float b, float c, float d) {
    const float v = (7.0F * (b + c) - (a + d)) / 12.0F;
    return std::clamp(v, std::min(b, c), std::max(b, c));
  }
  // No value beyond those of its two ends: crests become flat, lamps get no rings.
  static Parabola limited(Parabola p, float mean) {
    if (!((p.right - mean) * (mean - p.left) > 0.0F)) return {mean, mean, 0.0F};
    const float rise = p.right - p.left;
    const float bend = rise * (mean - 0.5F * (p.left + p.right));
    if (bend > rise * rise / 6.0F) p.left = 3.0F * mean - 2.0F * p.right;
    if (bend < -rise * rise / 6.0F) p.right = 3.0F * mean - 2.0F * p.left;
    p.six = 6.0F * (mean - 0.5F * (p.left + p.right));
    return p;
  }

  std::vector<Parabola> parts_;
  std::vector<double> sums_;  // light left of each pixel
};

// Lines are rows (or columns, read by a stride); each becomes `length` pixels long.
struct Lines {
  int count = 0;
  int old_length = 0;
  int length = 0;
};

template <class Get, class Put>
void stretch_lines(const Lines& lines, const Get& get, const Put& put) {
  const double step = static_cast<double>(lines.old_length) / lines.length;
  parallel_for(0, lines.count, [&](int k) {
    Rebuilt rebuilt;
    std::vector<float> line(static_cast<std::size_t>(lines.old_length));
    for (std::size_t c = 0; c < 4; ++c) {
      for (int i = 0; i < lines.old_length; ++i) {
        line[static_cast<std::size_t>(i)] = get(k, i)[c];
      }
      rebuilt.set(line);
      double before = 0.0;
      for (int i = 0; i < lines.length; ++i) {
        const double after = rebuilt.up_to((i + 1) * step);
        put(k, i)[c] = static_cast<float>((after - before) / step);
        before = after;
      }
    }
  });
}

}  // namespace

Frame resampled(const Frame& frame, PixelSize size) {
  if (size.width < 1 || size.height < 1) {
    throw UsageError(fmt::format("{} x {} px are no picture", size.width, size.height));
  }
  // What is read, what is made of it, and what a writer keeps of that; measured.
  require_memory(
      20.0 * static_cast<double>(frame.colour.pixels().size()) + 44.0 * size.width * size.height,
      fmt::format("stretching a picture of {} x {} pixels to {} x {}", frame.colour.width(),
                  frame.colour.height(), size.width, size.height));
  const PixelSize old = frame.colour.size();
  Picture across({size.width, old.height});
  if (size.width == old.width) {
    across = frame.colour;
  } else {
    stretch_lines(
        {old.height, old.width, size.width},
        [&](int y, int x) -> const Rgba& { return frame.colour.at(x, y); },
        [&](int y, int x) -> Rgba& { return across.at(x, y); });
  }
  Frame out{Picture(size), {}};
  if (size.height == old.height) {
    out.colour = std::move(across);
  } else {
    stretch_lines(
        {size.width, old.height, size.height},
        [&](int x, int y) -> const Rgba& { return across.at(x, y); },
        [&](int x, int y) -> Rgba& { return out.colour.at(x, y); });
  }
  if (!frame.has_depth()) return out;
  out.depth.resize(out.colour.pixels().size());
  for (int y = 0; y < size.height; ++y) {
    const auto row = static_cast<std::size_t>((y + 0.5) * old.height / size.height);
    for (int x = 0; x < size.width; ++x) {
      const auto column = static_cast<std::size_t>((x + 0.5) * old.width / size.width);
      out.depth[static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) +
                static_cast<std::size_t>(x)] =
          frame.depth[row * static_cast<std::size_t>(old.width) + column];
    }
  }
  return out;
}

}  // namespace jolly_iris
