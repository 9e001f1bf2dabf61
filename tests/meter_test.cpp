#include "jolly_iris/picture/meter.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/expose_picture.hpp"
#include "jolly_iris/picture/mend_numbers.hpp"
#include "jolly_iris/picture/neutral.hpp"
#include "jolly_iris/picture/region_light.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace meter_test {

using testing::holds;
using testing::message_of;

constexpr float nan = std::numeric_limits<float>::quiet_NaN();
constexpr float inf = std::numeric_limits<float>::infinity();

Rgba grey(float v) { return {v, v, v, 1.0F}; }

// Left half dark, right half bright.
Picture halves(float left, float right, PixelSize size = {64, 32}) {
  Picture p(size, grey(left));
  for (int y = 0; y < size.height; ++y) {
    for (int x = size.width / 2; x < size.width; ++x) p.at(x, y) = grey(right);
  }
  return p;
}

TEST(Meter, AverageIsTheGeometricMeanOfLuminance) {
  const Metered m = meter(halves(0.09F, 0.36F), {});
  EXPECT_NEAR(m.level, 0.18, 1e-7);
  EXPECT_NEAR(m.stops(), 0.0, 1e-6);
  EXPECT_EQ(m.pixels, 64U * 32U);
  EXPECT_NEAR(meter(halves(0.01F, 0.01F), {.wanted = 0.36}).stops(), std::log2(36.0), 1e-6);
}

TEST(Meter, LuminanceIsWhatThePrimariesWeigh) {
  const Picture green({4, 4}, {0.0F, 0.5F, 0.0F, 1.0F});
  EXPECT_NEAR(meter(green, {}).level, 0.5 * 0.7152, 1e-4);
  EXPECT_NEAR(meter(green, {.primaries = Primaries::acescg}).level, 0.5 * 0.6741, 1e-4);
}

TEST(Meter, TheMiddleCountsHalfAtAQuarterOfTheWidth) {
  // Two columns of light in a dark picture of one row: their weights against all of it.
  const int w = 101;
  const auto weight = [&](int x) { return std::exp2(-std::pow((x + 0.5 - 50.5) / (w / 4.0), 2)); };
  double all = 0.0;
  for (int x = 0; x < w; ++x) all += weight(x);
  EXPECT_NEAR(weight(50), 1.0, 1e-12);
  EXPECT_NEAR(std::exp2(-1.0), 0.5, 1e-12);
  for (const int column : {50, 75, 100}) {
    Picture p({w, 1}, grey(0.1F));
    p.at(column, 0) = grey(0.8F);
    const double level = meter(p, {.way = MeterWay::centre}).level;
    EXPECT_NEAR(std::log2(level / 0.1), 3.0 * weight(column) / all, 1e-5) << column;
  }
}

TEST(Meter, ASpotSeesItsDiscOnlyAndARegionItsBox) {
  Picture p({60, 40}, grey(4.0F));
  for (int y = 0; y < 40; ++y) {
    for (int x = 0; x < 60; ++x) {
      if (std::hypot(x + 0.5 - 20.0, y + 0.5 - 15.0) <= 6.0) p.at(x, y) = grey(0.25F);
    }
  }
  EXPECT_NEAR(meter(p, {.way = MeterWay::spot, .at = {20, 15}, .radius = 6}).level, 0.25, 1e-7);
  EXPECT_GT(meter(p, {.way = MeterWay::spot, .at = {20, 15}, .radius = 8}).level, 0.5);
  EXPECT_EQ(meter(p, {.way = MeterWay::spot, .at = {20, 15}, .radius = 1e15}).pixels, 2400U);
  EXPECT_NEAR(meter(p, {.way = MeterWay::region, .box = {18, 13, 4, 4}}).level, 0.25, 1e-7);
  EXPECT_NEAR(meter(p, {.way = MeterWay::spot, .at = {59.9, 39.9}, .radius = 0.1}).level, 4.0,
              1e-7);
}

TEST(Meter, HighlightsLetNoMoreThanTheirShareClip) {
  Picture p({100, 100});
  for (int i = 0; i < 10000; ++i)
    p.pixels()[static_cast<std::size_t>(i)] = grey(0.001F * static_cast<float>(i + 1));
  for (const double fraction : {0.0, 0.001, 0.05}) {
    const Metered m = meter(p, {.way = MeterWay::highlights, .may_clip = fraction});
    const double factor = std::exp2(m.stops());
    int beyond = 0;
    for (const Rgba& v : p.pixels()) beyond += static_cast<double>(v[0]) * factor > 1.0 + 1e-6;
    EXPECT_EQ(beyond, static_cast<int>(fraction * 10000)) << fraction;
  }
}

