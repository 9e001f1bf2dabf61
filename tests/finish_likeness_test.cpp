// Corners of a plate, and two pictures' finishes against each other.
#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "jolly_iris/measure/finish_comparison.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/grain.hpp"
#include "plates/cornered.hpp"
#include "plates/grained.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace finish_likeness_test {

using testing::holds;

TEST(CornersInPlate, AreToldWhereSurfacesAgree) {
  int told = 0;
  const int plates = testing::cases(20, 4);
  for (int i = 0; i < plates; ++i) {
    const auto seed = static_cast<std::uint32_t>(9701 + i);
    const plates::CorneredPlate p = plates::cornered_plate(seed, i % 2 == 1, false);
    const CornersFinding f = corners_in(p.picture);
    EXPECT_EQ(f.stops.has_value(), f.no_corners.empty()) << seed;
    if (!f.stops) continue;
    ++told;
    EXPECT_NEAR(f.stops->value, p.stops, std::max(0.1, 1.5 * f.stops->margin)) << seed;
  }
  EXPECT_GE(told, testing::cases(plates / 4, 0));
}

TEST(CornersInPlate, APoolOfLightIsNoCorner) {
  int told = 0;
  const int plates = testing::cases(20, 4);
  for (int i = 0; i < plates; ++i) {
    told += corners_in(
                plates::cornered_plate(static_cast<std::uint32_t>(9751 + i), false, true).picture)
                .stops.has_value();
  }
  EXPECT_EQ(told, 0);
}

TEST(CornersInPlate, SmallAndBrokenPicturesAreRefused) {
  EXPECT_THROW(corners_in(Picture({40, 200})), PictureError);
  Picture broken({80, 80}, {0.2F, 0.2F, 0.2F, 1.0F});
  broken.at(1, 1)[0] = std::numeric_limits<float>::infinity();
  EXPECT_THROW(corners_in(broken), PictureError);
  EXPECT_FALSE(corners_in(Picture({80, 80}, {0.0F, 0.0F, 0.0F, 1.0F})).stops);
}

// χ² of so many numbers that 99 of 100 stay below (Wilson and Hilferty 1931).
double chi2_99(int free) {
  const double k = 2.0 / (9.0 * free);
  return free * std::pow(1.0 - k + 2.326 * std::sqrt(k), 3.0);
}

TEST(FinishComparison, GrainAsMeasuredIsNotToldFromThePlates) {
  int differ = 0;
  int looked_at = 0;
  const int plates = testing::cases(8, 1);
  for (int i = 0; i < plates; ++i) {
    const auto seed = static_cast<std::uint32_t>(9801 + i);
    const plates::GrainedPlate p = plates::grained_plate(seed, false);
    const GrainFinding found = grain_in(p.picture);
    if (!found.grain) continue;
    const Grain grain = grain_like(*found.grain);
    const Picture cg = with_grain(p.clean, grain, grain.size.value, 1.0);
    const FinishComparison c = compare_finishes(p.picture, cg, {}, {});
    int free = 0;
    double chi2 = 0.0;
    for (const FinishDifference& d : c.numbers) {
      if (d.part != FinishPart::grain) continue;
      chi2 += std::pow(2.0 * d.off.value / d.off.margin, 2.0);
      ++free;
    }
    ++looked_at;
    differ += free == 0 || chi2 > chi2_99(free);
    for (const GrainBand& b : c.grain_bands) EXPECT_NEAR(b.db.value, 0.0, 1.0) << seed;
    EXPECT_EQ(c.grain_bands.size(), 4U) << seed;
    EXPECT_TRUE(finish_suggestions(c, {}).empty()) << seed;
  }
  EXPECT_GE(looked_at, plates / 2);
  EXPECT_LE(20 * differ, looked_at);
}

TEST(FinishComparison, WhatIsMissingIsAdvised) {
  const plates::GrainedPlate p = plates::grained_plate(9831, false);
  const FinishComparison c = compare_finishes(p.picture, p.clean, {}, {});
  CgMade made;
  bool grain = false;
  for (const Suggestion& s : finish_suggestions(c, made)) {
    grain = grain || s.key == "finish.grain";
  }
  EXPECT_TRUE(grain);
  // A quarter as strong: by how much is told.
  made.shot.finish.grain = grain_like(*grain_in(p.picture).grain);
  for (double& v : made.shot.finish.grain->grey) v *= 0.5;
  for (double& v : made.shot.finish.grain->black) v *= 0.5;
  const Picture weak =
      with_grain(p.clean, *made.shot.finish.grain, made.shot.finish.grain->size.value, 1.0);
  const auto advised = finish_suggestions(compare_finishes(p.picture, weak, {}, {}), made);
  ASSERT_FALSE(advised.empty());
  EXPECT_EQ(advised.front().key, "finish.grain.grey");
  EXPECT_TRUE(holds(advised.front().message, "0.5")) << advised.front().message;
}

TEST(FinishComparison, CornersAreToldByTheRatioWhateverTheScene) {
  // Even and textured walls: the same scene, one with corners.
  const plates::GrainedPlate p = plates::grained_plate(9841, false);
  Picture cg = p.picture;
  const double half = 0.5 * std::hypot(cg.width(), cg.height());
  for (int y = 0; y < cg.height(); ++y) {
    for (int x = 0; x < cg.width(); ++x) {
      const double r = std::hypot(x + 0.5 - 0.5 * cg.width(), y + 0.5 - 0.5 * cg.height()) / half;
      for (std::size_t k = 0; k < 3; ++k)
        cg.at(x, y)[k] *= static_cast<float>(std::exp2(-0.7 * r * r));
    }
  }
  const FinishComparison c = compare_finishes(p.picture, cg, {}, {});
  const auto corners =
      std::find_if(c.numbers.begin(), c.numbers.end(),
                   [](const FinishDifference& d) { return d.part == FinishPart::corners; });
  ASSERT_NE(corners, c.numbers.end());
  EXPECT_NEAR(corners->off.value, 0.7, std::max(0.02, corners->off.margin));
  const auto advised = finish_suggestions(c, {});
  ASSERT_FALSE(advised.empty());
  EXPECT_EQ(advised.front().key, "finish.corners");
  EXPECT_EQ(advised.front().to, "-0.70 stops");
}

TEST(FinishComparison, TwoSizesAreRefused) {
  EXPECT_THROW(compare_finishes(Picture({100, 100}), Picture({100, 90}), {}, {}), UsageError);
}

}  // namespace finish_likeness_test
}  // namespace jolly_iris
