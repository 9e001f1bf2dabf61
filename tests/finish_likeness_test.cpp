// Corners of a plate, and two pictures' finishes against each other.
#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <limits>
#include <vector>

#include "jolly_iris/measure/finish_comparison.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/grain.hpp"
#include "plates/cornered.hpp"
#include "plates/grained.hpp"
#include "plates/haloed.hpp"
#include "plates/likeness.hpp"
#include "plates/rayed.hpp"
#include "plates/smeared.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace finish_likeness_test {

using testing::holds;

TEST(CornersInPlate, AreToldWhereSurfacesAgree) {
  int easy = 0;
  int easy_told = 0;
  int powers = 0;
  const int plates = testing::cases(24, 4);
  for (int i = 0; i < plates; ++i) {
    const auto seed = static_cast<std::uint32_t>(9701 + i);
    const plates::CorneredPlate p = plates::cornered_plate(seed, i % 2 == 1, false);
    const CornersFinding f = corners_in(p.picture);
    EXPECT_EQ(f.stops.has_value(), f.no_corners.empty()) << seed;
    easy += p.surfaces >= 2;
    easy_told += p.surfaces >= 2 && f.stops;
    if (!f.stops) continue;
    EXPECT_NEAR(f.stops->value, p.stops, 1.5 * f.stops->margin) << seed;
    if (!f.power) continue;
    ++powers;
    EXPECT_NEAR(f.power->value, p.power, 1.5 * f.power->margin) << seed;
  }
  // Two surfaces that happen to be alike along their border are one: few of them are.
  EXPECT_GE(10 * easy_told, 8 * easy);
  EXPECT_GE(powers, testing::cases(8, 0));
}

// Two walls, one with its light falling to the right, that are equally light along one row of
// squares: they are not one surface, or what they bend by would be neither's.
TEST(CornersInPlate, WallsThatMeetInLightAreTwo) {
  Picture plate({720, 408});
  const double half = 0.5 * std::hypot(720.0, 408.0);
  for (int y = 0; y < 408; ++y) {
    for (int x = 0; x < 720; ++x) {
      const double dx = (x + 0.5 - 360.0) / half;
      const double dy = (y + 0.5 - 204.0) / half;
      const double wall = x < 360 ? -2.0 + 0.8 * dy : -2.0 - 0.8 * dy;
      const auto light = static_cast<float>(std::exp2(wall - 1.2 * (dx * dx + dy * dy)));
      plate.at(x, y) = {light, light, light, 1.0F};
    }
  }
  const CornersFinding f = corners_in(plate);
  ASSERT_TRUE(f.stops) << f.no_corners;
  EXPECT_NEAR(f.stops->value, 1.2, 0.02);
  // 48 × 27 squares: a wall has half of them, and what the other has where they are alike.
  ASSERT_GE(f.surfaces.size(), 2U);
  for (const EvenSurface& surface : f.surfaces) EXPECT_LT(surface.squares, 800);
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
    const plates::Likeness like = plates::likeness(c);
    ++looked_at;
    differ += like.free == 0 || like.chi2 > like.limit;
    EXPECT_LE(like.most_db, 1.0) << seed;
    EXPECT_EQ(c.grain_bands.size(), 4U) << seed;
    EXPECT_TRUE(finish_suggestions(c, {}).empty()) << seed;
  }
  EXPECT_GE(looked_at, plates / 2);
  EXPECT_LE(20 * differ, looked_at);
}

// The scene without a part, through our own finish as the plate tells it, against the plate, which
// was drawn in closed form.
template <class Made>
void expect_alike(const Made& made, FinishPart part) {
  const FinishInPlate found = finish_in(made.picture, {});
  ASSERT_TRUE(plates::is_told(found, part)) << to_string(part);
  const Picture cg = plates::finished_like(made.clean, found);
  const plates::Likeness like = plates::likeness(compare_finishes(made.picture, cg, {}, {}));
  EXPECT_GT(like.free, 0);
  EXPECT_EQ(like.missing, 0) << to_string(part);
  EXPECT_LE(like.chi2, like.limit) << to_string(part) << like.worst;
}

TEST(FinishComparison, APlateAndItsBareSceneAreToldApart) {
  const plates::CorneredPlate p = plates::cornered_plate(140006, false, false);
  const plates::Likeness like = plates::likeness(compare_finishes(p.picture, p.clean, {}, {}));
  EXPECT_GT(like.chi2, like.limit);
}

// Whichever part a plate has, all of them are looked for: one tells what there is of memory.
TEST(FinishComparison, APartAsMeasuredIsNotToldFromThePlates) {
  const std::vector<std::function<void()>> parts = {
      [] { expect_alike(plates::cornered_plate(140006, false, false), FinishPart::corners); },
      [] { expect_alike(plates::smeared_plate(140007, false), FinishPart::smear); },
      [] { expect_alike(plates::rayed_plate(140007, false, 1), FinishPart::streak); },
      [] { expect_alike(plates::haloed_plate(140005, false), FinishPart::halo); }};
  const int all = static_cast<int>(parts.size());
  for (int i = 0; i < testing::cases(all, 1); ++i) parts[static_cast<std::size_t>(i)]();
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
