#include "codec_step.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <utility>
#include <vector>

#include "luma_model.hpp"
#include "measure/constants.hpp"
#include "optics/quantile.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr int codec_side = 8;
using CodecBlock = std::array<double, codec_side * codec_side>;

// Frequencies across and down that edges have much of, and that codecs round coarsely already.
constexpr std::array<std::pair<int, int>, 8> frequencies{
    {{1, 1}, {2, 1}, {1, 2}, {2, 2}, {3, 1}, {1, 3}, {3, 0}, {0, 3}}};

double coefficient(const CodecBlock& block, int across, int down) {
  const auto wave = [](int frequency, int at) {
    return std::cos((2 * at + 1) * frequency * std::numbers::pi / (2 * codec_side));
  };
  double sum = 0.0;
  for (int y = 0; y < codec_side; ++y) {
    for (int x = 0; x < codec_side; ++x) {
      sum += block[static_cast<std::size_t>(y * codec_side + x)] * wave(across, x) * wave(down, y);
    }
  }
  const double root = std::sqrt(0.5);
  return 0.25 * (across == 0 ? root : 1.0) * (down == 0 ? root : 1.0) * sum;
}

// Blocks with something in them, none of it cut off.
std::vector<CodecBlock> some_blocks(const Picture& plate) {
  const LumaModel look{{}, 1.0};
  std::vector<CodecBlock> out;
  const int columns = plate.width() / codec_side;
  const int rows = plate.height() / codec_side;
  const int every = std::max(1, columns * rows / codec::looked_at);
  for (int i = 0; i < columns * rows && out.size() < codec::enough; i += every) {
    CodecBlock block{};
    double low = 1e9;
    double high = -1e9;
    for (int y = 0; y < codec_side; ++y) {
      for (int x = 0; x < codec_side; ++x) {
        const Rgba& p = plate.at(i % columns * codec_side + x, i / columns * codec_side + y);
        const double v = 255.0 * look.seen({static_cast<double>(p[0]), static_cast<double>(p[1]),
                                            static_cast<double>(p[2])})
                                     .value;
        // cppcheck-suppress containerOutOfBounds ; a block has that many
        block[static_cast<std::size_t>(y * codec_side + x)] = v;
        low = std::min(low, v);
        high = std::max(high, v);
      }
    }
    if (high - low > codec::least_contrast && high < 250.0 && low > 1.0) out.push_back(block);
  }
  return out;
}

// The largest step that sizes are multiples of; 0: none.
double step_of(const std::vector<double>& sizes) {
  for (int step = codec::largest; step >= codec::smallest; --step) {
    double sum = 0.0;
    int count = 0;
    for (const double v : sizes) {
      if (v < 0.5 * step) continue;  // none of it
      sum += std::cos(2.0 * std::numbers::pi * v / step);
      ++count;
    }
    if (count >= codec::least && sum > codec::alike * count) return step;
  }
  return 0.0;
}

}  // namespace

double codec_step(const Picture& plate) {
  const std::vector<CodecBlock> blocks = some_blocks(plate);
  std::vector<double> steps;
  for (const auto& [across, down] : frequencies) {
    std::vector<double> sizes;
    for (const CodecBlock& b : blocks) sizes.push_back(std::abs(coefficient(b, across, down)));
    if (const double step = step_of(sizes); step > 0.0) steps.push_back(step);
  }
  return 2 * steps.size() < frequencies.size() ? 0.0 : quantile(steps, 0.5);
}

}  // namespace jolly_iris::measuring
