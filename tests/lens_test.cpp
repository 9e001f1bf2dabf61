#include "jolly_iris/optics/lens.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace lens_test {

using testing::holds;
using testing::message_of;

const Body body{.gate = {24_mm, 16_mm}, .pixels = {2400, 1600}};
const Take take{.stop = f_number(2)};

TEST(Converter, MultipliesFocalLengthAndPupilAndKeepsTheFNumber) {
  const VirtualCamera c =
      resolve(body, {.focal = 50_mm, .converter = 1.5}, take, Length::infinity());
  EXPECT_DOUBLE_EQ(c.lens_focal.mm(), 75.0);
  EXPECT_DOUBLE_EQ(c.aperture_radius.mm(), 18.75);
  EXPECT_DOUBLE_EQ(c.lens_f_number, 2.0);
}

// Two thin lenses a telescope's length apart, traced by hand with Gaussian formulas; as the
// telescope gets shorter (same ratio) it tends to the ideal one.
TEST(Converter, MarksMeanDistancesLargerByItsSquare) {
  const Lens lens{.focal = 50_mm, .converter = 1.4};
  const Length bare = focus_from_mark({.focal = 50_mm}, 2_m);
  EXPECT_NEAR(focus_from_mark(lens, 2_m) / bare, 1.96, 1e-12);
  // Through the afocal pair (f₁ = 1.4 mm, f₂ = −1 mm) an object at s has its image where the bare
  // lens is focused.
  const double f1 = 1.4;
  const double f2 = -1.0;
  const double s = focus_from_mark(lens, 2_m).mm();
  const double first = 1.0 / (1.0 / f1 - 1.0 / s);        // image behind the first lens
  const double object = -(first - (f1 + f2));             // seen from the second
  const double second = 1.0 / (1.0 / f2 - 1.0 / object);  // image seen from the second
  EXPECT_NEAR(-second / bare.mm(), 1.0, 0.01);
}

TEST(CloseUp, AddsItsDioptres) {
  const Lens lens{.focal = 50_mm, .close_up = Power::from_dioptres(2)};
  // At the barrel's infinity it focuses at 1 / P, whatever the focal length.
  EXPECT_DOUBLE_EQ(focus_from_mark(lens, Length::infinity()).m(), 0.5);
  const double bare = focus_from_mark({.focal = 50_mm}, 1_m).m();
  EXPECT_NEAR(1.0 / focus_from_mark(lens, 1_m).m(), 1.0 / bare + 2.0, 1e-12);
  // The sensor has not moved: v is that of the bare lens.
  EXPECT_NEAR(pinhole_focal(lens, focus_from_mark(lens, 1_m), 24_mm).mm(),
              pinhole_focal({.focal = 50_mm}, Length::from_m(bare), 24_mm).mm(), 1e-9);
}

TEST(CloseUp, DoesNotReachBeyondItsOwnDistance) {
  const Lens lens{.focal = 50_mm, .close_up = Power::from_dioptres(2)};
  EXPECT_DOUBLE_EQ(farthest_focus(lens).m(), 0.5);
  const auto message = message_of<OpticsError>([&] { (void)resolve(body, lens, take, 1_m); });
  EXPECT_TRUE(holds(message, "0.5 m"));
  EXPECT_TRUE(holds(message, "2 dioptres"));
}

TEST(Breathing, MeasuredReplacesTheSimpleLens) {
  Lens lens{.focal = 50_mm};
  lens.breathing = {{.mark = 0.5_m, .focal = 60_mm}, {.mark = 2_m, .focal = 52_mm}};
  const auto at_mark = [&](Length mark) {
    return resolve(body, lens, {.stop = f_number(2), .mark = mark}).focal.mm();
  };
  EXPECT_NEAR(at_mark(0.5_m), 60.0, 1e-9);
  EXPECT_NEAR(at_mark(2_m), 52.0, 1e-9);
  EXPECT_NEAR(at_mark(0.8_m), 56.0, 1e-9);  // 1.25 dioptres: half-way between 2 and 0.5
  EXPECT_NEAR(at_mark(0.4_m), 60.0, 1e-9);  // held; the report says so
  EXPECT_TRUE(beyond_table(lens.breathing, 0.4_m));
  EXPECT_FALSE(beyond_table(lens.breathing, 1_m));
}

TEST(Breathing, AsAFieldOfViewCountsTheGate) {
  Lens lens{.focal = 50_mm};
  lens.breathing = {{.mark = 0.5_m, .field = 20_deg}, {.mark = 5_m, .field = 26_deg}};
  const VirtualCamera c = resolve(body, lens, {.stop = f_number(2), .mark = 0.5_m});
  EXPECT_NEAR(c.horizontal_field_of_view().degrees(), 20.0, 1e-9);
}

TEST(Breathing, OfAZoomScalesWithItsFocalLength) {
  Lens lens{.focal = 100_mm, .zoom = ZoomRange{50_mm, 100_mm}};
  lens.breathing_at = 50_mm;
  lens.breathing = {{.mark = 1_m, .focal = 54_mm}, {.mark = Length::infinity(), .focal = 50_mm}};
  EXPECT_NEAR(resolve(body, lens, take, Length::infinity()).focal.mm(), 100.0, 1e-9);
  EXPECT_NEAR(resolve(body, lens, {.stop = f_number(2), .mark = 1_m}).focal.mm(), 108.0, 1e-9);
}