TEST(Meter, WhatHasNoLogarithmIsLeftOutAndTold) {
  Picture p({10, 10}, grey(0.18F));
  p.at(0, 0) = grey(nan);
  p.at(1, 0) = {inf, 0.1F, 0.1F, 1.0F};
  p.at(2, 0) = grey(0.0F);
  p.at(3, 0) = grey(-0.5F);
  p.at(4, 0) = grey(1e-9F);  // 27 stops below the rest: black
  p.at(5, 0) = {1.5F, 0.0F, 0.0F, 1.0F};
  const Metered m = meter(p, {});
  EXPECT_NEAR(m.non_finite, 0.02, 1e-12);
  EXPECT_NEAR(m.black, 0.03, 1e-12);
  EXPECT_NEAR(m.clipped, 0.01, 1e-12);
  // 94 at 0.18 and the red one.
  EXPECT_NEAR(std::log2(m.level), (94.0 * std::log2(0.18) + std::log2(1.5 * 0.2126)) / 95.0, 1e-4);
}

TEST(Meter, DoesNotHangOnHowBrightTheScenesUnitIs) {
  Picture p = halves(0.02F, 0.5F);
  const double stops = meter(p, {}).stops();
  for (Rgba& v : p.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) v[c] *= 1e6F;
  }
  EXPECT_NEAR(meter(p, {}).stops(), stops - std::log2(1e6), 1e-4);
  EXPECT_EQ(meter(p, {}).black, 0.0);
}

TEST(Meter, RefusesWhatCannotBeMetered) {
  EXPECT_TRUE(holds(message_of<PictureError>([] { (void)meter(Picture(), {}); }), "no pixels"));
  EXPECT_TRUE(holds(message_of<PictureError>([] {
                      (void)meter(Picture({4, 4}), {});
                    }),
                    "nothing but black where it is metered: of 16 pixels 100 % have no light"));
  EXPECT_TRUE(holds(message_of<PictureError>([] {
                      (void)meter(Picture({4, 4}, grey(nan)), {});
                    }),
                    "no numbers"));
  const Picture p({8, 8}, grey(0.2F));
  const auto says = [&](const Metering& m) {
    return message_of<UsageError>([&] { (void)meter(p, m); });
  };
  EXPECT_TRUE(holds(says({.way = MeterWay::spot, .at = {9, 2}}), "outside the picture of 8 x 8"));
  EXPECT_TRUE(holds(says({.way = MeterWay::spot, .at = {4, 2}, .radius = 0}), "radius"));
  EXPECT_TRUE(holds(says({.way = MeterWay::region, .box = {4, 4, 8, 1}}), "does not lie within"));
  EXPECT_TRUE(holds(says({.way = MeterWay::highlights, .may_clip = 1.0}), "share that may clip"));
  EXPECT_TRUE(holds(says({.wanted = 0.0}), "wanted grey"));
  EXPECT_TRUE(holds(says({.clips_at = std::nan("")}), "value that clips"));
}

TEST(Region, TellsItsLightEvennessAndWhatIsLost) {
  Picture p = halves(0.1F, 0.4F, {8, 4});
  p.at(0, 0) = grey(inf);
  p.at(7, 0) = grey(1.0F);
  const RegionLight all = light_of_region(p, {0, 0, 8, 4}, Primaries::rec709);
  EXPECT_NEAR(all.mean[1], (15 * 0.1 + 15 * 0.4 + 1.0) / 31.0, 1e-6);
  EXPECT_NEAR(all.luminance, all.mean[1], 1e-9);
  EXPECT_NEAR(all.non_finite, 1.0 / 32, 1e-12);
  EXPECT_NEAR(all.clipped, 1.0 / 32, 1e-12);
  EXPECT_NEAR(light_of_region(p, {0, 1, 8, 3}, Primaries::rec709).spread_stops, 1.0, 1e-5);
  EXPECT_THROW((void)light_of_region(p, {0, 0, 1, 1}, Primaries::rec709), PictureError);
}

