#include "jolly_iris/optics/undistort.hpp"

#include <gtest/gtest.h>
// gtest before rapidcheck
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace undistort_test {

using testing::holds;
using testing::message_of;

VirtualCamera camera(const Distortion& distortion, Lens lens = {.focal = 24_mm}) {
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {3840, 2160}};
  lens.distortion = distortion;
  return resolve(body, lens, {.stop = f_number(4.0)}, 5_m);
}

TEST(Undistort, WithoutCoefficientsNothingMoves) {
  const DistortionMap map(camera({}));
  EXPECT_EQ(map.undistorted({12.5, 700.25}), (std::array{12.5, 700.25}));
  EXPECT_EQ(map.distorted({12.5, 700.25}), (std::array{12.5, 700.25}));
  EXPECT_EQ(map.margin().beside, 0);
}

TEST(Undistort, FollowsBrownsPolynomial) {
  // By hand: the right corner is r = 1, so it moves out by k1 + k2 + k3 of its distance.
  const DistortionMap map(camera({.k = {0.03, -0.004, 0.001}}));
  const auto corner = map.undistorted({3840.0, 0.0});
  // The gate's half diagonal, 14.112 mm, is the corner's distance where pixels are square.
  const double half_px = std::hypot(25.9, 14.56875) / 2.0 / (14.56875 / 2160.0);
  const double r2 = (1920.0 * 1920.0 * (25.9 / 3840.0) * (25.9 / 3840.0) /
                         ((14.56875 / 2160.0) * (14.56875 / 2160.0)) +
                     1080.0 * 1080.0) /
                    (half_px * half_px);
  const double resample = 1.0 + 0.03 * r2 - 0.004 * r2 * r2 + 0.001 * r2 * r2 * r2;
  EXPECT_NEAR(corner[0], 1920.0 + 1920.0 * resample, 1e-9);
  EXPECT_NEAR(corner[1], 1080.0 - 1080.0 * resample, 1e-9);
  EXPECT_NEAR(r2, 1.0, 1e-12);
}

TEST(Undistort, DecentringPullsToOneSide) {
  // p1 alone: x gains p1 (r² + 2x²), y gains 2 p1 x y.
  const DistortionMap map(camera({.p = {0.002, 0.0}, .radius = 10_mm}));
  const double px = 10.0 / (25.9 / 3840.0);
  const auto u = map.undistorted({1920.0 + px, 1080.0});
  EXPECT_NEAR(u[0], 1920.0 + px * 1.006, 1e-9);
  EXPECT_NEAR(u[1], 1080.0, 1e-9);
}

TEST(Undistort, TurnsAboutTheAxisOfAShiftedLens) {
  const VirtualCamera c = camera({.k = {0.05}}, {.focal = 24_mm, .shift_up = 3_mm});
  const DistortionMap map(c);
  const std::array<double, 2> axis{1920.0, 1080.0 + 3.0 / (14.56875 / 2160.0)};
  const auto u = map.undistorted(axis);
  EXPECT_NEAR(u[0], axis[0], 1e-9);
  EXPECT_NEAR(u[1], axis[1], 1e-9);
}

TEST(Undistort, SqueezedLensesBendTheirTwoWaysApart) {
  const VirtualCamera c =
      camera({.k = {0.01}, .width = std::array{0.08, 0.0, 0.0}}, {.focal = 50_mm, .squeeze = 2.0});
  const DistortionMap map(c);
  const auto right = map.undistorted({3840.0, 1080.0});
  const auto top = map.undistorted({1920.0, 0.0});
  const double width = (right[0] - 3840.0) / 1920.0;
  const double height = -top[1] / 1080.0;
  EXPECT_GT(width, 0.05);
  EXPECT_LT(height, 0.1 * width);
}

RC_GTEST_PROP(Undistort, ThereAndBackIsExact, ()) {
  Distortion d;
  const auto fraction = [](int max) { return *rc::gen::inRange(-1000, 1001) * 1e-3 * max; };
  d.k = {fraction(1) * 0.08, fraction(1) * 0.02, fraction(1) * 0.005};
  d.p = {fraction(1) * 0.003, fraction(1) * 0.003};
  if (*rc::gen::inRange(0, 2) == 1)
    d.width = std::array{fraction(1) * 0.08, fraction(1) * 0.02, 0.0};
  const DistortionMap map(camera(d));
  const std::array<double, 2> plate{*rc::gen::inRange(0, 3841) * 1.0,
                                    *rc::gen::inRange(0, 2161) * 1.0};
  const auto back = map.distorted(map.undistorted(plate));
  RC_ASSERT(back.has_value());
  RC_ASSERT(std::hypot((*back)[0] - plate[0], (*back)[1] - plate[1]) < 1e-6);
  // And the other way, for what CG shows within the frame.
  const auto bent = map.distorted(plate);
  if (bent) {
    const auto again = map.undistorted(*bent);
    RC_ASSERT(std::hypot(again[0] - plate[0], again[1] - plate[1]) < 1e-6);
  }
}

TEST(Undistort, TheMarginHoldsAllOfThePlate) {
  const DistortionMap map(camera({.k = {0.04, 0.005}}));
  const Margin m = map.margin();
  const auto corner = map.undistorted({0.0, 0.0});
  EXPECT_GE(m.beside, -corner[0] - 1e-9);
  EXPECT_LT(m.beside, -corner[0] + 1.0);
  EXPECT_GE(m.above, -corner[1] - 1e-9);
  EXPECT_EQ(DistortionMap(camera({.k = {-0.04}})).margin().beside, 0) << "pincushion needs none";
}

TEST(Undistort, WhatTheLensCannotShowHasNoPlace) {
  // Pincushion: the undistorted radius turns back beyond the frame; nothing is out there.
  const DistortionMap map(camera({.k = {-0.2}}));
  EXPECT_FALSE(map.distorted({1920.0 + 4000.0, 1080.0}).has_value());
  EXPECT_TRUE(map.distorted({1920.0 + 1000.0, 1080.0}).has_value());
}

TEST(Undistort, CoefficientsThatFoldThePictureAreRefused) {
  for (const Distortion& d :
       {Distortion{.k = {-0.5}}, Distortion{.k = {0.1, -0.9}}, Distortion{.p = {0.4, 0.0}},
        Distortion{.k = {-0.03}, .radius = 2_mm}}) {
    const std::string message = message_of<OpticsError>([&] { DistortionMap map(camera(d)); });
    EXPECT_TRUE(holds(message, "folds the picture onto itself")) << message;
  }
}

TEST(DistortionFigures, AreWhatAnEyeSees) {
  const DistortionFigures vignetting = figures_of_distortion(camera({.k = {0.03}}));
  EXPECT_EQ(vignetting.kind, "barrel");
  EXPECT_NEAR(vignetting.corner_percent, 3.0, 1e-6);
  EXPECT_GT(vignetting.bend_px, 10.0);
  EXPECT_EQ(figures_of_distortion(camera({.k = {-0.03}})).kind, "pincushion");
  EXPECT_EQ(figures_of_distortion(camera({.k = {0.06, -0.05}})).kind,
            "barrel within, pincushion outside");
}

}  // namespace undistort_test
}  // namespace jolly_iris
