// Wishes fulfilled: closed forms, limits, and which gives way.
#include "jolly_iris/match/wishes.hpp"

#include <gtest/gtest.h>

#include <random>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace wish_test {

WishProblem regatta() {
  WishProblem p;
  p.body = {.gate = {25.9_mm, 14.6_mm}, .pixels = {1920, 1080}};
  p.lens = {.focal = 53_mm, .adapter = 0.76};
  p.take = {.stop = f_number(2.2)};
  p.focus = 2.35_m;
  p.subjects = {{"boat", 2.35_m, {}}, {"buoy", 4.2_m, {}}, {"bridge", 18.5_m, {}}};
  return p;
}

double blur_px(const WishAnswer& a, Length z) {
  return std::abs(circle_of_confusion(a.camera, z) / a.camera.pixel_pitch());
}

TEST(Wishes, TwoSharpIsTheHold) {
  WishProblem p = regatta();
  p.wishes = {{Wish::Kind::sharp, 0, 0.0}, {Wish::Kind::sharp, 1, 0.0}};
  p.free = {.stop = true, .focus = true};
  const WishAnswer found = fulfil(p);
  const Hold held = hold(p.body, p.lens, p.take, p.criterion, 2.35_m, 4.2_m);
  EXPECT_TRUE(found.all_met());
  // The hold is the widest stop that does it; the wish is no narrower than it needs to be.
  EXPECT_NEAR(found.stop.value, held.stop.value, 0.01 * held.stop.value);
  EXPECT_NEAR(1.0 / found.focus.m(), 1.0 / held.focus.m(), 1e-3);
}

TEST(Wishes, OneBlurByTheStopIsTheClosedForm) {
  WishProblem p = regatta();
  p.wishes = {{Wish::Kind::blur, 2, 40.0}};
  p.free = {.stop = true};
  const WishAnswer found = fulfil(p);
  const VirtualCamera now = resolve(p.body, p.lens, p.take, p.focus);
  const Stop wanted =
      stop_for_blur(p.body, p.lens, p.take, p.focus, 18.5_m, 40.0 * now.pixel_pitch());
  EXPECT_NEAR(found.stop.value, wanted.value, 1e-3 * wanted.value);
}

TEST(Wishes, OneBlurByTheLensFromFartherIsTheClosedForm) {
  WishProblem p = regatta();
  p.wishes = {{Wish::Kind::blur, 2, 40.0},
              {Wish::Kind::same_size, 0, 0.0},
              {Wish::Kind::blur_at_most, 0, 0.01}};
  p.free = {.focus = true, .focal = true, .camera = true};
  const WishAnswer found = fulfil(p);
  EXPECT_TRUE(found.all_met());
  const VirtualCamera now = resolve(p.body, p.lens, p.take, p.focus);
  const LensAndDistance closed =
      lens_for_blur(p.body, p.lens, p.take, p.focus, 18.5_m - 2.35_m, 40.0 * now.pixel_pitch());
  EXPECT_NEAR(found.focal.mm(), closed.focal.mm(), 0.01 * closed.focal.mm());
  EXPECT_NEAR(found.subjects[0].m(), closed.distance.m(), 0.01 * closed.distance.m());
}

TEST(Wishes, BuoyAndBridgeAtOnceWhereThatIsPossible) {
  WishProblem p = regatta();
  p.wishes = {{Wish::Kind::blur, 1, 3.0}, {Wish::Kind::blur_at_least, 2, 20.0}};
  p.free = {.stop = true, .focus = true};
  const WishAnswer found = fulfil(p);
  EXPECT_TRUE(found.all_met());
  EXPECT_NEAR(blur_px(found, 4.2_m), 3.0, 0.06);
  EXPECT_GE(blur_px(found, 18.5_m), 19.8);
}

