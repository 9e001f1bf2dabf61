#include "jolly_iris/picture/mend_numbers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>
#include <optional>
#include <utility>
#include <vector>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

constexpr double most_of_it = 0.1;

bool is_number(const Rgba& p) { return std::isfinite(p[0] + p[1] + p[2] + p[3]); }

bool all_numbers(const Rgba& p) {
  return std::all_of(p.begin(), p.end(), [](float v) { return std::isfinite(v); });
}

// Places of what is broken. The sum of large numbers may overflow where each is one.
std::vector<std::size_t> broken_colours(const Picture& picture) {
  std::vector<std::size_t> found;
  for (std::size_t i = 0; i < picture.pixels().size(); ++i) {
    const Rgba& p = picture.pixels()[i];
    if (!is_number(p) && !all_numbers(p)) found.push_back(i);
  }
  return found;
}

std::vector<std::size_t> broken_depths(const Frame& frame) {
  std::vector<std::size_t> found;
  for (std::size_t i = 0; i < frame.depth.size(); ++i) {
    if (std::isnan(frame.depth[i])) found.push_back(i);
  }
  return found;
}

// Calls with each of the eight pixels beside one.
template <class See>
void beside(std::size_t i, PixelSize size, const See& see) {
  const auto width = static_cast<std::size_t>(size.width);
  const int x = static_cast<int>(i % width);
  const int y = static_cast<int>(i / width);
  for (int v = std::max(0, y - 1); v <= std::min(size.height - 1, y + 1); ++v) {
    for (int u = std::max(0, x - 1); u <= std::min(size.width - 1, x + 1); ++u) {
      if (u != x || v != y) see(static_cast<std::size_t>(v) * width + static_cast<std::size_t>(u));
    }
  }
}

// In rounds: each mends what has something whole beside it, all by what was whole before.
template <class Value, class Mean, class Put>
void inwards(std::vector<std::size_t> broken, const Mean& mean, const Put& put) {
  while (!broken.empty()) {
    std::vector<std::pair<std::size_t, Value>> mended;
    std::vector<std::size_t> left;
    for (const std::size_t i : broken) {
      if (const auto value = mean(i)) {
        mended.emplace_back(i, *value);
      } else {
        left.push_back(i);
      }
    }
    for (const auto& [i, value] : mended) put(i, value);
    if (mended.empty()) return;
    broken = std::move(left);
  }
}

std::optional<Rgba> mean_beside(const Picture& picture, std::size_t i) {
  std::array<double, 4> sum{};
  int n = 0;
  beside(i, picture.size(), [&](std::size_t k) {
    const Rgba& p = picture.pixels()[k];
    if (!all_numbers(p)) return;
    for (std::size_t c = 0; c < 4; ++c) sum[c] += static_cast<double>(p[c]);
    ++n;
  });
  if (n == 0) return std::nullopt;
  Rgba mean{};
  for (std::size_t c = 0; c < 4; ++c) mean[c] = static_cast<float>(sum[c] / n);
  return mean;
}

std::optional<float> nearest_beside(const Frame& frame, std::size_t i) {
  std::optional<float> nearest;
  beside(i, frame.colour.size(), [&](std::size_t k) {
    const float z = frame.depth[k];
    if (!std::isnan(z) && (!nearest || z < *nearest)) nearest = z;
  });
  return nearest;
}

}  // namespace

MendedNumbers mend_numbers(Frame& frame) {
  const std::vector<std::size_t> colours = broken_colours(frame.colour);
  const std::vector<std::size_t> depths = broken_depths(frame);
  std::vector<std::size_t> all;
  std::set_union(colours.begin(), colours.end(), depths.begin(), depths.end(),
                 std::back_inserter(all));
  if (all.empty()) return {};
  const auto width = static_cast<std::size_t>(frame.colour.width());
  const MendedNumbers mended{
      all.size(), {static_cast<int>(all.front() % width), static_cast<int>(all.front() / width)}};
  const double share =
      static_cast<double>(all.size()) / static_cast<double>(frame.colour.pixels().size());
  if (share > most_of_it) {
    throw PictureError(fmt::format(
        "{:.0f} % of its pixels are no numbers (NaN or infinity), the first at {}, {}: what made "
        "it went wrong",
        100.0 * share, mended.first[0], mended.first[1]));
  }
  inwards<Rgba>(
      colours, [&](std::size_t i) { return mean_beside(frame.colour, i); },
      [&](std::size_t i, const Rgba& p) { frame.colour.pixels()[i] = p; });
  inwards<float>(
      depths, [&](std::size_t i) { return nearest_beside(frame, i); },
      [&](std::size_t i, float z) { frame.depth[i] = z; });
  return mended;
}

}  // namespace jolly_iris
