// The halo of a plate: found where there is one, with margins that hold; else a limit, and why.
#include <gtest/gtest.h>

#include "jolly_iris/measure/halo_in_plate.hpp"
#include "plates/haloed.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace halo_test {

using testing::holds;

// Dark even ground, lamps that are not clipped, and a halo that reaches beyond their edges.
bool is_easy(const plates::HaloedPlate& p) {
  return p.unclipped >= 5 && p.texture < 0.1 && p.fraction[1] > 0.02 && p.reach_px > 4.0;
}

TEST(HaloInPlate, IsToldOnEasyPlatesAsTheyWereMade) {
  int easy = 0;
  for (std::uint32_t seed = 7306; easy < testing::cases(3, 1) && seed < 7400; ++seed) {
    const plates::HaloedPlate p = plates::haloed_plate(seed, false);
    if (!is_easy(p)) continue;
    ++easy;
    const HaloFinding f = halo_in(p.picture, {.clips_at = 0.0});
    ASSERT_TRUE(f.halo) << seed << ": " << f.no_halo;
    for (std::size_t c = 0; c < 3; ++c) {
      const Measured& m = f.halo->fraction[c];
      // Two standard deviations hold in nineteen of twenty; three of them nearly always.
      EXPECT_NEAR(m.value, p.fraction[c], 1.5 * m.margin) << seed;
      EXPECT_LE(m.margin, 0.25 * m.value) << seed;
    }
    EXPECT_NEAR(f.halo->power.value, p.power, 0.2) << seed;
  }
  EXPECT_GT(easy, 0);
}

// A frame with lamps that shine nowhere but where they are.
Picture lamps_alone(float value) {
  Picture p({400, 240}, {0.02F, 0.02F, 0.02F, 1.0F});
  std::mt19937 random(3);
  std::normal_distribution<float> normal(0.0F, 0.001F);
  for (Rgba& v : p.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) v[c] += normal(random);
  }
  for (const auto& [x, y, r] :
       {std::array{60, 60, 6}, std::array{200, 80, 9}, std::array{330, 60, 4},
        std::array{110, 170, 8}, std::array{280, 170, 12}}) {
    for (int j = -r; j <= r; ++j) {
      for (int i = -r; i <= r; ++i) {
        if (i * i + j * j <= r * r) p.at(x + i, y + j) = {value, value, value, 1.0F};
      }
    }
  }
  return p;
}

TEST(HaloInPlate, NotSeenIsAnAnswerWithALimit) {
  const HaloFinding f = halo_in(lamps_alone(8.0F), {.clips_at = 0.0});
  EXPECT_FALSE(f.halo);
  ASSERT_TRUE(f.at_most);
  for (const double most : *f.at_most) {
    EXPECT_GT(most, 0.0);
    EXPECT_LT(most, 0.01);
  }
  EXPECT_TRUE(holds(f.no_halo, "no more light than chance"));
  EXPECT_EQ(f.lamps.size(), 5U);
}

TEST(HaloInPlate, ClippedLampsDoNotTellAShare) {
  const HaloFinding f = halo_in(lamps_alone(1.0F), {.clips_at = 0.98});
  EXPECT_FALSE(f.halo);
  EXPECT_FALSE(f.at_most);
  EXPECT_TRUE(holds(f.no_halo, "a darker exposure of the same lamps would settle it"));
}

TEST(HaloInPlate, SaysWhyThereIsNoWitness) {
  const HaloFinding none = halo_in(Picture({200, 120}, {0.1F, 0.1F, 0.1F, 1.0F}));
  EXPECT_TRUE(holds(none.no_halo, "nothing in it is far brighter"));
  for (const PixelSize size : {PixelSize{1, 40}, PixelSize{1, 1}, PixelSize{300, 2}}) {
    EXPECT_FALSE(halo_in(Picture(size, {0.0F, 0.0F, 0.0F, 1.0F})).halo);
  }
  Picture big({200, 120}, {0.01F, 0.01F, 0.01F, 1.0F});
  for (int y = 30; y < 90; ++y) {
    for (int x = 0; x < 200; ++x) big.at(x, y) = {1e6F, 1e6F, 1e6F, 1.0F};
  }
  const HaloFinding wall = halo_in(big, {.clips_at = 0.0});
  EXPECT_FALSE(wall.halo);
}

// Bright bumps of a lit wall are no lamps, whatever lies around them.
TEST(HaloInPlate, BumpsOfAWallAreNoLamps) {
  for (int k = 0; k < testing::cases(12, 1); ++k) {
    const plates::GrainedPlate p =
        plates::grained_plate(static_cast<std::uint32_t>(7401 + k), false);
    const HaloFinding f = halo_in(p.picture, {.clips_at = 0.0});
    EXPECT_FALSE(f.halo) << k << ": " << f.halo->fraction[1].value;
  }
}

}  // namespace halo_test
}  // namespace jolly_iris
