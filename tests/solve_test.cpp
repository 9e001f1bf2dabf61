#include "jolly_iris/optics/solve.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/optics/blur_override.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace solve_test {

using testing::holds;
using testing::message_of;

const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {3840, 2160}};
const Lens lens{.focal = 50_mm};
const Take take{.stop = f_number(2.8)};

TEST(Solve, HoldsTwoSubjects) {
  const Hold h = hold(body, lens, take, {}, 2_m, 3.5_m);
  EXPECT_NEAR(h.focus.m(), 2.545455, 5e-7);
  EXPECT_NEAR(h.stop.value, 20.2544, 5e-5);
  Take held = take;
  held.stop = h.stop;
  const VirtualCamera c = resolve(body, lens, held, h.focus);
  EXPECT_NEAR(to_pixels(airy_diameter(c), c), 4.1107, 5e-4);
  EXPECT_GT(airy_diameter(c), coc_limit({}, body, c));
}

TEST(Solve, ARangeIsTheHoldOfItsEnds) {
  const Hold h = hold(body, lens, take, {}, 2_m, Length::infinity());
  EXPECT_DOUBLE_EQ(h.focus.m(), 4.0);  // half the hyperfocal distance is where it begins
  Take held = take;
  held.stop = h.stop;
  const VirtualCamera c = resolve(body, lens, held, h.focus);
  const SharpRange range = sharp_range(c, coc_limit({}, body, c));
  EXPECT_NEAR(range.near.m(), 2.0, 1e-9);
  EXPECT_TRUE(range.far.is_infinite() || range.far.m() > 1e9);
}

TEST(Solve, EqualDistancesCannotBeHeldApart) {
  EXPECT_THROW((void)hold(body, lens, take, {}, 2_m, 2_m), OpticsError);
  EXPECT_THROW((void)hold(body, lens, take, {}, -2.0 * 1_m, 2_m), OpticsError);
  EXPECT_THROW((void)stop_for_blur(body, lens, take, 2_m, 2_m, 0.1_mm), OpticsError);
}

TEST(Solve, LensForABlurKeepsTheSubjectsSize) {
  const VirtualCamera now = resolve(body, lens, take, 2_m);
  const Length behind = 6_m;
  const Length wanted = 0.3_mm;
  const LensAndDistance found = lens_for_blur(body, lens, take, 2_m, behind, wanted);
  const VirtualCamera then = resolve(body, {.focal = found.focal}, take, found.distance);
  EXPECT_NEAR(then.magnification / now.magnification, 1.0, 1e-9);
  EXPECT_NEAR(circle_of_confusion(then, found.distance + behind) / wanted, 1.0, 1e-9);
}

TEST(Solve, ABlurThatNoLensMakesIsRefusedWithTheMost) {
  const auto message =
      message_of<OpticsError>([] { (void)lens_for_blur(body, lens, take, 2_m, 0.1_m, 5_mm); });
  EXPECT_TRUE(holds(message, "tend to"));
  EXPECT_THROW((void)lens_for_blur(body, lens, take, Length::infinity(), 1_m, 0.1_mm), OpticsError);
}

TEST(Solve, SaysWhatNoLensCanBe) {
  EXPECT_TRUE(holds(real_lens_doubt(0.3), "f/0.5"));
  EXPECT_TRUE(holds(real_lens_doubt(0.7), "wider than lenses"));
  EXPECT_TRUE(holds(real_lens_doubt(90), "smaller"));
  EXPECT_EQ(real_lens_doubt(2.8), "");
}

RC_GTEST_PROP(SolveProperty, HoldMakesBothBlursEqual, ()) {
  const Length a = Length::from_mm(*rc::gen::inRange(500, 20000));
  const Length b = a + Length::from_mm(*rc::gen::inRange(50, 100000));
  const Lens any{.focal = Length::from_mm(*rc::gen::inRange(18, 135)),
                 .adapter = 0.01 * *rc::gen::inRange(60, 150)};
  const Hold h = hold(body, any, take, {}, b, a);
  Take held = take;
  held.stop = h.stop;
  const VirtualCamera c = resolve(body, any, held, h.focus);
  const double limit = coc_limit({}, body, c).mm();
  RC_ASSERT(std::abs(circle_of_confusion(c, a).mm() + limit) < 1e-9 * limit);
  RC_ASSERT(std::abs(circle_of_confusion(c, b).mm() - limit) < 1e-9 * limit);
}

RC_GTEST_PROP(SolveProperty, AStopForABlurMakesIt, ()) {
  const Length z = Length::from_mm(*rc::gen::inRange(500, 100000));
  const Length focus = Length::from_mm(*rc::gen::inRange(500, 100000));
  RC_PRE(z != focus);
  const Length wanted = Length::from_mm(0.001 * *rc::gen::inRange(1, 5000));
  Take found = take;
  found.stop = stop_for_blur(body, lens, take, focus, z, wanted);
  const double made = circle_of_confusion(resolve(body, lens, found, focus), z).mm();
  RC_ASSERT(std::abs(std::abs(made) / wanted.mm() - 1.0) < 1e-9);
}

