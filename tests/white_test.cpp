#include "jolly_iris/optics/white.hpp"

#include <gtest/gtest.h>
// gtest before rapidcheck
#include <rapidcheck/gtest.h>

#include <cmath>
#include <ostream>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/plate_match.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace white_test {

using testing::holds;
using testing::message_of;

White white(double kelvin, double tint = 0.0) { return {Temperature::from_kelvin(kelvin), tint}; }

// ---- against published chromaticities ----------------------------------------------------------

struct Known {
  const char* name;
  double kelvin, x, y;
};
void PrintTo(const Known& k, std::ostream* out) { *out << k.name; }

class KnownWhites : public ::testing::TestWithParam<Known> {};

TEST_P(KnownWhites, LieWhereTheStandardsPutThem) {
  const Chromaticity c = chromaticity_of(white(GetParam().kelvin));
  EXPECT_NEAR(c.x, GetParam().x, 2e-4);
  EXPECT_NEAR(c.y, GetParam().y, 2e-4);
}

// CIE 15:2004: illuminant A, D50, D55, D65, D75; Planck: Wyszecki and Stiles, table 1(3.11).
INSTANTIATE_TEST_SUITE_P(
    CieAndPlanck, KnownWhites,
    ::testing::Values(Known{"A", 2856, 0.4476, 0.4074}, Known{"Planck2000", 2000, 0.5267, 0.4133},
                      Known{"Planck3000", 3000, 0.4369, 0.4041}, Known{"D50", 5003, 0.3457, 0.3585},
                      Known{"D55", 5503, 0.3324, 0.3474}, Known{"D65", 6504, 0.3127, 0.3290},
                      Known{"D75", 7504, 0.2990, 0.3149}),
    [](const auto& each) { return each.param.name; });

TEST(Primaries, AreThePublishedMatrices) {
  // ITU-R BT.709 and SMPTE RP 177; AMPAS S-2014-004 (AP1).
  const ColourMatrix& rec709 = xyz_from_rgb(Primaries::rec709);
  EXPECT_NEAR(rec709[0][0], 0.412391, 2e-6);
  EXPECT_NEAR(rec709[1][1], 0.715169, 2e-6);
  EXPECT_NEAR(rec709[2][2], 0.950532, 2e-6);
  const Rgb ap1 = luminance_weights(Primaries::acescg);
  EXPECT_NEAR(ap1[0], 0.2722287168, 1e-9);
  EXPECT_NEAR(ap1[1], 0.6740817658, 1e-9);
  EXPECT_NEAR(ap1[2], 0.0536895174, 1e-9);
}

TEST(White, DaylightIsNeutralInRec709AndAcesWhiteInAcescg) {
  const Rgb d65 = white_rgb(white(6504), Primaries::rec709);
  EXPECT_NEAR(d65[0], 1.0, 2e-3);
  EXPECT_NEAR(d65[2], 1.0, 2e-3);
  const Rgb d60 = white_rgb(white_of(white_of(Primaries::acescg)), Primaries::acescg);
  EXPECT_NEAR(d60[0], 1.0, 1e-6);
  EXPECT_NEAR(d60[2], 1.0, 1e-6);
  EXPECT_NEAR(white_of(white_of(Primaries::acescg)).temperature.kelvin(), 6000.0, 10.0);
}

TEST(White, TellingACameraThatLightIsWarmMakesDaylightBlue) {
  for (const Primaries p : {Primaries::rec709, Primaries::acescg}) {
    const Rgb seen = seen_white(white(3200), white(5600), p);
    EXPECT_LT(seen[0], 0.8);
    EXPECT_GT(seen[2], 1.25);
    EXPECT_TRUE(cast_in_words(seen).starts_with("bluer"));
    EXPECT_TRUE(cast_in_words(seen_white(white(5600), white(3200), p)).starts_with("warmer"));
    EXPECT_EQ(cast_in_words(seen_white(white(5600), white(5600), p)), "neutral");
  }
  EXPECT_TRUE(cast_in_words(seen_white(white(5600), white(5600, 0.02), Primaries::rec709))
                  .starts_with("greener"));
}

TEST(White, ABiggerTintIsGreener) {
  const Rgb green = white_rgb(white(5600, 0.02), Primaries::rec709);
  const Rgb plain = white_rgb(white(5600), Primaries::rec709);
  EXPECT_LT(green[0], plain[0]);
  EXPECT_LT(green[2], plain[2]);
}