TEST(Wishes, WhereItIsNotPossibleTheOneThatGaveWayIsTold) {
  WishProblem p = regatta();
  p.wishes = {{Wish::Kind::blur, 1, 3.0}, {Wish::Kind::blur_at_least, 2, 40.0}};
  p.free = {.stop = true, .focus = true};
  p.widest = 2.2;
  const WishAnswer found = fulfil(p);
  EXPECT_FALSE(found.all_met());
  EXPECT_TRUE(found.at_widest);
  EXPECT_NEAR(found.stop.value, 2.2, 1e-6);
  EXPECT_LT(found.wishes[1].missed, -1.0);
  EXPECT_NEAR(found.wishes[1].missed, blur_px(found, 18.5_m) - 40.0, 1e-6);
  // No other focus on a fine grid has a smaller sum of squares.
  const auto cost = [](double buoy, double bridge) {
    const double a = (buoy - 3.0) / 4.0;
    const double b = std::min(0.0, bridge - 40.0) / 41.0;
    return a * a + b * b;
  };
  const double least = cost(found.wishes[0].px, found.wishes[1].px);
  for (double d = 0.0; d < 1.5; d += 0.001) {
    const Length s = d == 0.0 ? Length::infinity() : Length::from_m(1.0 / d);
    const VirtualCamera c = resolve(p.body, p.lens, p.take, s);
    const auto px = [&](Length z) { return std::abs(circle_of_confusion(c, z) / c.pixel_pitch()); };
    EXPECT_GE(cost(px(4.2_m), px(18.5_m)), least - 1e-4) << d;
  }
}

TEST(Wishes, WhatIsFulfilledAlreadyStaysAsItIs) {
  WishProblem p = regatta();
  p.wishes = {{Wish::Kind::sharp, 0, 0.0}, {Wish::Kind::blur_at_least, 2, 20.0}};
  p.free = {.stop = true, .focus = true, .focal = true};
  const WishAnswer found = fulfil(p);
  EXPECT_TRUE(found.all_met());
  EXPECT_NEAR(found.stop.value, 2.2, 1e-6);
  EXPECT_NEAR(found.focus.m(), 2.35, 1e-6);
  EXPECT_NEAR(found.focal.mm(), 53.0, 1e-6);
}

TEST(Wishes, ASubjectMovesToItsBlur) {
  WishProblem p = regatta();
  p.wishes = {{Wish::Kind::blur, 1, 20.0}};
  p.free.subjects = {1};
  const WishAnswer found = fulfil(p);
  EXPECT_TRUE(found.all_met());
  EXPECT_NEAR(blur_px(found, found.subjects[1]), 20.0, 0.05);
  EXPECT_NEAR(found.subjects[0].m(), 2.35, 1e-9);
}

TEST(Wishes, RandomOnesThatAreTrueSomewhereAreFulfilled) {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> uniform(0.0, 1.0);
  int met = 0;
  const int rounds = testing::cases(150, 10);
  for (int i = 0; i < rounds; ++i) {
    WishProblem p = regatta();
    // Some camera makes two blurs; the wish is these two.
    Take take = p.take;
    take.stop = f_number(std::exp2(0.6 + 3.0 * uniform(random)));
    const Length s = Length::from_m(1.0 / (0.05 + 0.6 * uniform(random)));
    const VirtualCamera truth = resolve(p.body, p.lens, take, s);
    const auto px = [&](Length z) {
      return std::abs(circle_of_confusion(truth, z) / truth.pixel_pitch());
    };
    if (px(4.2_m) < 0.3 || px(18.5_m) < 0.3) {
      ++met;
      continue;
    }
    p.wishes = {{Wish::Kind::blur, 1, px(4.2_m)}, {Wish::Kind::blur, 2, px(18.5_m)}};
    p.free = {.stop = true, .focus = true};
    p.widest = 1.2;
    met += fulfil(p).all_met() ? 1 : 0;
  }
  EXPECT_EQ(met, rounds);
}

TEST(Wishes, RefuseWhatIsNone) {
  WishProblem p = regatta();
  EXPECT_THROW((void)fulfil(p), UsageError);
  p.wishes = {{Wish::Kind::sharp, 0, 0.0}};
  EXPECT_THROW((void)fulfil(p), UsageError);  // nothing may change
  p.free.subjects = {9};
  EXPECT_THROW((void)fulfil(p), UsageError);
  p.subjects[2].axial = Length::infinity();
  p.free.subjects = {2};
  EXPECT_THROW((void)fulfil(p), UsageError);
  p.free = {.stop = true};
  p.wishes = {{Wish::Kind::sharp, 7, 0.0}};
  EXPECT_THROW((void)fulfil(p), UsageError);
}

}  // namespace wish_test
}  // namespace jolly_iris
