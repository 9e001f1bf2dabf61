// The smear of a plate: its length and direction where lamps tell it; else a limit, and why.
#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "jolly_iris/measure/smear_in_plate.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "plates/smeared.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace smear_in_plate_test {

using testing::holds;

class SmearOf : public ::testing::TestWithParam<bool> {};

TEST_P(SmearOf, EasyPlatesIsToldAsTheyWereMade) {
  const bool jpeg = GetParam();
  int easy = 0;
  for (std::uint32_t seed = 9201; easy < testing::cases(5, 1) && seed < 9300; ++seed) {
    const plates::SmearedPlate p = plates::smeared_plate(seed, jpeg);
    if (p.lamps < 5 || p.texture >= 0.1 || p.length_px <= 4.0) continue;
    ++easy;
    const SmearFinding f = smear_in(p.picture, {.clips_at = jpeg ? 0.98 : 0.0, .coded = jpeg});
    ASSERT_TRUE(f.smear) << seed << ": " << f.no_smear;
    EXPECT_NEAR(f.smear->length_px.value, p.length_px, 0.5) << seed;
    EXPECT_NEAR(std::remainder(f.smear->direction_deg.value - p.direction_deg, 180.0), 0.0, 3.0)
        << seed;
    // Two standard deviations hold in nineteen of twenty; three of them nearly always.
    EXPECT_NEAR(f.smear->length_px.value, p.length_px, 1.5 * f.smear->length_px.margin) << seed;
    EXPECT_LT(f.smear->length_px.margin, 0.1 * p.length_px + 0.3) << seed;
  }
  EXPECT_GT(easy, 0);
}

TEST_P(SmearOf, StillPlatesIsNoneWithALimit) {
  const bool jpeg = GetParam();
  int limits = 0;
  const int plates = testing::cases(6, 1);
  for (int i = 0; i < plates; ++i) {
    const auto seed = static_cast<std::uint32_t>(9301 + i);
    const SmearFinding f = smear_in(plates::smeared_plate(seed, jpeg, true).picture,
                                    {.clips_at = jpeg ? 0.98 : 0.0, .coded = jpeg});
    EXPECT_FALSE(f.smear) << seed;
    EXPECT_FALSE(f.no_smear.empty()) << seed;
    limits += f.at_most_px.has_value();
  }
  EXPECT_GE(limits, plates / 2);
}

INSTANTIATE_TEST_SUITE_P(, SmearOf, ::testing::Bool(),
                         [](const auto& is_jpeg) { return is_jpeg.param ? "Jpeg" : "Half"; });

// A dark frame with soft shapes: light at a place by f, twelve times.
template <class F>
Picture twelve_of(const F& f) {
  Picture p({480, 270}, {0.01F, 0.01F, 0.01F, 1.0F});
  for (int k = 0; k < 12; ++k) {
    const double cx = 60.3 + 120.0 * (k % 4);
    const double cy = 45.7 + 90.0 * (k / 4);
    for (int y = static_cast<int>(cy) - 30; y < static_cast<int>(cy) + 30; ++y) {
      for (int x = static_cast<int>(cx) - 30; x < static_cast<int>(cx) + 30; ++x) {
        const auto light = static_cast<float>(f(x + 0.5 - cx, y + 0.5 - cy, k));
        for (std::size_t c = 0; c < 3; ++c) p.at(x, y)[c] += light;
      }
    }
  }
  return p;
}

double soft(double inside_px) { return 0.5 * std::erfc(-inside_px / (0.8 * std::numbers::sqrt2)); }

TEST(SmearInPlate, WindowsInRowsAreNoSmear) {
  const Picture houses = twelve_of([](double x, double y, int) {
    return 4.0 * soft(12.0 - std::abs(x)) * soft(7.0 - std::abs(y));
  });
  const SmearFinding f = smear_in(houses, {.clips_at = 0.0});
  EXPECT_FALSE(f.smear) << f.smear->length_px.value;
}

TEST(SmearInPlate, OvalDiscsOfSqueezedGlassAreNoSmear) {
  const Picture ovals = twelve_of([](double x, double y, int k) {
    const double high = 6.0 + k;
    const double r = std::hypot(x / (0.5 * high), y / high);
    return 4.0 * soft((1.0 - r) * 0.5 * high);
  });
  const SmearFinding f = smear_in(ovals, {.clips_at = 0.0});
  EXPECT_FALSE(f.smear) << f.smear->length_px.value;
}

// Out of focus a window has round ends: its own rectangle, each place of it a disc.
TEST(SmearInPlate, WindowsOutOfFocusAreNoSmear) {
  const Picture houses = twelve_of([](double x, double y, int) {
    double sum = 0.0;
    for (int j = -3; j <= 3; ++j) {
      for (int i = -6; i <= 6; ++i) sum += soft(9.0 - std::hypot(x - j, y - i));
    }
    return 4.0 * sum / 91.0;
  });
  const SmearFinding f = smear_in(houses, {.clips_at = 0.0});
  EXPECT_FALSE(f.smear) << f.smear->length_px.value;
}

TEST(SmearInPlate, OneBoatThatMovesIsNotTheCamera) {
  // Nine lamps stand still; three are drawn out.
  const Picture some = twelve_of([](double x, double y, int k) {
    if (k >= 3) return 5.0 * soft(3.0 - std::hypot(x, y));
    return 5.0 * plates::smeared::drawn_disc(x, y, 3.0, 0.8, 14.0);
  });
  const SmearFinding f = smear_in(some, {.clips_at = 0.0});
  EXPECT_FALSE(f.smear);
  EXPECT_TRUE(holds(f.no_smear, "the others are long by themselves, or move")) << f.no_smear;
  ASSERT_TRUE(f.at_most_px);
  EXPECT_LT(*f.at_most_px, 3.0);
  int drawn = 0;
  for (const SmearedLamp& l : f.lamps) {
    if (!l.drawn) continue;
    ++drawn;
    EXPECT_NEAR(l.way.length_px.value, 14.0, 0.5);
    EXPECT_NEAR(l.way.direction_deg.value, 0.0, 2.0);
  }
  EXPECT_EQ(drawn, 3);
}

TEST(SmearInPlate, NeverFailsOnOddPictures) {
  for (const PixelSize size : {PixelSize{1, 1}, PixelSize{1, 300}, PixelSize{300, 2}}) {
    EXPECT_FALSE(smear_in(Picture(size, {0.2F, 0.2F, 0.2F, 1.0F})).smear);
  }
  Picture lamp({200, 200}, {0.0F, 0.0F, 0.0F, 1.0F});
  lamp.at(100, 100) = {1e6F, 1e6F, 1e6F, 1.0F};
  EXPECT_FALSE(smear_in(lamp, {.clips_at = 0.0}).smear);
  EXPECT_FALSE(smear_in(Picture({200, 200}, {0.0F, 0.0F, 0.0F, 1.0F})).smear);
  EXPECT_FALSE(smear_in(Picture({200, 200}, {9.0F, 9.0F, 9.0F, 1.0F})).smear);
  lamp.at(3, 3)[1] = std::numeric_limits<float>::quiet_NaN();
  EXPECT_THROW(smear_in(lamp), PictureError);
}

}  // namespace smear_in_plate_test
}  // namespace jolly_iris