TEST(Squeeze, MeasuredAtAFocusChangesCirclesAndDiscs) {
  Lens lens{.focal = 50_mm, .squeeze = 2.0};
  lens.squeezes = {{.mark = 1_m, .squeeze = 1.6}, {.mark = Length::infinity(), .squeeze = 2.0}};
  EXPECT_DOUBLE_EQ(squeeze_at_focus(lens, Length::infinity()), 2.0);
  const VirtualCamera c = resolve(body, lens, {.stop = f_number(2), .mark = 1_m});
  EXPECT_NEAR(c.squeeze, 1.6, 1e-12);
  // Desqueezed by the nominal 2: a circle in focus is S₀ / S wide, a disc S² / S₀ times taller.
  EXPECT_NEAR(c.pixel_pitch() / c.pixel_pitch_x(), 2.0 / 1.6, 1e-12);
  const Length z = 3_m;
  const double height = circle_of_confusion(c, z) / c.pixel_pitch();
  const double width = circle_of_confusion_x(c, z) / c.pixel_pitch_x();
  EXPECT_NEAR(height / width, 1.6 * 1.6 / 2.0, 1e-12);
}

TEST(Lens, ImpossibleValuesAreNamed) {
  const auto key_of = [](const Lens& lens) {
    try {
      require_possible(lens);
    } catch (const OpticsError& e) {
      return e.key();
    }
    return std::string("nothing");
  };
  EXPECT_EQ(key_of({.focal = 50_mm}), "nothing");
  EXPECT_EQ(key_of({.focal = 50_mm, .zoom = ZoomRange{18_mm, 40_mm}}), "lens.focal");
  EXPECT_EQ(key_of({.focal = 50_mm, .converter = 0.0}), "lens.converter");
  EXPECT_EQ(key_of({.focal = 50_mm, .close_up = Power::from_dioptres(-1)}), "lens.close_up");
  EXPECT_EQ(key_of({.focal = 50_mm, .squeezes = {{1_m, 0.5}, {2_m, 1.0}}}), "lens.squeezes");
  EXPECT_EQ(key_of({.focal = 50_mm, .squeezes = {{1_m, 1.5}}}), "lens.squeezes");
  const BreathingPoint near{.mark = 1_m, .focal = 50_mm};
  EXPECT_EQ(key_of({.focal = 50_mm, .breathing = {near}}), "lens.breathing");
  EXPECT_EQ(key_of({.focal = 50_mm, .breathing = {near, near}}), "lens.breathing");
  EXPECT_EQ(key_of({.focal = 50_mm, .breathing = {near, {.mark = 2_m, .field = 190_deg}}}),
            "lens.breathing");
  EXPECT_EQ(key_of({.focal = 50_mm, .breathing = {near, {.mark = 2_m}}}), "lens.breathing");
}

TEST(Shift, MovesThePicturesCentre) {
  const VirtualCamera c = resolve(body, {.focal = 50_mm, .shift_up = 4_mm}, take, 5_m);
  const auto centre = direction_of_pixel(c, 1200, 800);
  EXPECT_NEAR(centre[1], 4.0 / c.focal.mm(), 1e-12);  // it sees more of what is above
  const auto axis = pixel_of_direction(c, {0, 0, -1});
  EXPECT_NEAR(axis[1], 800 + 400, 1e-9);  // and the axis lies lower in the picture
}

Lens any_lens() {
  Lens lens{.focal = Length::from_mm(*rc::gen::inRange(20, 200))};
  lens.converter = 0.01 * *rc::gen::inRange(60, 200);
  lens.close_up = Power::from_dioptres(0.1 * *rc::gen::inRange(0, 40));
  if (*rc::gen::arbitrary<bool>()) lens.pupil = Length::from_mm(*rc::gen::inRange(10, 200));
  return lens;
}

RC_GTEST_PROP(LensProperty, MarkAndFocusGoThereAndBack, ()) {
  const Lens lens = any_lens();
  const Length mark = Length::from_mm(*rc::gen::inRange(1200, 500000));
  const Length back = mark_from_focus(lens, focus_from_mark(lens, mark));
  RC_ASSERT(std::abs(back / mark - 1.0) < 1e-6);
}

RC_GTEST_PROP(LensProperty, BlurSeenThroughAttachmentsIsThatOfTheBareLens, ()) {
  // What stands in front changes distances, not what lands on the sensor: an object that the bare
  // lens sees at z_b is blurred as the bare lens blurs it.
  const Lens lens = any_lens();
  Lens bare = lens;
  bare.converter = 1.0;
  bare.close_up = {};
  const Length at = Length::from_mm(*rc::gen::inRange(500, 100000));
  const Length other = Length::from_mm(*rc::gen::inRange(500, 100000));
  const auto in_front = [&](Length b) {
    return Length::from_m(
        1.0 / (1.0 / (lens.converter * lens.converter * b.m()) + lens.close_up.dioptres()));
  };
  const VirtualCamera with = resolve(body, lens, take, in_front(at));
  const VirtualCamera without = resolve(body, bare, take, at);
  const double a = circle_of_confusion(with, in_front(other)).mm();
  const double b = circle_of_confusion(without, other).mm();
  RC_ASSERT(std::abs(a - b) < 1e-9 * (1.0 + std::abs(b)));
}

}  // namespace lens_test
}  // namespace jolly_iris