// ---- there and back ----------------------------------------------------------------------------

RC_GTEST_PROP(White, ThereAndBackKeepsTemperatureAndTint, ()) {
  const double kelvin = *rc::gen::inRange(250000, 1200001) / 100.0;
  const double tint = *rc::gen::inRange(-2000, 2001) / 1e5;
  const auto keeps = [&](const White& back) {
    return std::abs(back.temperature.kelvin() - kelvin) < 1.0 && std::abs(back.tint - tint) < 1e-4;
  };
  RC_ASSERT(keeps(white_of(chromaticity_of(white(kelvin, tint)))));
  for (const Primaries p : {Primaries::acescg, Primaries::rec709}) {
    // Rec.709 does not hold every white: a yellowish 2500 K would need less than no blue.
    if (p == Primaries::rec709 && kelvin < 3000.0) continue;
    RC_ASSERT(keeps(white_of_gains(white_gains(white(kelvin, tint), p), p)));
  }
}

TEST(White, OfRec709EndsWhereBlueDoes) {
  const White edge = white(2500, 0.009);
  EXPECT_NO_THROW((void)white_gains(edge, Primaries::rec709));
  EXPECT_THROW((void)white_gains(white(2500, 0.011), Primaries::rec709), OpticsError);
  EXPECT_NEAR(
      white_of_gains(white_gains(edge, Primaries::rec709), Primaries::rec709).temperature.kelvin(),
      2500.0, 1.0);
}

TEST(White, ThereAndBackAcrossTheBlendAndTheEnds) {
  for (const double kelvin :
       {1000.0, 1900.0, 2500.0, 3499.0, 3500.0, 3501.0, 3800.0, 4000.0, 4200.0, 4499.0, 4500.0,
        4501.0, 6999.0, 7000.0, 7001.0, 12000.0, 25000.0}) {
    for (const double tint : {-0.02, 0.0, 0.02}) {
      const White back = white_of(chromaticity_of(white(kelvin, tint)));
      EXPECT_NEAR(back.temperature.kelvin(), kelvin, kelvin > 12000.0 ? 30.0 : 1.0) << tint;
      EXPECT_NEAR(back.tint, tint, 1e-4) << kelvin;
    }
  }
}

TEST(White, MiredIsAMillionOverKelvin) {
  EXPECT_NEAR(mired(5600_K), 178.571, 1e-3);
  EXPECT_NEAR(from_mired(mired(3217_K)).kelvin(), 3217.0, 1e-9);
}

TEST(White, RefusesWhatIsNoLight) {
  const auto says = [](auto&& work) { return message_of<OpticsError>(work); };
  EXPECT_TRUE(holds(says([] { (void)chromaticity_of(white(900)); }), "from 1000 to 25000 K"));
  EXPECT_TRUE(holds(says([] { (void)chromaticity_of(white(std::nan(""))); }), "is none"));
  EXPECT_TRUE(holds(says([] { (void)chromaticity_of(white(5600, 0.2)); }), "beyond ±0.05"));
  EXPECT_TRUE(holds(says([] {
                      (void)white_of_gains({50.0, 1.0, 0.02}, Primaries::rec709);
                    }),
                    "is no white light: it is bluer than any"));
  EXPECT_TRUE(holds(says([] {
                      (void)white_of_gains({1.0, 8.0, 1.0}, Primaries::rec709);
                    }),
                    "to the pink"));
  EXPECT_TRUE(holds(says([] {
                      (void)white_of_gains({1.0, 0.0, 1.0}, Primaries::rec709);
                    }),
                    "above zero and finite"));
  EXPECT_TRUE(holds(says([] {
                      (void)white_of_patch({0.0, 0.0, 0.0}, Primaries::rec709);
                    }),
                    "a patch of 0, 0, 0"));
  EXPECT_TRUE(holds(says([] {
                      (void)white_of_patch({0.0, 0.1, 1.0 / 0.0}, Primaries::rec709);
                    }),
                    "inf"));
  EXPECT_TRUE(
      holds(says([] { (void)white_rgb(white(1500), Primaries::rec709); }), "lies outside Rec.709"));
  EXPECT_NO_THROW((void)white_rgb(white(1500), Primaries::acescg));
}

