#include "bright_things.hpp"

#include <algorithm>
#include <cmath>

#include "optics/quantile.hpp"

namespace jolly_iris::measuring {

namespace {

// Bright is what has so many times the light of the plate's median; of each thing, what has this
// share of its own peak.
constexpr float times_median = 5.0F;
constexpr float of_peak = 0.12F;
// A soft edge goes on below that for a pixel or two.
constexpr int soft_edge_px = 2;
constexpr std::size_t least_pixels = 4;

float mean_of(const Rgba& p) { return (p[0] + p[1] + p[2]) / 3.0F; }

// Runs f(x, y) for the neighbours of a pixel that are in the frame.
template <class F>
void for_neighbours(int x, int y, PixelSize size, const F& f) {
  for (int ny = std::max(0, y - 1); ny <= std::min(size.height - 1, y + 1); ++ny) {
    for (int nx = std::max(0, x - 1); nx <= std::min(size.width - 1, x + 1); ++nx) f(nx, ny);
  }
}

float median_light(const Picture& plate) {
  std::vector<float> some;
  const std::size_t every = std::max<std::size_t>(1, plate.pixels().size() / 20'000);
  for (std::size_t i = 0; i < plate.pixels().size(); i += every) {
    some.push_back(mean_of(plate.pixels()[i]));
  }
  return upper_median(some);
}

}  // namespace

BrightThings bright_things_in(const Picture& plate, double clips_at) {
  BrightThings out;
  const PixelSize size = plate.size();
  const auto width = static_cast<std::uint32_t>(size.width);
  const float median = std::max(median_light(plate), 1e-5F);
  out.threshold = times_median * median;
  std::vector<char> seen(plate.pixels().size(), 0);
  std::vector<std::vector<std::uint32_t>> found;
  for (std::uint32_t start = 0; start < seen.size(); ++start) {
    if (seen[start] != 0 || mean_of(plate.pixels()[start]) < out.threshold) continue;
    std::vector<std::uint32_t> pixels{start};
    seen[start] = 1;
    for (std::size_t k = 0; k < pixels.size(); ++k) {
      for_neighbours(static_cast<int>(pixels[k] % width), static_cast<int>(pixels[k] / width), size,
                     [&](int x, int y) {
                       const std::uint32_t n =
                           static_cast<std::uint32_t>(y) * width + static_cast<std::uint32_t>(x);
                       if (seen[n] != 0 || mean_of(plate.pixels()[n]) < out.threshold) return;
                       seen[n] = 1;
                       pixels.push_back(n);
                     });
    }
    found.push_back(std::move(pixels));
  }
  for (const std::vector<std::uint32_t>& region : found) {
    float peak = 0.0F;
    for (const std::uint32_t i : region) peak = std::max(peak, mean_of(plate.pixels()[i]));
    // A halo around a lamp is bright too: the lamp itself is what has much of the peak.
    BrightThing thing;
    thing.peak = peak;
    std::size_t core = 0;
    double light = 0.0;
    for (const std::uint32_t i : region) {
      const float v = mean_of(plate.pixels()[i]);
      if (v < of_peak * peak) continue;
      thing.pixels.push_back(i);
      ++core;
      const double x = i % width + 0.5;
      const std::uint32_t row = i / width;
      const double y = row + 0.5;
      light += static_cast<double>(v);
      thing.at[0] += static_cast<double>(v) * x;
      thing.at[1] += static_cast<double>(v) * y;
      for (const float c : {plate.pixels()[i][0], plate.pixels()[i][1], plate.pixels()[i][2]}) {
        thing.clipped = thing.clipped || (clips_at > 0.0 && static_cast<double>(c) >= clips_at);
      }
    }
    if (core < least_pixels) continue;
    thing.at = {thing.at[0] / light, thing.at[1] / light};
    thing.radius_px = std::sqrt(static_cast<double>(core) / 3.14159265358979);
    out.things.push_back(std::move(thing));
  }
  std::stable_sort(out.things.begin(), out.things.end(), [](const auto& a, const auto& b) {
    return static_cast<double>(a.peak) * static_cast<double>(a.pixels.size()) >
           static_cast<double>(b.peak) * static_cast<double>(b.pixels.size());
  });
  out.owner.assign(plate.pixels().size(), -1);
  for (std::size_t t = 0; t < out.things.size(); ++t) {
    for (const std::uint32_t i : out.things[t].pixels) out.owner[i] = static_cast<int>(t);
  }
  for (std::size_t t = 0; t < out.things.size(); ++t) {
    BrightThing& thing = out.things[t];
    std::size_t begin = 0;
    for (int k = 0; k < soft_edge_px; ++k) {
      const std::size_t end = thing.pixels.size();
      for (; begin < end; ++begin) {
        const std::uint32_t i = thing.pixels[begin];
        for_neighbours(static_cast<int>(i % width), static_cast<int>(i / width), size,
                       [&](int x, int y) {
                         const std::uint32_t n =
                             static_cast<std::uint32_t>(y) * width + static_cast<std::uint32_t>(x);
                         if (out.owner[n] >= 0) return;
                         out.owner[n] = static_cast<int>(t);
                         thing.pixels.push_back(n);
                       });
      }
    }
    for (const std::uint32_t i : thing.pixels) {
      const int x = static_cast<int>(i % width);
      const int y = static_cast<int>(i / width);
      thing.at_edge =
          thing.at_edge || x == 0 || y == 0 || x == size.width - 1 || y == size.height - 1;
      thing.reach_px =
          std::max(thing.reach_px, std::hypot(x + 0.5 - thing.at[0], y + 0.5 - thing.at[1]));
    }
  }
  return out;
}

}  // namespace jolly_iris::measuring
