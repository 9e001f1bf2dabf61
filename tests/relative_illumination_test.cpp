#include "jolly_iris/optics/relative_illumination.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace relative_illumination_test {

using testing::holds;
using testing::message_of;

const Body body{.gate = {36_mm, 24_mm}, .pixels = {3000, 2000}};

VirtualCamera camera_of(const Lens& lens, double n = 2.0) {
  return resolve(body, lens, {.stop = f_number(n)}, Length::infinity());
}

double stops_at(const RelativeIllumination& f, double x, double y) {
  return -std::log2(f.fraction({x, y}));
}

// Of two discs of radii a and b, d apart: the share of the first that both cover.
double shared(double a, double b, double d) {
  if (d <= std::abs(a - b)) return std::min(1.0, b * b / (a * a));
  const double u = std::acos((d * d + a * a - b * b) / (2 * d * a));
  const double v = std::acos((d * d + b * b - a * a) / (2 * d * b));
  const double kite = 0.5 * std::sqrt((-d + a + b) * (d + a - b) * (d - a + b) * (d + a + b));
  return (a * a * u + b * b * v - kite) / (std::numbers::pi * a * a);
}

TEST(RelativeIllumination, WithoutABarrelIsTheFourthPowerOfTheCosine) {
  const Lens lens{.focal = 24_mm};
  const RelativeIllumination f(lens, camera_of(lens));
  const double corner = std::atan(std::hypot(18.0, 12.0) / 24.0);
  const CornerLoss loss = corner_loss(lens, camera_of(lens));
  EXPECT_NEAR(loss.stops, -4.0 * std::log2(std::cos(corner)), 1e-9);
  EXPECT_NEAR(stops_at(f, 0.0, 0.0), loss.stops, 1e-9);
  EXPECT_NEAR(stops_at(f, 1500.0, 1000.0), 0.0, 1e-9);
  // At 500 px = 6 mm to the right: 14.04 deg.
  EXPECT_NEAR(stops_at(f, 2000.0, 1000.0), -4.0 * std::log2(std::cos(std::atan(6.0 / 24.0))), 2e-4);
  EXPECT_FALSE(loss.vignetting_known);
  EXPECT_NEAR(*loss.vignetting, 0.0, 1e-9);
}

TEST(RelativeIllumination, AFrontRimCutsALensShapeOutOfTheOpening) {
  // Pupil of 12.5 mm radius, a rim of 18 mm 40 mm in front: at angle a it moves by 40 tan a.
  const Lens lens{.focal = 50_mm, .vignetting = {{18_mm, 40_mm}}};
  const VirtualCamera camera = camera_of(lens);
  for (const double mm : {5.0, 10.0, 15.0, 21.0}) {
    EXPECT_NEAR(open_fraction_of(lens.vignetting, camera, Length::from_mm(mm), {}),
                shared(12.5, 18.0, 40.0 * mm / 50.0), 2e-3)
        << mm;
  }
  // A rear rim of the same size cuts as much, from the other side.
  const Lens rear{.focal = 50_mm, .vignetting = {{18_mm, Length::from_mm(-40.0)}}};
  EXPECT_NEAR(open_fraction_of(rear.vignetting, camera, 10_mm, {}),
              open_fraction_of(lens.vignetting, camera, 10_mm, {}), 2e-3);
}

TEST(RelativeIllumination, ClosingDownMakesTheBarrelGoAway) {
  const Lens lens{.focal = 50_mm, .vignetting = {{20_mm, 40_mm}, {20_mm, Length::from_mm(-30.0)}}};
  const CornerLoss open = corner_loss(lens, camera_of(lens, 2.0));
  const CornerLoss closed = corner_loss(lens, camera_of(lens, 16.0));
  EXPECT_GT(*open.vignetting, 0.4);
  EXPECT_NEAR(*closed.vignetting, 0.0, 0.01);
  EXPECT_NEAR(*open.natural, *closed.natural, 1e-9);
  EXPECT_NEAR(open.stops, *open.natural + *open.vignetting, 1e-9);
  // The darkest of the four corners: a round rim's chords do not lie alike in all of them.
  const RelativeIllumination f(lens, camera_of(lens, 2.0));
  EXPECT_NEAR(std::max({stops_at(f, 0.0, 0.0), stops_at(f, 3000.0, 0.0), stops_at(f, 0.0, 2000.0),
                        stops_at(f, 3000.0, 2000.0)}),
              open.stops, 1e-9);
}

