// The grain of plates whose grain is known, made without the library's own.
#include <gtest/gtest.h>

#include <cmath>

#include "plates/grained.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace grain_test {

using testing::holds;

// Two standard deviations hold in 95 of 100; so many of n may be outside at 99 %.
int misses_allowed(int n) {
  return static_cast<int>(std::ceil(0.05 * n + 2.58 * std::sqrt(0.0475 * n)));
}

TEST(GrainInPlate, IsToldOfHalfFloatsWithinFivePercent) {
  constexpr int plates = 8;
  int levels_off = 0;
  int outside = 0;
  for (std::uint32_t seed = 7001; seed < 7001 + plates; ++seed) {
    const plates::GrainedPlate p = plates::grained_plate(seed, false);
    const GrainFinding f = grain_in(p.picture);
    if (p.textured > 0.5 && !f.grain) continue;
    ASSERT_TRUE(f.grain) << seed << ": " << f.no_grain;
    const GrainInPlate& g = *f.grain;
    for (std::size_t c = 0; c < 3; ++c) {
      const double a = p.black[c] * p.black[c];
      const double truth = std::sqrt(a + (p.grey[c] * p.grey[c] - a) / 0.18 * g.level[c]);
      levels_off += std::abs(g.at_level[c].value / truth - 1.0) > 0.05;
      outside += std::abs(g.at_level[c].value - truth) > g.at_level[c].margin;
    }
    EXPECT_NEAR(g.size_px.value, p.size_px, 0.15) << seed;
    EXPECT_NEAR(g.alike.value, p.alike, 0.05) << seed;
  }
  EXPECT_EQ(levels_off, 0);
  EXPECT_LE(outside, misses_allowed(3 * plates));
}

TEST(GrainInPlate, OfJpegIsAsTheFileHasIt) {
  constexpr int plates = 5;
  int told = 0;
  int levels = 0;
  int outside = 0;
  for (std::uint32_t seed = 7101; seed < 7101 + plates; ++seed) {
    const plates::GrainedPlate p = plates::grained_plate(seed, true);
    const GrainFinding f = grain_in(p.picture, {.steps = 255.0});
    if (!f.grain || p.textured > 0.5) continue;
    ++told;
    for (std::size_t c = 0; c < 3; ++c) {
      const double a = p.black[c] * p.black[c];
      const double truth = std::sqrt(a + (p.grey[c] * p.grey[c] - a) / 0.18 * f.grain->level[c]);
      ++levels;
      outside += std::abs(f.grain->at_level[c].value - truth) > f.grain->at_level[c].margin;
    }
  }
  EXPECT_GE(told, 3);
  EXPECT_LE(outside, misses_allowed(levels));
}

TEST(GrainInPlate, TextureAloneAndEvenPicturesAreNotGrain) {
  Picture texture({256, 256}, {0, 0, 0, 1});
  for (int y = 0; y < 256; ++y) {
    for (int x = 0; x < 256; ++x) {
      const auto v = static_cast<float>(0.2 * (1.0 + plates::grained::texture(x, y, 5)));
      texture.at(x, y) = {v, v, v, 1.0F};
    }
  }
  const GrainFinding none = grain_in(texture, {.steps = 255.0});
  EXPECT_FALSE(none.grain && none.grain->at_level[1].value > 0.001 &&
               none.grain->at_level[1].margin < 0.5 * none.grain->at_level[1].value);
  const GrainFinding even =
      grain_in(Picture({256, 256}, {0.2F, 0.2F, 0.2F, 1.0F}), {.steps = 255.0});
  EXPECT_FALSE(even.grain);
  EXPECT_FALSE(even.no_grain.empty());
  const GrainFinding black = grain_in(Picture({256, 256}, {0, 0, 0, 1}));
  EXPECT_FALSE(black.grain);
  EXPECT_TRUE(holds(black.no_grain, "clipped or black"));
  EXPECT_THROW((void)grain_in(Picture({40, 40}, {0.1F, 0.1F, 0.1F, 1.0F})), PictureError);
}

// What is measured, given back: the same again.
TEST(GrainInPlate, GivenToCgIsMeasuredTheSame) {
  const plates::GrainedPlate p = plates::grained_plate(7201, false);
  const GrainFinding f = grain_in(p.picture);
  ASSERT_TRUE(f.grain);
  Picture cg({480, 320});
  for (int y = 0; y < 320; ++y) {
    for (int x = 0; x < 480; ++x) {
      const auto v = static_cast<float>(0.02 + 0.4 * (y / 64) / 5.0);
      cg.at(x, y) = {v, v, v, 1.0F};
    }
  }
  const Grain grain = grain_like(*f.grain);
  const GrainFinding again = grain_in(with_grain(cg, grain, grain.size.value, 12.0));
  ASSERT_TRUE(again.grain) << again.no_grain;
  for (std::size_t c = 0; c < 3; ++c) {
    EXPECT_NEAR(again.grain->grey[c].value / f.grain->grey[c].value, 1.0, 0.05);
  }
  EXPECT_NEAR(again.grain->size_px.value, f.grain->size_px.value, 0.1);
}

}  // namespace grain_test
}  // namespace jolly_iris
