// The rays of a plate's lamps: counted and directed where there are some, none where there are
// none.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "jolly_iris/measure/rays_in_plate.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "plates/rayed.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace rays_test {

RaysFinding rays_of(const plates::RayedPlate& p) {
  return rays_in(p.picture, {.clips_at = p.jpeg ? 0.98 : 0.0, .codec_px = p.jpeg ? 4 : 0});
}

void expect_as_made(const PlateSpikes& spikes, const plates::RayedPlate& p, std::uint32_t seed) {
  EXPECT_EQ(spikes.rays, p.rays) << seed;
  EXPECT_NEAR(std::remainder(spikes.first_deg.value - p.first_deg, 360.0 / p.rays), 0.0,
              std::max(1.0, 1.5 * spikes.first_deg.margin))
      << seed;
  EXPECT_GT(spikes.seen_to_px, 0.0) << seed;
}

TEST(RaysInPlate, AStreakIsToldAsItWasMade) {
  int easy = 0;
  for (std::uint32_t seed = 9401; easy < testing::cases(3, 1) && seed < 9500; ++seed) {
    const plates::RayedPlate p = plates::rayed_plate(seed, false, 1);
    if (p.lamps < 4 || p.texture >= 0.1 || p.seen < 3.0) continue;
    ++easy;
    const RaysFinding f = rays_of(p);
    ASSERT_TRUE(f.streak) << seed << ": " << f.no_streak;
    EXPECT_FALSE(f.spikes) << seed;
    EXPECT_NEAR(std::remainder(f.streak->direction_deg.value - p.direction_deg, 180.0), 0.0,
                std::max(0.5, f.streak->direction_deg.margin))
        << seed;
    if (f.streak->direction_deg.margin > 2.0) continue;  // then its share is no better
    for (std::size_t c = 0; c < 3; ++c) {
      const Measured& m = f.streak->fraction[c];
      EXPECT_NEAR(m.value, p.fraction[c], std::max(1.5 * m.margin, 0.1 * p.fraction[c])) << seed;
    }
  }
  EXPECT_GT(easy, 0);
}

TEST(RaysInPlate, SpikesAreNeverCountedWrongly) {
  int told = 0;
  const int plates = testing::cases(6, 1);
  for (int i = 0; i < plates; ++i) {
    const auto seed = static_cast<std::uint32_t>(9501 + i);
    const plates::RayedPlate p = plates::rayed_plate(seed, i % 3 == 2, 0);
    const RaysFinding f = rays_of(p);
    EXPECT_FALSE(f.streak) << seed;
    if (!f.spikes) continue;
    ++told;
    expect_as_made(*f.spikes, p, seed);
  }
  EXPECT_GE(told, testing::cases(plates / 3, 0));
}

// Many faint rays, none of which is told by itself: all of a set together are.
TEST(RaysInPlate, FaintSpikesAreToldByTheirSet) {
  int easy = 0;
  int told = 0;
  for (std::uint32_t seed = 9521; easy < testing::cases(3, 1) && seed < 9600; ++seed) {
    const plates::RayedPlate p = plates::rayed_plate(seed, false, 0);
    if (p.rays < 10 || p.lamps < 5 || p.texture >= 0.05 || p.seen < 1.0) continue;
    ++easy;
    const RaysFinding f = rays_of(p);
    if (!f.spikes) continue;
    ++told;
    expect_as_made(*f.spikes, p, seed);
  }
  EXPECT_GE(told, testing::cases(2, 1));
}

TEST(RaysInPlate, WhereThereAreNoneNoneAreTold) {
  for (int i = 0; i < testing::cases(4, 1); ++i) {
    const auto seed = static_cast<std::uint32_t>(9601 + i);
    const plates::RayedPlate p = plates::rayed_plate(seed, i % 2 == 1, 3);
    const RaysFinding f = rays_of(p);
    EXPECT_FALSE(f.spikes) << seed;
    EXPECT_FALSE(f.streak) << seed;
    EXPECT_FALSE(f.no_spikes.empty());
    EXPECT_LT(f.streak_at_most.value_or(0.0), 0.5);
  }
}

TEST(RaysInPlate, RaysGoAcrossTheBladesEdges) {
  // A hexagon with a corner at the top has its edges left and right: a ray is level.
  PlateSpikes six{6, {0.0, 0.1}, {3, 6}, 50.0, {}};
  Iris iris;
  iris.blades = 6;
  EXPECT_NEAR(rays_against_iris(six, iris), 0.0, 1e-9);
  iris.rotation = Angle::from_degrees(5.0);
  EXPECT_NEAR(rays_against_iris(six, iris), -5.0, 1e-9);
  // Five blades: a corner at the top, an edge at the bottom: a ray is upright.
  PlateSpikes ten{10, {18.0, 0.1}, {5, 10}, 50.0, {}};
  iris.blades = 5;
  iris.rotation = {};
  EXPECT_NEAR(rays_against_iris(ten, iris), 0.0, 1e-9);
}

TEST(RaysInPlate, NeverFailsOnOddPictures) {
  for (const PixelSize size : {PixelSize{1, 1}, PixelSize{1, 300}, PixelSize{300, 2}}) {
    EXPECT_TRUE(rays_in(Picture(size, {0.2F, 0.2F, 0.2F, 1.0F})).rays.empty());
  }
  Picture lamp({200, 200}, {0.0F, 0.0F, 0.0F, 1.0F});
  for (int k = 0; k < 9; ++k) lamp.at(99 + k / 3, 99 + k % 3) = {1e6F, 1e6F, 1e6F, 1.0F};
  const RaysFinding f = rays_in(lamp, {.clips_at = 0.0});
  EXPECT_FALSE(f.spikes);
  EXPECT_FALSE(f.streak);
  EXPECT_TRUE(rays_in(Picture({200, 200}, {0.0F, 0.0F, 0.0F, 1.0F})).rays.empty());
  lamp.at(3, 3)[1] = std::numeric_limits<float>::quiet_NaN();
  EXPECT_THROW(rays_in(lamp), PictureError);
}

}  // namespace rays_test
}  // namespace jolly_iris