TEST(RelativeIllumination, AMeasuredTableIsMetAndLeadsOverTheRest) {
  const Lens lens{.focal = 24_mm,
                  .vignetting = {{30_mm, 40_mm}},
                  .loss = {{6_mm, 0.1}, {12_mm, 0.5}, {18_mm, 1.2}}};
  const RelativeIllumination f(lens, camera_of(lens));
  EXPECT_NEAR(stops_at(f, 2000.0, 1000.0), 0.1, 0.01);
  EXPECT_NEAR(stops_at(f, 2500.0, 1000.0), 0.5, 0.01);
  EXPECT_NEAR(stops_at(f, 3000.0, 1000.0), 1.2, 0.01);
  double before = -1.0;
  for (double x = 1500.0; x <= 3000.0; x += 10.0) {
    EXPECT_GE(stops_at(f, x, 1000.0), before - 1e-9) << "rises evenly, " << x;
    before = stops_at(f, x, 1000.0);
  }
  const CornerLoss loss = corner_loss(lens, camera_of(lens));
  EXPECT_TRUE(loss.beyond_table);  // the corner is at 21.6 mm
  EXPECT_FALSE(loss.natural);
}

TEST(RelativeIllumination, OfASqueezedLensIsAnOval) {
  const Lens lens{
      .focal = 50_mm, .squeeze = 2.0, .loss = {{6_mm, 0.5}, {12_mm, 1.0}, {25_mm, 2.0}}};
  const Body squeezed{.gate = {18_mm, 24_mm}, .pixels = {3000, 2000}};
  const RelativeIllumination f(lens,
                               resolve(squeezed, lens, {.stop = f_number(2)}, Length::infinity()));
  // 6 mm on the gate are 12 mm of the 36 mm that the desqueezed picture shows, and 6 of its 24 up.
  EXPECT_NEAR(stops_at(f, 1500.0 + 1000.0, 1000.0), 0.5, 0.01);
  EXPECT_NEAR(stops_at(f, 1500.0, 1000.0 - 500.0), 0.5, 0.01);
}

TEST(RelativeIllumination, OfAShiftedLensIsAboutItsAxis) {
  const Lens lens{.focal = 24_mm, .shift_up = 6_mm};
  const RelativeIllumination f(lens, camera_of(lens));
  EXPECT_NEAR(stops_at(f, 1500.0, 1500.0), 0.0, 2e-3);  // 6 mm below the middle
  EXPECT_GT(stops_at(f, 0.0, 0.0), stops_at(f, 0.0, 2000.0));
}

TEST(RelativeIllumination, RefusesABarrelThatCutsTheMiddleAndTablesOutOfOrder) {
  const Lens narrow{.focal = 50_mm, .vignetting = {{5_mm, 40_mm}}};
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)corner_loss(narrow, camera_of(narrow)); }),
                    "in the picture's middle; f/2 needs an opening of 25 mm"));
  const Lens nothing{.focal = 50_mm, .vignetting = {{0_mm, 40_mm}}};
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)camera_of(nothing); }), "rim's radius"));
  const Lens mixed{.focal = 50_mm, .loss = {{9_mm, 0.4}, {8_mm, 0.5}}};
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)camera_of(mixed); }), "heights rise"));
  const Lens brighter{.focal = 50_mm, .loss = {{9_mm, -0.4}}};
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)camera_of(brighter); }), "0 or more"));
}

}  // namespace relative_illumination_test
}  // namespace jolly_iris
