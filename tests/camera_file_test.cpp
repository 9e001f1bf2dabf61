// Discs in files as cameras make them, drawn by plates/: what blurs and sharpens edges is told by
// the plate itself, and what it cannot tell is margin.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <random>

#include "jolly_iris/measure/discs.hpp"
#include "plates/grid.hpp"
#include "plates/lookalikes.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace camera_file_test {

std::string folder() {
  return (std::filesystem::path(::testing::TempDir()) / "jolly_iris_camera_files").string();
}

struct Diameters {
  int whole = 0;
  int found = 0;
  int hold = 0;
  double mean_off = 0.0;
};

Diameters diameters(const plates::GridPlate& made, const FoundDiscs& seen) {
  Diameters out;
  const std::vector<bool> whole = plates::whole_discs(made.drawing);
  for (std::size_t i = 0; i < whole.size(); ++i) {
    if (!whole[i]) continue;
    ++out.whole;
    const plates::Lamp& lamp = made.drawing.lamps[i];
    for (const PlateDisc& d : seen.discs) {
      if (std::hypot(d.at[0] - lamp.at.x, d.at[1] - lamp.at.y) > 0.25 * lamp.height_px) continue;
      const double off = d.height_px.value - lamp.height_px;
      ++out.found;
      out.hold += std::abs(off) <= d.height_px.margin ? 1 : 0;
      out.mean_off += off;
      break;
    }
  }
  out.mean_off /= std::max(1, out.found);
  return out;
}

// Plates of the grid that were read wrongly as long as all edges were taken for a tent's: seeds,
// and how far off the mean disc may be, px.
struct Case {
  std::uint32_t seed = 0;
  const char* what = "";
  double mean_off = 0.0;
};
class CameraFiles : public ::testing::TestWithParam<Case> {};

TEST_P(CameraFiles, TellDiametersWithinTheirMargins) {
  const plates::GridPlate made = plates::grid_plate(GetParam().seed);
  const FoundDiscs seen = discs_in_plate(plates::picture_of(made, folder()));
  const Diameters d = diameters(made, seen);
  EXPECT_GE(d.whole, 20);
  EXPECT_GE(d.found, d.whole - 1);
  EXPECT_GE(10 * d.hold, 8 * d.found) << d.hold << " of " << d.found << " hold";
  EXPECT_NEAR(d.mean_off, 0.0, GetParam().mean_off);
}

// Constants were chosen with these; see bench/grid for others.
const std::vector<Case> grid_cases{{107, "a denoised JPEG, clipped fourfold", 0.35},
                                   {30058, "sharpened half floats, clipped twofold", 0.35},
                                   {101, "half floats of bare photosites, clipped eightfold", 0.35},
                                   {110, "half floats of bare photosites, clipped twofold", 0.2},
                                   {128, "a sharpened JPEG, clipped fourfold", 0.35},
                                   {148, "denoised half floats, clipped fourfold", 0.35}};
INSTANTIATE_TEST_SUITE_P(OfTheGrid, CameraFiles,
                         ::testing::ValuesIn(grid_cases.begin(),
                                             grid_cases.begin() + testing::cases(6, 2)),
                         [](const auto& one) { return "Seed" + std::to_string(one.param.seed); });

TEST(CameraFile, ThatOvershootsItsClipIsClippedWhereItsLightsAre) {
  const plates::GridPlate made = plates::grid_plate(116);  // sharpened half floats
  const FoundDiscs seen = discs_in_plate(plates::picture_of(made, folder()));
  ASSERT_TRUE(seen.clipped_at.has_value());
  EXPECT_NEAR(*seen.clipped_at, 1.0, 1e-3);
  const Diameters d = diameters(made, seen);
  EXPECT_GE(d.found, d.whole - 2);
}

// Two starts within one clipped disc, and a start that leads astray.
class OneClippedDisc : public ::testing::TestWithParam<std::uint32_t> {};

