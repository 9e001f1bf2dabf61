#include "jolly_iris/optics/perspective.hpp"

#include <gtest/gtest.h>
// gtest before rapidcheck
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace perspective_test {

using testing::holds;
using testing::message_of;

VirtualCamera camera(const Lens& lens = {.focal = 24_mm}) {
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {1920, 1080}};
  return resolve(body, lens, {.stop = f_number(4.0)}, 5_m);
}

Lean lean(double tilt, double roll = 0.0) {
  return {Angle::from_degrees(tilt), Angle::from_degrees(roll)};
}

TEST(Perspective, LookingUpTheHorizonIsBelow) {
  const auto d = levelled(lean(12), {0, 0, -1});
  EXPECT_NEAR(d[1], std::sin(12.0 * M_PI / 180.0), 1e-12);
  const auto up = leaning(lean(12), {0, 1, 0});
  EXPECT_LT(up[2], 0.0) << "what is above is ahead";
  // Clockwise as seen from behind: the world's up leans to the left of the camera's.
  EXPECT_LT(leaning(lean(0, 10), {0, 1, 0})[0], 0.0);
}

RC_GTEST_PROP(Perspective, LeaningUndoesLevelling, ()) {
  const Lean l = lean(*rc::gen::inRange(-80, 81), *rc::gen::inRange(-90, 91));
  const std::array<double, 3> d{*rc::gen::inRange(-100, 101) * 0.01, 0.3, -1.0};
  const auto back = leaning(l, levelled(l, d));
  for (std::size_t i = 0; i < 3; ++i) RC_ASSERT(std::abs(back[i] - d[i]) < 1e-12);
}

TEST(Perspective, TheLevelCameraKeepsWhatItShallKeep) {
  const VirtualCamera c = camera();
  const Lean l = lean(12);
  const LevelCamera level = level_camera(c, l, {960, 540});
  // By hand, for the middle: v cos θ and v sin θ.
  EXPECT_NEAR(level.camera.focal.mm(), c.focal.mm() * std::cos(12 * M_PI / 180), 1e-9);
  EXPECT_NEAR(level.camera.shift_up.mm(), c.focal.mm() * std::sin(12 * M_PI / 180), 1e-9);
  EXPECT_NEAR(level.camera.shift_right.mm(), 0.0, 1e-12);
  EXPECT_EQ(level.camera.aperture_radius, c.aperture_radius);
  EXPECT_NEAR(level.camera.f_number, level.camera.focal / (2.0 * c.aperture_radius), 1e-12);
  EXPECT_NEAR(level.camera.focus.mm(), c.focus.mm() * std::cos(12 * M_PI / 180), 1e-9);
  const auto kept = place_when_level(c, l, level, {960, 540});
  EXPECT_NEAR(kept[0], 960, 1e-9);
  EXPECT_NEAR(kept[1], 540, 1e-9);
}

TEST(Perspective, VerticalsAreParallelAndTheKeptPlaceKeepsItsSize) {
  const VirtualCamera c = camera({.focal = 24_mm, .shift_right = 1_mm});
  const Lean l = lean(-17, 4);
  const std::array<double, 2> kept{700, 900};
  const LevelCamera level = level_camera(c, l, kept);
  // Points of a vertical pole, as each camera sees them.
  for (const double x : {-1.5, 0.4, 2.0}) {
    const auto a = pixel_of_direction(level.camera, {x, -1.0, -4.0});
    const auto b = pixel_of_direction(level.camera, {x, 0.5, -4.0});
    EXPECT_NEAR(a[0], b[0], 1e-9);
  }
  // A small step along the level, at the kept place, is as long in both.
  const auto d = direction_of_pixel(c, kept[0], kept[1]);
  auto world = levelled(l, d);
  const auto here = place_when_level(c, l, level, kept);
  world[0] += 1e-6;
  const auto moved = pixel_of_direction(c, leaning(l, world));
  const auto moved_level = pixel_of_direction(level.camera, world);
  const double ratio = std::hypot(moved_level[0] - here[0], moved_level[1] - here[1]) /
                       std::hypot(moved[0] - kept[0], moved[1] - kept[1]);
  EXPECT_NEAR(ratio, 1.0, 0.12);
  const auto back = place_when_leaning(c, l, level, place_when_level(c, l, level, {10, 1000}));
  EXPECT_NEAR(back[0], 10, 1e-8);
  EXPECT_NEAR(back[1], 1000, 1e-8);
}

TEST(Perspective, TellsTheImageCircleItTakes) {
  const VirtualCamera c = camera();
  const LevelCamera level = level_camera(c, lean(12), {960, 540});
  const double up = level.camera.shift_up.mm();
  EXPECT_NEAR(level.image_circle.mm(), 2 * std::hypot(12.95, 14.56875 / 2 + up), 1e-6);
}

TEST(Perspective, TooSteepHasNoLevelCamera) {
  const std::string message = message_of<OpticsError>([] {
    (void)level_camera(camera(), lean(85), {960, 540});
  });
  EXPECT_TRUE(holds(message, "85 deg off the level axis")) << message;
}

TEST(Perspective, ConvergenceIsWhatAPoleAtTheSideDoes) {
  const VirtualCamera c = camera();
  const Lean l = lean(12);
  // Two points of a pole that crosses the middle of the right side, a hair apart.
  auto d = levelled(l, direction_of_pixel(c, 1920, 540));
  d[1] -= 1e-6;
  const auto a = pixel_of_direction(c, leaning(l, d));
  const double leaning_deg = std::abs(std::atan2(a[0] - 1920.0, a[1] - 540.0)) * 180 / M_PI;
  EXPECT_NEAR(max_convergence(c, l).degrees(), leaning_deg, 1e-3);
  EXPECT_NEAR(max_convergence(c, lean(0)).degrees(), 0.0, 1e-12);
}

}  // namespace perspective_test
}  // namespace jolly_iris
