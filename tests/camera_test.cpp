#include "jolly_iris/optics/camera.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace camera_test {

using testing::holds;
using testing::message_of;

const Body body{.gate = {19.1_mm, 10.7_mm}, .pixels = {1920, 1080}};
const Lens lens{.focal = 53_mm, .adapter = 0.76};
const Take take{.stop = f_number(2.2), .mark = 2.6_m};

// Worked by hand from the formulas, to the digits printed.
TEST(Camera, EqualsTheWorkedExample) {
  const VirtualCamera c = resolve(body, lens, take);
  EXPECT_NEAR(c.focus.m(), 2.545873, 5e-7);
  EXPECT_NEAR(c.focal.mm(), 41.13638, 5e-6);
  EXPECT_NEAR(c.f_number, 1.707548, 5e-7);
  EXPECT_NEAR(c.aperture_radius.mm(), 12.04545, 5e-6);
  EXPECT_NEAR(c.horizontal_field_of_view().degrees(), 26.13991, 5e-6);
  EXPECT_NEAR(c.vertical_field_of_view().degrees(), 14.82005, 5e-6);
  EXPECT_NEAR(to_pixels(circle_of_confusion(c, 10_m), c), 29.168, 5e-4);
  EXPECT_NEAR(to_pixels(circle_of_confusion(c, 1.5_m), c), -27.283, 5e-4);
  const SharpRange sharp = sharp_range(c, coc_limit({}, body, c));
  EXPECT_NEAR(sharp.near.m(), 2.422077, 5e-7);
  EXPECT_NEAR(sharp.far.m(), 2.683006, 5e-7);
}

TEST(Camera, HasBothPairsOfNumbers) {
  const VirtualCamera c = resolve(body, lens, take);
  EXPECT_DOUBLE_EQ(c.lens_focal.mm(), 53 * 0.76);
  EXPECT_DOUBLE_EQ(c.lens_f_number, 2.2 * 0.76);
  // The opening is one and the same in both.
  EXPECT_NEAR(c.focal / c.f_number / 2.0 / c.aperture_radius, 1.0, 1e-12);
  EXPECT_NEAR(c.lens_focal / c.lens_f_number / 2.0 / c.aperture_radius, 1.0, 1e-12);
}

TEST(Camera, FocusedAtInfinityIsTheLensItself) {
  const VirtualCamera c = resolve(body, lens, take, Length::infinity());
  EXPECT_DOUBLE_EQ(c.focal.mm(), c.lens_focal.mm());
  EXPECT_DOUBLE_EQ(c.f_number, c.lens_f_number);
  EXPECT_DOUBLE_EQ(c.magnification, 0.0);
  EXPECT_DOUBLE_EQ(circle_of_confusion(c, Length::infinity()).mm(), 0.0);
  EXPECT_LT(circle_of_confusion(c, 3_m).mm(), 0.0);
}

TEST(Camera, KnownPupilReplacesTheSimpleLens) {
  Lens with_pupil = lens;
  with_pupil.pupil = 90_mm;
  EXPECT_DOUBLE_EQ(focus_from_mark(with_pupil, 2.4_m).m(), 2.31);
  EXPECT_DOUBLE_EQ(mark_from_focus(with_pupil, 2.31_m).m(), 2.4);
}

TEST(Camera, AtOneToOneTheMarkIsFourFocalLengths) {
  EXPECT_DOUBLE_EQ(focus_from_mark(lens, 212_mm).mm(), 106.0);
  const VirtualCamera c = resolve(body, {.focal = 53_mm}, {.stop = f_number(2), .mark = 212_mm});
  EXPECT_DOUBLE_EQ(c.magnification, 1.0);
}

TEST(Camera, MarkCloserThanFourFocalLengthsIsRefused) {
  const auto message = message_of<OpticsError>([] { (void)focus_from_mark(lens, 0.2_m); });
  EXPECT_TRUE(holds(message, "four focal lengths"));
  EXPECT_TRUE(holds(message, "0.212 m"));
}