TEST_P(OneClippedDisc, IsFoundOnceWithItsOwnEdge) {
  const plates::GridPlate made = plates::grid_plate(GetParam());
  const FoundDiscs seen = discs_in_plate(plates::picture_of(made, folder()));
  const std::vector<bool> whole = plates::whole_discs(made.drawing);
  for (std::size_t i = 0; i < whole.size(); ++i) {
    if (!whole[i]) continue;
    const plates::Lamp& lamp = made.drawing.lamps[i];
    int here = 0;
    for (const PlateDisc& d : seen.discs) {
      if (std::hypot(d.at[0] - lamp.at.x, d.at[1] - lamp.at.y) > 0.3 * lamp.height_px) continue;
      ++here;
      EXPECT_NEAR(d.height_px.value, lamp.height_px, std::max(d.height_px.margin, 1.5))
          << "at " << lamp.at.x << ", " << lamp.at.y;
    }
    EXPECT_EQ(here, 1) << "at " << lamp.at.x << ", " << lamp.at.y;
  }
}

INSTANTIATE_TEST_SUITE_P(OfTheGrid, OneClippedDisc,
                         ::testing::Values(110137U, 110129U, 110148U, 70111U));

// A fit that told nothing made no number of its neighbours' either.
TEST(CameraFile, WhoseLampsAreSharpenedHardKeepsItsDiscs) {
  const plates::GridPlate made = plates::grid_plate(120069);
  const Diameters d = diameters(made, discs_in_plate(plates::picture_of(made, folder())));
  EXPECT_GE(d.found, d.whole - 2);
  EXPECT_GE(10 * d.hold, 8 * d.found);
}

// Pixels and a codec's blocks have sides, which made twelve nearly circular blades of a circle.
TEST(CameraFile, OfARoundIrisHasNoBladesForSure) {
  const plates::GridPlate made = plates::grid_plate(260608);
  const PlateIris iris = discs_in_plate(plates::picture_of(made, folder())).iris;
  EXPECT_TRUE(iris.known) << iris.why;
  EXPECT_TRUE(iris.blades == 0 || !iris.sure()) << iris.blades;
  EXPECT_NE(std::find(iris.could_be.begin(), iris.could_be.end(), 0), iris.could_be.end());
}

// Edges are looked for beside the outline that is known, which is a circle at first: of straight
// blades the fits come near by and by, the larger the later.
class LargeDiscs : public ::testing::TestWithParam<double> {};

TEST_P(LargeDiscs, OfFewStraightBladesAreFound) {
  const double times = GetParam();
  plates::PlateDrawing d;
  d.size = {static_cast<int>(960.0 * times), static_cast<int>(540.0 * times)};
  d.opening = {5, 0.13, 61.9};
  d.ground = 0.04;
  for (int i = 0; i < 8; ++i) {
    plates::Lamp lamp;
    lamp.at = {times * (130.0 + 230.0 * (i % 4)), times * (130.0 + 270.0 * (i / 4))};
    lamp.height_px = times * (100.0 + 7.0 * i);
    lamp.own_px = 1.0;
    const double level = 0.3 + 0.04 * i;
    lamp.value = {level, 0.9 * level, 0.8 * level};
    d.lamps.push_back(lamp);
  }
  plates::CameraFile camera;
  camera.clip = 1.0;
  camera.quality = 92;
  std::filesystem::create_directories(folder());
  const std::string file = folder() + "/large.jpg";
  plates::record(plates::drawn(d), camera, file);
  const FoundDiscs seen = discs_in_plate(read_picture(file).colour);
  ASSERT_EQ(seen.discs.size(), d.lamps.size());
  EXPECT_TRUE(seen.iris.sure());
  EXPECT_EQ(seen.iris.blades, 5);
  EXPECT_NEAR(seen.iris.curvature.value, 0.13, 0.02);
  for (const plates::Lamp& lamp : d.lamps) {
    double least = 1e9;
    for (const PlateDisc& f : seen.discs) {
      if (std::hypot(f.at[0] - lamp.at.x, f.at[1] - lamp.at.y) > 10.0) continue;
      least = std::abs(f.height_px.value - lamp.height_px);
    }
    EXPECT_LT(least, 0.4) << lamp.height_px;
  }
}
const std::vector<double> larger{1.0, 1.5};
INSTANTIATE_TEST_SUITE_P(Times, LargeDiscs,
                         ::testing::ValuesIn(larger.begin(), larger.begin() + testing::cases(2, 1)),
                         [](const auto& one) { return one.param > 1.0 ? "Larger" : "Large"; });