TEST(Region, IsTheSameInAPictureOfHalfTheSize) {
  const Box half = box_in_picture({101, 40, 60, 21}, {1920, 1080}, {960, 540});
  EXPECT_EQ(half.x, 51);  // pixels that lie wholly within
  EXPECT_EQ(half.width, 29);
  EXPECT_EQ(half.y, 20);
  EXPECT_EQ(half.height, 10);
  EXPECT_EQ(box_in_picture({10.2, 10.2, 0.3, 0.3}, {100, 100}, {50, 50}).width, 1);
  EXPECT_THROW((void)box_in_picture({90, 0, 20, 5}, {100, 100}, {50, 50}), UsageError);
}

TEST(Histogram, CountsEveryPixelOnceByItsStops) {
  Picture p = halves(0.2F, 0.8F, {10, 2});
  p.at(0, 0) = grey(0.0F);
  p.at(1, 0) = grey(100.0F);
  p.at(2, 0) = grey(nan);
  const StopsHistogram h = stops_histogram(p, Primaries::rec709, -4.0, 4.0, 1.0);
  ASSERT_EQ(h.shares.size(), 8U);
  EXPECT_NEAR(h.shares[4], 7.0 / 20, 1e-12);  // 0 … 1
  EXPECT_NEAR(h.shares[6], 10.0 / 20, 1e-12);
  EXPECT_NEAR(h.below, 1.0 / 20, 1e-12);
  EXPECT_NEAR(h.above, 1.0 / 20, 1e-12);
  EXPECT_THROW((void)stops_histogram(p, Primaries::rec709, 1.0, 1.0, 0.5), UsageError);
}

// ---- white found in a picture ------------------------------------------------------------------

Picture room_in(const White& light) {
  // Coloured things whose mean is grey, and a bright white card.
  const Rgb w = white_rgb(light, Primaries::rec709);
  Picture p({64, 64});
  for (int y = 0; y < 64; ++y) {
    for (int x = 0; x < 64; ++x) {
      Rgb c = (x / 16 + y / 16) % 2 == 0 ? Rgb{0.30, 0.10, 0.14} : Rgb{0.06, 0.26, 0.22};
      if (x < 32 && y < 16) c = {0.6, 0.6, 0.6};
      for (std::size_t i = 0; i < 3; ++i) p.at(x, y)[i] = static_cast<float>(c[i] * w[i]);
      p.at(x, y)[3] = 1.0F;
    }
  }
  return p;
}

TEST(NeutralFinder, FindsTheLightByTheMeanAndByTheBrightest) {
  const White light{Temperature::from_kelvin(4300), 0.003};
  const Picture p = room_in(light);
  for (const NeutralBy by : {NeutralBy::grey_world, NeutralBy::brightest}) {
    const Neutral n = find_neutral(p, by, Primaries::rec709);
    EXPECT_NEAR(mired(n.white.temperature), mired(light.temperature), 0.1);
    EXPECT_GT(n.fraction, 0.0);
  }
}

TEST(NeutralFinder, IsNotFooledByWhatIsClippedOrNoNumber) {
  Picture p = room_in({5600_K});
  for (int x = 32; x < 40; ++x) {
    for (int y = 0; y < 8; ++y) p.at(x, y) = {1.0F, 1.0F, 0.2F, 1.0F};
  }
  p.at(50, 50) = grey(nan);
  const Neutral n = find_neutral(p, NeutralBy::brightest, Primaries::rec709);
  EXPECT_NEAR(n.white.temperature.kelvin(), 5600.0, 2.0);
  EXPECT_THROW((void)find_neutral(Picture(), NeutralBy::brightest, Primaries::rec709),
               PictureError);
  EXPECT_TRUE(
      holds(message_of<PictureError>([] {
              (void)find_neutral(Picture({16, 16}), NeutralBy::grey_world, Primaries::rec709);
            }),
            "no patch that is lit"));
  EXPECT_TRUE(holds(message_of<PictureError>([] {
                      (void)find_neutral(Picture({16, 16}, {0.9F, 0.01F, 0.3F, 1.0F}),
                                         NeutralBy::brightest, Primaries::rec709);
                    }),
                    "nothing that could be white"));
}

// ---- changing a picture ------------------------------------------------------------------------

