#include "jolly_iris/picture/grain.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstdint>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "parallel.hpp"
#include "require_finite.hpp"
#include "to_size.hpp"

namespace jolly_iris {

namespace {

constexpr int max_reach = 64;
constexpr double reach_in_sigmas = 3.5;  // beyond, a Gaussian has 5e-4 of itself
constexpr int strip = 32;

// The normal distribution's value below which a share p lies.
// Source: Acklam's rational approximation, relative error below 1.2e-9.
double normal_quantile(double p) {
  constexpr std::array a{-3.969683028665376e+01, 2.209460984245205e+02,  -2.759285104469687e+02,
                         1.383577518672690e+02,  -3.066479806614716e+01, 2.506628277459239e+00};
  constexpr std::array b{-5.447609879822406e+01, 1.615858368580409e+02, -1.556989798598866e+02,
                         6.680131188771972e+01, -1.328068155288572e+01};
  constexpr std::array c{-7.784894002430293e-03, -3.223964580411365e-01, -2.400758277161838e+00,
                         -2.549732539343734e+00, 4.374664141464968e+00,  2.938163982698783e+00};
  constexpr std::array d{7.784695709041462e-03, 3.224671290700398e-01, 2.445134137142996e+00,
                         3.754408661907416e+00};
  const auto poly = [](const auto& of, double x) {
    double sum = 0.0;
    for (const double k : of) sum = sum * x + k;
    return sum;
  };
  constexpr double tail = 0.02425;
  if (p < tail) {
    const double q = std::sqrt(-2.0 * std::log(p));
    return poly(c, q) / (poly(d, q) * q + 1.0);
  }
  if (p > 1.0 - tail) return -normal_quantile(1.0 - p);
  const double q = p - 0.5;
  const double r = q * q;
  return poly(a, r) * q / (poly(b, r) * r + 1.0);
}

// One normal number for each of 2^16 equally likely cases.
const std::vector<float>& normals() {
  static const std::vector<float> table = [] {
    std::vector<float> out(65536);
    double sum = 0.0;
    for (std::size_t i = 0; i < out.size(); ++i) {
      const double v = normal_quantile((static_cast<double>(i) + 0.5) / 65536.0);
      sum += v * v;
      out[i] = static_cast<float>(v);
    }
    const auto scale = static_cast<float>(1.0 / std::sqrt(sum / 65536.0));
    for (float& v : out) v *= scale;
    return out;
  }();
  return table;
}

std::uint64_t mixed(std::uint64_t z) {  // Steele, Lea and Flood (2014), as Seeded has it
  z += 0x9e3779b97f4a7c15ULL;
  z = (z ^ (z >> 30U)) * 0xbf58476d1ce4e5b9ULL;
  z = (z ^ (z >> 27U)) * 0x94d049bb133111ebULL;
  return z ^ (z >> 31U);
}

struct GrainFilter {
  int reach = 0;
  std::vector<float> weights{1.0F};  // their squares add up to 1: the variance stays
};

GrainFilter filter_of(double size_px) {
  GrainFilter out;
  if (size_px <= 0.0) return out;
  out.reach = static_cast<int>(std::ceil(reach_in_sigmas * size_px));
  out.weights.clear();
  double squares = 0.0;
  for (int i = -out.reach; i <= out.reach; ++i) {
    const double w = std::exp(-0.5 * i * i / (size_px * size_px));
    squares += w * w;
    out.weights.push_back(static_cast<float>(w));
  }
  for (float& w : out.weights) w = static_cast<float>(static_cast<double>(w) / std::sqrt(squares));
  return out;
}

using Noise = std::array<float, 3>;

// Unfiltered: each pixel by its place alone.
Noise raw_noise(std::uint64_t key, int x, int y, float own, float common) {
  const std::uint64_t bits =
      mixed(key ^ mixed((static_cast<std::uint64_t>(static_cast<std::uint32_t>(y)) << 32U) |
                        static_cast<std::uint32_t>(x)));
  const float* table = normals().data();
  const float shared = common * table[bits >> 48U];
  return {own * table[bits & 0xffffU] + shared, own * table[(bits >> 16U) & 0xffffU] + shared,
          own * table[(bits >> 32U) & 0xffffU] + shared};
}

// Weighted sums of values that lie `step` apart, from each of `count` places on; by pairs, since a
// filter is the same both ways.
void soften(const float* values, std::size_t step, const GrainFilter& filter, float* out,
            std::size_t count) {
  constexpr std::size_t block = 512;  // floats that stay near
  const std::size_t last = filter.weights.size() - 1;
  for (std::size_t from = 0; from < count; from += block) {
    const std::size_t n = std::min(block, count - from);
    const float* const first = values + from;
    std::array<float, block> sum;  // of its own, so that nothing else is where it is
    const float* const middle = first + to_size(filter.reach) * step;
    const float centre = filter.weights[to_size(filter.reach)];
    for (std::size_t x = 0; x < n; ++x) sum[x] = centre * middle[x];
    for (std::size_t k = 0; k < to_size(filter.reach); ++k) {
      const float w = filter.weights[k];
      const float* const before = first + k * step;
      const float* const behind = first + (last - k) * step;
      for (std::size_t x = 0; x < n; ++x) sum[x] += w * (before[x] + behind[x]);
    }
    std::copy_n(sum.begin(), n, out + from);
  }
}

void require_grain(const Grain& grain, double size_px) {
  const auto refuse = [](const std::string& key, double value, const char* wanted) {
    throw OpticsError(fmt::format("{}: {:g} is not {}", key, value, wanted), key);
  };
  for (std::size_t c = 0; c < 3; ++c) {
    if (!(grain.black[c] >= 0.0 && grain.black[c] <= 1e3)) {
      refuse("finish.grain.black", grain.black[c], "0 or more");
    }
    if (!(grain.grey[c] >= grain.black[c] && grain.grey[c] <= 1e3)) {
      refuse("finish.grain.grey", grain.grey[c],
             "at least what it is at black: light brings noise with it");
    }
  }
  if (!(grain.alike >= 0.0 && grain.alike <= 1.0)) {
    refuse("finish.grain.alike", grain.alike, "a correlation of 0 to 1");
  }
  if (!(size_px >= 0.0 && reach_in_sigmas * size_px <= max_reach)) {
    refuse("finish.grain.size", size_px, "0 to 18 px of this picture");
  }
}

}  // namespace

Picture with_grain(Picture picture, const Grain& grain, double size_px, double frame,
                   std::array<int, 2> origin) {
  require_finite(picture);
  require_grain(grain, size_px);
  const GrainFilter filter = filter_of(size_px);
  const std::uint64_t key = mixed(grain.seed ^ mixed(std::bit_cast<std::uint64_t>(frame + 0.0)));
  const auto own = static_cast<float>(std::sqrt(1.0 - grain.alike));
  const auto common = static_cast<float>(std::sqrt(grain.alike));
  std::array<float, 3> a{};
  std::array<float, 3> b{};
  for (std::size_t c = 0; c < 3; ++c) {
    a[c] = static_cast<float>(grain.black[c] * grain.black[c]);
    b[c] = static_cast<float>((grain.grey[c] * grain.grey[c] - grain.black[c] * grain.black[c]) /
                              grey_value);
  }
  const int reach = filter.reach;
  const std::size_t width = to_size(picture.width());
  const std::size_t wide = width + to_size(2 * reach);
  parallel_for(0, (picture.height() + strip - 1) / strip, [&](int s) {
    const int top = s * strip;
    const int bottom = std::min(picture.height(), top + strip);
    const std::size_t count = to_size(bottom - top + 2 * reach);
    // A plane for each colour, filtered along its rows.
    std::array<std::vector<float>, 3> raw;
    std::array<std::vector<float>, 3> rows;
    for (std::size_t c = 0; c < 3; ++c) {
      raw[c].resize(wide);
      rows[c].resize(width * count);
    }
    for (int y = top - reach; y < bottom + reach; ++y) {
      for (std::size_t x = 0; x < wide; ++x) {
        const Noise n =
            raw_noise(key, static_cast<int>(x) - reach + origin[0], y + origin[1], own, common);
        for (std::size_t c = 0; c < 3; ++c) raw[c][x] = n[c];
      }
      for (std::size_t c = 0; c < 3; ++c) {
        soften(raw[c].data(), 1, filter, rows[c].data() + width * to_size(y - top + reach), width);
      }
    }
    std::array<std::vector<float>, 3> noise;
    for (auto& n : noise) n.resize(width);
    for (int y = top; y < bottom; ++y) {
      for (std::size_t c = 0; c < 3; ++c) {
        soften(rows[c].data() + width * to_size(y - top), width, filter, noise[c].data(), width);
      }
      Rgba* line = picture.pixels().data() + to_size(y) * width;
      for (std::size_t x = 0; x < width; ++x) {
        Rgba& p = line[x];
        for (std::size_t c = 0; c < 3; ++c) {
          p[c] += std::sqrt(a[c] + b[c] * std::max(0.0F, p[c])) * noise[c][x];
        }
      }
    }
  });
  return picture;
}

}  // namespace jolly_iris