// Converged CG, or any even ground: the most of a plate's bright pixels, and no clip.
TEST(CameraFile, WhoseLampsStandBeforeAnEvenWallIsNotClippedAtTheWall) {
  plates::PlateDrawing d;
  d.opening = {7, 0.2, 9.0};
  d.ground = 1e-9;
  for (int i = 0; i < 12; ++i) {
    plates::Lamp lamp;
    lamp.at = {80.0 + 150.0 * (i % 6), 140.0 + 250.0 * (i / 6)};
    lamp.height_px = 24.0 + 1.5 * i;
    const double level = 0.3 + 0.03 * i;
    lamp.value = {level, level, level};
    d.lamps.push_back(lamp);
  }
  Picture plate = plates::drawn(d);
  std::mt19937 random(1);
  std::normal_distribution<float> normal(0.0F, 1.0F);
  for (Rgba& p : plate.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) p[c] = (p[c] + 0.35F) * (1.0F + 5e-4F * normal(random));
  }
  const FoundDiscs seen = discs_in_plate(plate);
  EXPECT_FALSE(seen.clipped_at.has_value());
  ASSERT_EQ(seen.discs.size(), 12U);
  for (std::size_t i = 0; i < 12; ++i) {
    EXPECT_NEAR(seen.discs[i].height_px.value, d.lamps[11 - i].height_px,
                seen.discs[i].height_px.margin);
  }
}

TEST(CameraFile, WhoseCodecMadeALightEvenIsNotClippedThere) {
  const plates::GridPlate made = plates::grid_plate(141);  // the brightest lamp is 0.72 all over
  const FoundDiscs seen = discs_in_plate(plates::picture_of(made, folder()));
  EXPECT_FALSE(seen.clipped_at.has_value());
  for (const PlateDisc& d : seen.discs) EXPECT_FALSE(d.clipped);
}

class Lookalikes : public ::testing::TestWithParam<plates::Lookalike> {};

TEST_P(Lookalikes, TellNoIris) {
  const PixelSize size = testing::sanitized ? PixelSize{320, 180} : PixelSize{640, 360};
  for (int seed = 1; seed <= testing::cases(4, 1); ++seed) {
    const Picture picture = plates::lookalike(GetParam(), static_cast<std::uint32_t>(seed), size);
    const FoundDiscs seen = discs_in_plate(picture);
    EXPECT_FALSE(seen.iris.known) << "seed " << seed << ": " << seen.iris.blades << " blades from "
                                  << seen.iris.discs << " discs";
    EXPECT_FALSE(seen.iris.why.empty());
  }
}

INSTANTIATE_TEST_SUITE_P(OfAllKinds, Lookalikes, ::testing::ValuesIn(plates::all_lookalikes),
                         [](const auto& one) { return plates::name_of(one.param); });

TEST(FewDiscs, TellNoIrisUnlessSomebodyNamesOne) {
  plates::GridPlate made = plates::grid_plate(109);
  made.drawing.lamps.resize(2);
  for (plates::Lamp& lamp : made.drawing.lamps) lamp.height_px = 60.0;
  made.drawing.lamps[0].at = {300.0, 270.0};
  made.drawing.lamps[1].at = {660.0, 270.0};
  const Picture picture = plates::drawn(made.drawing);
  const FoundDiscs alone = discs_in_plate(picture);
  EXPECT_EQ(alone.discs.size(), 2U);
  EXPECT_FALSE(alone.iris.known);
  EXPECT_NE(alone.iris.why.find("three would settle it"), std::string::npos) << alone.iris.why;
  DiscHints hints;
  hints.lamps.push_back({{300.0, 270.0}, 60.0, "lamp"});
  const FoundDiscs named = discs_in_plate(picture, hints);
  EXPECT_TRUE(named.iris.known);
  EXPECT_EQ(named.iris.blades, made.drawing.opening.blades);
}

}  // namespace camera_file_test
}  // namespace jolly_iris
