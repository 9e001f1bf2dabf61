#include "jolly_iris/optics/distance.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/optics/depth_code.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace distance_test {

using testing::holds;
using testing::message_of;

const Lens lens{.focal = 50_mm};
Lens with_pupil() {
  Lens l = lens;
  l.pupil = 80_mm;
  return l;
}

TEST(Distance, RadialIsLongerOffAxis) {
  EXPECT_NEAR(axial_from_radial(4_m, 30_deg).m(), 3.4641, 5e-5);
  EXPECT_NEAR(radial_from_axial(3.4641016_m, 30_deg).m(), 4.0, 1e-7);
  EXPECT_THROW((void)axial_from_radial(4_m, 90_deg), OpticsError);
}

TEST(Distance, TapeStartsAtTheSensor) {
  EXPECT_NEAR(axial_from_tape(with_pupil(), 2_m, {}).m(), 1.92, 1e-12);
  // Off the axis: a triangle of 3, 4 and 5 with the pupil 1 m in front of the sensor.
  Lens far = lens;
  far.pupil = 1_m;
  const Angle off = Angle::from_radians(std::atan2(4.0, 2.0));
  EXPECT_NEAR(axial_from_tape(far, 5_m, off).m(), 2.0, 1e-12);
  // Without a known pupil a tape along the axis is the barrel's mark.
  EXPECT_NEAR(axial_from_tape(lens, 1.5_m, {}) / focus_from_mark(lens, 1.5_m), 1.0, 1e-12);
}

TEST(Distance, TapeThatEndsInTheLensIsRefused) {
  const auto message =
      message_of<OpticsError>([] { (void)axial_from_tape(with_pupil(), 70_mm, {}); });
  EXPECT_TRUE(holds(message, "ends inside the lens"));
}

TEST(Distance, FloorKnowsHeightsAndTilt) {
  // Level: only the angle aside counts.
  EXPECT_NEAR(axial_from_floor(4_m, {}, 60_deg, {1.5_m, {}}).m(), 2.0, 1e-12);
  // Looking 30° down from 1.5 m at the floor 2 m away: 2 cos 30° + 1.5 sin 30°.
  EXPECT_NEAR(axial_from_floor(2_m, {}, {}, {1.5_m, -30_deg}).m(), std::sqrt(3.0) + 0.75, 1e-12);
  EXPECT_THROW((void)axial_from_floor(2_m, {}, 120_deg, {1.5_m, {}}), OpticsError);
  EXPECT_THROW((void)floor_from_axial(2_m, {}, {}, {1.5_m, -90_deg}), OpticsError);
}

TEST(Distance, APixelIsSeenUnderItsAngle) {
  const Body body{.gate = {36_mm, 24_mm}, .pixels = {3600, 2400}};
  const VirtualCamera c =
      resolve(body, {.focal = 18_mm}, {.stop = f_number(2)}, Length::infinity());
  EXPECT_NEAR(off_axis_of_pixel(c, 3600, 1200).degrees(), 45.0, 1e-9);
  EXPECT_NEAR(off_axis_of_pixel(c, 1800, 1200).degrees(), 0.0, 1e-9);
}

TEST(DepthCode, DecodesAllKinds) {
  using Kind = DepthCode::Kind;
  EXPECT_DOUBLE_EQ(decode_depth({.kind = Kind::axial, .unit = 1_cm}, 250).m(), 2.5);
  EXPECT_DOUBLE_EQ(decode_depth({.kind = Kind::inverse}, 0.5).m(), 2.0);
  EXPECT_TRUE(decode_depth({.kind = Kind::inverse}, 0.0).is_infinite());
  DepthCode n{.kind = Kind::normalised, .near = 1_m, .far = 5_m};
  EXPECT_DOUBLE_EQ(decode_depth(n, 0.25).m(), 2.0);
  n.white_is_near = true;
  EXPECT_DOUBLE_EQ(decode_depth(n, 0.25).m(), 4.0);
}

TEST(DepthCode, RefusesWhatStandsForNothing) {
  EXPECT_THROW((void)decode_depth({}, 0.0), PictureError);
  EXPECT_THROW((void)decode_depth({}, std::nan("")), PictureError);
  EXPECT_THROW((void)decode_depth({.kind = DepthCode::Kind::inverse}, -1.0), PictureError);
  EXPECT_THROW((void)decode_depth({.kind = DepthCode::Kind::normalised}, 0.5), UsageError);
}

Angle any_angle() { return Angle::from_degrees(0.1 * *rc::gen::inRange(0, 800)); }
Length any_distance() { return Length::from_mm(*rc::gen::inRange(300, 1000000)); }

RC_GTEST_PROP(DistanceProperty, RadialAndTapeGoThereAndBack, ()) {
  const Angle off = any_angle();
  const Length axial = any_distance();
  RC_ASSERT(std::abs(axial_from_radial(radial_from_axial(axial, off), off) / axial - 1.0) < 1e-12);
  for (const Lens& l : {lens, with_pupil()}) {
    const Length tape = tape_from_axial(l, axial, off);
    RC_ASSERT(tape > radial_from_axial(axial, off));  // the sensor lies behind the pupil
    RC_ASSERT(std::abs(axial_from_tape(l, tape, off) / axial - 1.0) < 1e-9);
  }
}

RC_GTEST_PROP(DistanceProperty, FloorGoesThereAndBack, ()) {
  const Stand stand{Length::from_mm(*rc::gen::inRange(0, 3000)),
                    Angle::from_degrees(*rc::gen::inRange(-60, 60))};
  const Length thing = Length::from_mm(*rc::gen::inRange(0, 3000));
  const Angle aside = any_angle();
  const Length axial = any_distance();
  const Length floor = floor_from_axial(axial, thing, aside, stand);
  RC_ASSERT(std::abs(axial_from_floor(floor, thing, aside, stand) / axial - 1.0) < 1e-9);
}

RC_GTEST_PROP(DistanceProperty, DepthCodesGoThereAndBack, ()) {
  using Kind = DepthCode::Kind;
  DepthCode code;
  code.kind = *rc::gen::element(Kind::axial, Kind::radial, Kind::inverse, Kind::normalised);
  code.unit = *rc::gen::element(Length::from_mm(1), Length::from_mm(10), Length::from_m(1));
  code.near = 0.2_m;
  code.far = 400_m;
  code.white_is_near = *rc::gen::arbitrary<bool>();
  const Length axial = any_distance();
  const Length radial = axial * 1.1;
  const Length back = decode_depth(code, encode_depth(code, axial, radial));
  RC_ASSERT(std::abs(back / (code.kind == Kind::radial ? radial : axial) - 1.0) < 1e-9);
}

}  // namespace distance_test
}  // namespace jolly_iris
