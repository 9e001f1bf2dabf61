// A camera that focuses by itself: what it promises of delay, speed, rest and somebody's own keys.
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>
#include <limits>

#include "jolly_iris/optics/autofocus.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {
namespace autofocus_test {

std::vector<double> step_at(std::size_t frame, double from, double to, std::size_t count) {
  std::vector<double> out(count, from);
  std::fill(out.begin() + static_cast<std::ptrdiff_t>(frame), out.end(), to);
  return out;
}

AutofocusSettings settings_of(double delay_s, double speed, double deaf, double past = 0.0) {
  return {24.0, Duration::from_seconds(delay_s), speed, deaf, past};
}

TEST(Autofocus, SeesLateAndMovesNoFasterThanItCan) {
  // From 0.5 to 1 dpt at frame 10; 0.25 s late are 6 frames; 0.5 dpt at 2 dpt/s, eased, are 9.
  const auto moves = autofocus(step_at(10, 0.5, 1.0, 60), settings_of(0.25, 2.0, 0.02));
  ASSERT_EQ(moves.size(), 1U);
  EXPECT_DOUBLE_EQ(moves[0].begins, 16.0);
  EXPECT_NEAR(moves[0].ends, 16.0 + 1.5 * 0.5 / 2.0 * 24.0, 1e-4);
  EXPECT_DOUBLE_EQ(moves[0].to_dpt, 1.0);
  const Ease ease = ease_of(settings_of(0.25, 2.0, 0.02));
  EXPECT_DOUBLE_EQ(focus_during(moves, ease, 0.5, 15.9), 0.5);
  EXPECT_NEAR(focus_during(moves, ease, 0.5, 0.5 * (16.0 + 25.0)), 0.75, 1e-5);
  EXPECT_DOUBLE_EQ(focus_during(moves, ease, 0.5, 40.0), 1.0);
}

TEST(Autofocus, StandsStillForLittle) {
  EXPECT_TRUE(autofocus(step_at(10, 0.5, 0.52, 60), settings_of(0.0, 2.0, 0.03)).empty());
  EXPECT_EQ(autofocus(step_at(10, 0.5, 0.54, 60), settings_of(0.0, 2.0, 0.03)).size(), 1U);
}

TEST(Autofocus, GoesPastItsTarget) {
  const auto settings = settings_of(0.0, 2.0, 0.02, 0.2);
  const auto moves = autofocus(step_at(10, 0.5, 1.0, 80), settings);
  double most = 0.0;
  for (double f = 0.0; f < 80.0; f += 0.05) {
    most = std::max(most, focus_during(moves, ease_of(settings), 0.5, f));
  }
  EXPECT_NEAR(most, 1.1, 0.002);
  EXPECT_DOUBLE_EQ(focus_during(moves, ease_of(settings), 0.5, 79.0), 1.0);
}

TEST(Autofocus, SomebodysKeysLead) {
  const std::vector<FocusOverride> keys{{30.0, 2.0}, {40.0, 1.5}};
  const auto settings = settings_of(0.0, 3.0, 0.02);
  const auto moves = autofocus(step_at(5, 0.5, 1.0, 100), settings, keys);
  const Ease ease = ease_of(settings);
  EXPECT_DOUBLE_EQ(focus_during(moves, ease, 0.5, 17.9), 1.0);
  EXPECT_DOUBLE_EQ(focus_during(moves, ease, 0.5, 30.0), 2.0);
  EXPECT_DOUBLE_EQ(focus_during(moves, ease, 0.5, 40.0), 1.5);
  EXPECT_DOUBLE_EQ(focus_during(moves, ease, 0.5, 90.0), 1.0);  // and goes on from there
  // A key at the very beginning, and one while it is on its way.
  EXPECT_DOUBLE_EQ(
      focus_during(autofocus(step_at(5, 0.5, 1.0, 50), settings, {{0.0, 0.7}}), ease, 0.7, 0.0),
      0.7);
  const auto cut = autofocus(step_at(5, 0.5, 5.0, 100), settings_of(0.0, 1.0, 0.02), {{20.0, 2.0}});
  EXPECT_DOUBLE_EQ(focus_during(cut, ease, 0.5, 20.0), 2.0);
}

// Whatever it sees: no jump, no more speed than it has, moves that do not overlap, and in the end
// it stands on what it sees.
RC_GTEST_PROP(Autofocus, KeepsItsPromises, ()) {
  const auto count = static_cast<std::size_t>(*rc::gen::inRange(1, 200));
  std::vector<double> wanted;
  double now = 1.0;
  for (std::size_t i = 0; i < count; ++i) {
    if (*rc::gen::inRange(0, 12) == 0) now = 0.05 * *rc::gen::inRange(0, 60);
    wanted.push_back(now);
  }
  wanted.resize(count + 4000, now);  // time to settle
  const double speed = 0.25 * *rc::gen::inRange(1, 16);
  const auto settings =
      settings_of(0.05 * *rc::gen::inRange(0, 10), speed, 0.03, 0.1 * *rc::gen::inRange(0, 4));
  const auto moves = autofocus(wanted, settings);
  const Ease ease = ease_of(settings);
  for (std::size_t i = 1; i < moves.size(); ++i) {
    RC_ASSERT(moves[i].begins >= moves[i - 1].ends);
    RC_ASSERT(moves[i].from_dpt == moves[i - 1].to_dpt);
  }
  constexpr double step = 0.25;
  double before = wanted.front();
  for (double f = step; f < static_cast<double>(wanted.size()); f += step) {
    const double at = focus_during(moves, ease, wanted.front(), f);
    RC_ASSERT(std::abs(at - before) <= 1.0001 * speed / 24.0 * step + 1e-9);
    before = at;
  }
  RC_ASSERT(std::abs(before - now) <= 0.03 + 1e-9);
}

TEST(Autofocus, RefusesWhatCannotBe) {
  EXPECT_THROW((void)autofocus({1.0}, settings_of(0.0, 0.0, 0.02)), UsageError);
  EXPECT_THROW((void)autofocus({1.0}, settings_of(-1.0, 1.0, 0.02)), UsageError);
  EXPECT_THROW((void)autofocus({1.0, std::nan("")}, settings_of(0.0, 1.0, 0.02)), UsageError);
  EXPECT_THROW((void)autofocus({1.0}, settings_of(0.0, 1.0, 0.02), {{2.0, 1.0}, {2.0, 1.0}}),
               UsageError);
  EXPECT_TRUE(autofocus({}, settings_of(0.0, 1.0, 0.02)).empty());
}

}  // namespace autofocus_test
}  // namespace jolly_iris