TEST(Change, IsLinearUnclampedAndLeavesAlpha) {
  Picture p({2, 1}, {0.5F, 0.25F, -0.1F, 0.5F});
  p.at(1, 0) = {nan, 2.0F, inf, 1.0F};
  change(p, {.factor = 8.0, .gains = {0.5, 1.0, 2.0}});
  EXPECT_EQ(p.at(0, 0), (Rgba{2.0F, 2.0F, -1.6F, 0.5F}));
  EXPECT_TRUE(std::isnan(p.at(1, 0)[0]));
  EXPECT_EQ(p.at(1, 0)[1], 16.0F);
  EXPECT_TRUE(std::isinf(p.at(1, 0)[2]));
  EXPECT_THROW(change(p, {.factor = 0.0}), UsageError);
  EXPECT_THROW(change(p, {.gains = {1.0, std::nan(""), 1.0}}), UsageError);
}

TEST(Change, FallOffGoesInAndComesOutAgain) {
  const Lens lens{.focal = 18_mm, .vignetting = {{16_mm, 40_mm}}};
  const VirtualCamera camera = resolve({.gate = {25.9_mm, 14.6_mm}, .pixels = {1920, 1080}}, lens,
                                       {.stop = f_number(2.0)}, 5_m);
  const RelativeIllumination relative_illumination(lens, camera);
  Picture p({480, 270}, grey(0.5F));
  change(p, {.relative_illumination = &relative_illumination});
  EXPECT_NEAR(p.at(240, 135)[0], 0.5F, 1e-3);
  EXPECT_NEAR(std::log2(0.5 / static_cast<double>(p.at(0, 0)[0])), corner_loss(lens, camera).stops,
              0.02);
  change(p, {.relative_illumination = &relative_illumination, .take_out = true});
  for (const Rgba& v : p.pixels()) ASSERT_NEAR(v[1], 0.5F, 1e-6);
}

// ---- what is no number
// --------------------------------------------------------------------------------------

TEST(MendNumbers, GivesWhatStandsAround) {
  Frame f{Picture({16, 16}, grey(1.0F)), {}};
  f.colour.at(4, 5) = {nan, 1.0F, 1.0F, 1.0F};
  f.colour.at(5, 5) = grey(3.0F);
  f.colour.at(10, 10)[3] = -inf;
  const MendedNumbers mended = mend_numbers(f);
  EXPECT_EQ(mended.pixels, 2U);
  EXPECT_EQ(mended.first, (std::array{4, 5}));
  EXPECT_FLOAT_EQ(f.colour.at(4, 5)[0], 10.0F / 8.0F) << "seven of 1 and one of 3";
  EXPECT_EQ(f.colour.at(10, 10), grey(1.0F));
  EXPECT_EQ(mend_numbers(f).pixels, 0U);
}

TEST(MendNumbers, MendsPatchesFromTheirRimAndLeavesLargeNumbers) {
  Frame f{Picture({40, 40}, grey(2e38F)), {}};  // four of them add up to infinity in floats
  for (int y = 10; y < 20; ++y) {
    for (int x = 10; x < 20; ++x) f.colour.at(x, y)[1] = inf;
  }
  EXPECT_EQ(mend_numbers(f).pixels, 100U);
  for (const Rgba& p : f.colour.pixels()) ASSERT_FLOAT_EQ(p[1], 2e38F);
}

TEST(MendNumbers, GivesADepthOfTheNearestBeside) {
  Frame f{Picture({16, 16}, grey(1.0F)), std::vector<float>(256, 7.0F)};
  f.depth[3] = inf;  // the sky is a depth
  f.depth[20] = nan;
  f.depth[36] = 2.0F;
  EXPECT_EQ(mend_numbers(f).pixels, 1U);
  EXPECT_EQ(f.depth[20], 2.0F);
  EXPECT_EQ(f.depth[3], inf);
}

TEST(MendNumbers, RefusesAPictureThatIsLargelyNone) {
  Frame f{Picture({10, 10}, grey(1.0F)), {}};
  for (int x = 0; x < 10; ++x) f.colour.at(x, 0)[0] = nan;
  EXPECT_EQ(mend_numbers(f).pixels, 10U);
  for (int i = 0; i < 11; ++i) f.colour.pixels()[static_cast<std::size_t>(89 + i)][0] = nan;
  EXPECT_TRUE(holds(message_of<PictureError>([&] { (void)mend_numbers(f); }),
                    "11 % of its pixels are no numbers (NaN or infinity), the first at 9, 8"));
}

}  // namespace meter_test
}  // namespace jolly_iris