TEST(Adaptation, BradfordIsTheOneThatProfilesUse) {
  // D65 → D50 as ICC.1:2010, annex E has it.
  const ColourMatrix m = adaptation({0.3127, 0.3290}, {0.34567, 0.35850}, Adaptation::bradford);
  const ColourMatrix icc{
      {{1.04788, 0.02292, -0.05022}, {0.02959, 0.99048, -0.01707}, {-0.00925, 0.01508, 0.75168}}};
  for (std::size_t i = 0; i < 3; ++i) {
    for (std::size_t j = 0; j < 3; ++j) EXPECT_NEAR(m[i][j], icc[i][j], 1e-3) << i << j;
  }
}

TEST(Adaptation, TakesTheOneWhiteToTheOther) {
  for (const Adaptation method : {Adaptation::cat16, Adaptation::bradford}) {
    const Chromaticity warm = chromaticity_of(white(3200));
    const Chromaticity cool = chromaticity_of(white(6504));
    const Rgb grey = product(rgb_adaptation(warm, cool, method, Primaries::rec709),
                             white_rgb(white(3200), Primaries::rec709));
    EXPECT_NEAR(grey[0] / grey[1], 1.0, 3e-3);
    EXPECT_NEAR(grey[2] / grey[1], 1.0, 3e-3);
    const ColourMatrix same = adaptation(warm, warm, method);
    EXPECT_NEAR(same[0][0], 1.0, 1e-12);
    EXPECT_NEAR(same[0][1], 0.0, 1e-12);
  }
}

// ---- against the plate -------------------------------------------------------------------------

std::vector<RegionPair> lit_alike(const Rgb& factors) {
  std::vector<RegionPair> pairs{{"card", {}, {0.18, 0.18, 0.18}},
                                {"wall", {}, {0.42, 0.31, 0.22}},
                                {"water", {}, {0.03, 0.05, 0.06}},
                                {"boat", {}, {0.35, 0.06, 0.04}}};
  for (RegionPair& pair : pairs) {
    for (std::size_t c = 0; c < 3; ++c) pair.plate[c] = pair.cg[c] * factors[c];
  }
  return pairs;
}

TEST(PlateMatch, FindsTheFactorThatAllShare) {
  const PlateMatch m = match_to_plate(lit_alike({4.4, 4.0, 2.6}), Primaries::rec709);
  EXPECT_NEAR(m.stops, 2.0, 1e-12);
  EXPECT_NEAR(m.gains[0], 1.1, 1e-12);
  EXPECT_NEAR(m.gains[2], 0.65, 1e-12);
  for (const RegionLeft& left : m.regions) {
    EXPECT_NEAR(left.stops, 0.0, 1e-12);
    EXPECT_NEAR(left.warm_stops, 0.0, 1e-12);
    EXPECT_FALSE(left.apart);
  }
}

TEST(PlateMatch, AWronglyLitRegionShowsAndPullsNothing) {
  auto pairs = lit_alike({2.0, 2.0, 2.0});
  for (double& v : pairs[1].plate) v *= 3.0;
  const PlateMatch m = match_to_plate(pairs, Primaries::rec709);
  EXPECT_NEAR(m.stops, 1.0, 0.01);
  EXPECT_TRUE(m.regions[1].apart);
  EXPECT_NEAR(m.regions[1].stops, std::log2(3.0), 0.01);
  EXPECT_NEAR(m.regions[1].alone_stops, 1.0 + std::log2(3.0), 0.01);
  for (const std::size_t i : {0U, 2U, 3U}) EXPECT_FALSE(m.regions[i].apart);
}

TEST(PlateMatch, TellsThePlatesWhite) {
  const White cg = white(5600);
  const White plate = white(4200, 0.004);
  const Rgb a = white_rgb(cg, Primaries::rec709);
  const Rgb b = white_rgb(plate, Primaries::rec709);
  const PlateMatch m =
      match_to_plate(lit_alike({b[0] / a[0], 1.0, b[2] / a[2]}), Primaries::rec709);
  const White found = matched_white(m, cg, Primaries::rec709);
  EXPECT_NEAR(found.temperature.kelvin(), 4200.0, 1.0);
  EXPECT_NEAR(found.tint, 0.004, 1e-5);
}

TEST(PlateMatch, RefusesNothingAndBlack) {
  EXPECT_THROW((void)match_to_plate({}, Primaries::rec709), OpticsError);
  auto pairs = lit_alike({1, 1, 1});
  pairs[2].cg[1] = 0.0;
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)match_to_plate(pairs, Primaries::rec709); }),
            "region 'water' has 0.03, 0, 0.06 in CG"));
}

}  // namespace white_test
}  // namespace jolly_iris