TEST(Camera, FrontSqueezeWidensTheViewAndNarrowsThePupil) {
  Lens squeezed{.focal = 53_mm, .squeeze = 2.0};
  const VirtualCamera c = resolve(body, squeezed, take);
  EXPECT_DOUBLE_EQ(c.gate.width.mm(), 38.2);
  EXPECT_DOUBLE_EQ(c.pupil_aspect(), 0.5);
  EXPECT_NEAR(circle_of_confusion_x(c, 10_m) / circle_of_confusion(c, 10_m), 0.5, 1e-12);
  squeezed.squeeze_at = SqueezeAt::rear;
  EXPECT_DOUBLE_EQ(resolve(body, squeezed, take).pupil_aspect(), 1.0);
}

TEST(Camera, TStopIsTurnedIntoAnOpeningByTheTransmission) {
  const Lens dark{.focal = 50_mm, .transmission = 0.81};
  EXPECT_DOUBLE_EQ(marked_f_number(dark, t_number(2.0)), 1.8);
  EXPECT_DOUBLE_EQ(marked_t_number(dark, f_number(1.8)), 2.0);
  EXPECT_DOUBLE_EQ(marked_t_number(dark, t_number(2.0)), 2.0);  // never divided out twice
}

TEST(Camera, ImpossibleValuesAreRefusedWithTheirKey) {
  const auto key_of = [](const Body& b, const Lens& l, const Take& t) {
    try {
      (void)resolve(b, l, t);
    } catch (const OpticsError& e) {
      return e.key();
    }
    return std::string("nothing thrown");
  };
  EXPECT_EQ(key_of({.gate = {0_mm, 9_mm}, .pixels = {1920, 1080}}, lens, take), "body.gate");
  EXPECT_EQ(key_of({.gate = body.gate, .pixels = {0, 1080}}, lens, take), "body.pixels");
  EXPECT_EQ(key_of(body, {.focal = -1.0 * 53_mm}, take), "lens.focal");
  EXPECT_EQ(key_of(body, {.focal = 53_mm, .adapter = 0.0}, take), "lens.adapter");
  EXPECT_EQ(key_of(body, {.focal = 53_mm, .transmission = 1.2}, take), "lens.transmission");
  EXPECT_EQ(key_of(body, {.focal = 53_mm, .squeeze = 0.5}, take), "lens.squeeze");
  EXPECT_EQ(key_of(body, lens, {.stop = {}, .mark = 2.4_m}), "take.stop");
  EXPECT_EQ(key_of(body, lens, {.stop = f_number(2)}), "take.mark");
  EXPECT_THROW((void)f_number(-2.0), OpticsError);
  EXPECT_THROW((void)t_number(std::nan("")), OpticsError);
}

RC_GTEST_PROP(CameraProperty, MarkAndFocusAreInverse, ()) {
  const double f = 10.0 + *rc::gen::inRange(0, 190);
  const double times = 4.001 + 0.01 * *rc::gen::inRange(0, 100000);
  const Lens any{.focal = Length::from_mm(f)};
  const Length mark = Length::from_mm(f * times);
  RC_ASSERT(std::abs(mark_from_focus(any, focus_from_mark(any, mark)) / mark - 1.0) < 1e-9);
}

RC_GTEST_PROP(CameraProperty, TheConjugateEquationHolds, ()) {
  // 1/f = 1/s + 1/v with the effective focal length of the bare lens
  const double f = 10.0 + *rc::gen::inRange(0, 190);
  const double s = f * (1.01 + 0.01 * *rc::gen::inRange(1, 100000));
  const VirtualCamera c = resolve(body, {.focal = Length::from_mm(f)}, take, Length::from_mm(s));
  RC_ASSERT(std::abs(1.0 / s + 1.0 / c.focal.mm() - 1.0 / f) < 1e-12 / f * 1e3);
}

}  // namespace camera_test
}  // namespace jolly_iris