RC_GTEST_PROP(SolveProperty, EquivalenceKeepsViewAndBlurAtEveryDistance, ()) {
  const Length focus = Length::from_mm(*rc::gen::inRange(1000, 100000));
  const VirtualCamera here = resolve(body, {.focal = 50_mm, .adapter = 0.76}, take, focus);
  const double width = 0.1 * *rc::gen::inRange(60, 560);
  const Body other{.gate = {Length::from_mm(width), Length::from_mm(width * 0.6)},
                   .pixels = body.pixels};
  const double adapter = 0.01 * *rc::gen::inRange(60, 200);
  const Equivalent e = equivalent_on(here, other, adapter);
  const VirtualCamera there =
      resolve(other, {.focal = e.focal, .adapter = adapter}, {.stop = e.stop}, focus);
  RC_ASSERT(std::abs(there.horizontal_picture_view() / here.horizontal_picture_view() - 1.0) <
            1e-9);
  for (int i = 0; i < 8; ++i) {
    const Length z = Length::from_mm(*rc::gen::inRange(300, 1000000));
    const double a = to_pixels(circle_of_confusion(here, z), here);
    const double b = to_pixels(circle_of_confusion(there, z), there);
    RC_ASSERT(std::abs(a - b) <= 1e-9 * std::abs(a) + 1e-12);
  }
}

TEST(BlurOverride, AFactorIsAWiderOpeningAtTheSameFocus) {
  const VirtualCamera honest = resolve(body, lens, take, 2_m);
  const VirtualCamera overridden_blur = with_blur_override(honest, {.blur = 3.0});
  EXPECT_DOUBLE_EQ(circle_of_confusion(overridden_blur, 5_m) / circle_of_confusion(honest, 5_m),
                   3.0);
  EXPECT_DOUBLE_EQ(circle_of_confusion(overridden_blur, 2_m).mm(), 0.0);
  EXPECT_DOUBLE_EQ(overridden_blur.f_number * 3.0, honest.f_number);
  EXPECT_DOUBLE_EQ(overridden_blur.lens_t_number, honest.lens_t_number);  // exposure stays
  EXPECT_DOUBLE_EQ(without_blur_override(overridden_blur).f_number, honest.f_number);
}

TEST(BlurOverride, ABandIsSharpAndBlurRisesFromItsEdges) {
  const VirtualCamera honest = resolve(body, lens, take, 2_m);
  const VirtualCamera c = with_blur_override(honest, {.from = 1.5_m, .to = 4_m});
  for (const Length z : {1.5_m, 2_m, 3_m, 4_m}) {
    EXPECT_EQ(circle_of_confusion(c, z), Length{}) << z.m();
  }
  EXPECT_NEAR(circle_of_confusion(c, 4.001_m).mm(), 0.0, 1e-3);  // without a step
  EXPECT_GT(circle_of_confusion(c, 8_m).mm(), 0.0);
  EXPECT_LT(circle_of_confusion(c, 1_m).mm(), 0.0);
  const SharpRange range = sharp_range(c, 0.01_mm);
  EXPECT_LT(range.near, 1.5_m);
  EXPECT_GT(range.far, 4_m);
  EXPECT_NEAR(circle_of_confusion(c, range.near).mm(), -0.01, 1e-12);
}

TEST(BlurOverride, AnUpperLimitCutsBothSides) {
  const VirtualCamera c = with_blur_override(resolve(body, lens, take, 2_m),
                                             {.at_most = BlurSize{BlurSize::Kind::pixels, 10}});
  EXPECT_NEAR(to_pixels(circle_of_confusion(c, Length::infinity()), c), 10.0, 1e-9);
  EXPECT_NEAR(to_pixels(circle_of_confusion(c, 0.2_m), c), -10.0, 1e-9);
}

TEST(BlurOverride, HalfABandAndNonsenseAreRefused) {
  const VirtualCamera c = resolve(body, lens, take, 2_m);
  EXPECT_THROW((void)with_blur_override(c, {.blur = 0.0}), OpticsError);
  EXPECT_THROW((void)with_blur_override(c, {.from = 1_m}), OpticsError);
  EXPECT_THROW((void)with_blur_override(c, {.from = 3_m, .to = 2_m}), OpticsError);
}

RC_GTEST_PROP(SharpnessProperty, RangeHoldsTheFocusAndGrowsWithTheStop, ()) {
  const Length focus = Length::from_mm(*rc::gen::inRange(500, 50000));
  const double n = 0.1 * *rc::gen::inRange(10, 220);
  const VirtualCamera width = resolve(body, lens, {.stop = f_number(n)}, focus);
  const VirtualCamera small = resolve(body, lens, {.stop = f_number(n * 1.4)}, focus);
  const Length limit = coc_limit({}, body, width);
  const SharpRange a = sharp_range(width, limit);
  const SharpRange b = sharp_range(small, limit);
  RC_ASSERT(a.near <= focus && focus <= a.far);
  RC_ASSERT(b.near < a.near && b.far >= a.far);
}

TEST(Margin, ReachesToTheOutermostPoint) {
  // Three straight blades sized by area: the corners stand out by 1.5551 radii.
  const Lens triangle{.focal = 50_mm, .iris = {.blades = 3}};
  const VirtualCamera c = resolve(body, triangle, take, 2_m);
  const VirtualCamera round = resolve(body, lens, take, 2_m);
  const Length coc = 100.0 * c.pixel_pitch();
  EXPECT_EQ(margin_for(round, coc).above, 50);
  EXPECT_EQ(margin_for(c, coc).above, 78);  // 50 × √(4π / (3√3))
  const VirtualCamera squeezed = resolve(body, {.focal = 50_mm, .squeeze = 2.0}, take, 2_m);
  const Margin m = margin_for(squeezed, 100.0 * squeezed.pixel_pitch());
  EXPECT_EQ(m.above, 50);
  EXPECT_EQ(m.beside, 25);
}

}  // namespace solve_test
}  // namespace jolly_iris
