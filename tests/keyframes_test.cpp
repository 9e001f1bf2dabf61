#include "jolly_iris/optics/keyframes.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/optics/ease.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace keyframes_test {

using testing::holds;
using testing::message_of;
using Kind = Ease::Kind;

TEST(Ease, AllBeginAndEndAtTheirKeys) {
  for (const Kind kind : {Kind::step, Kind::linear, Kind::smooth, Kind::slow_start, Kind::slow_stop,
                          Kind::overshoot, Kind::search}) {
    EXPECT_DOUBLE_EQ(between({.kind = kind}, 2.0, 5.0, 0.0), 2.0) << to_string(kind);
    EXPECT_DOUBLE_EQ(between({.kind = kind}, 2.0, 5.0, 1.0), 5.0) << to_string(kind);
  }
}

TEST(Ease, PlainOnesAreWhatTheirNamesSay) {
  EXPECT_DOUBLE_EQ(between({.kind = Kind::step}, 0, 1, 0.99), 0.0);
  EXPECT_DOUBLE_EQ(between({.kind = Kind::linear}, 0, 1, 0.3), 0.3);
  EXPECT_DOUBLE_EQ(between({.kind = Kind::smooth}, 0, 1, 0.5), 0.5);
  EXPECT_LT(between({.kind = Kind::slow_start}, 0, 1, 0.5), 0.5);
  EXPECT_GT(between({.kind = Kind::slow_stop}, 0, 1, 0.5), 0.5);
}

// Largest value on the way, and how often the way turns.
struct Way {
  double max = -1e9;
  double min = 1e9;
  int turns = 0;
};
Way way_of(const Ease& ease, double from, double to) {
  Way way;
  double before = from;
  int direction = 0;
  for (int i = 1; i <= 2000; ++i) {
    const double v = between(ease, from, to, i / 2000.0);
    way.max = std::max(way.max, v);
    way.min = std::min(way.min, v);
    const int now = v > before + 1e-12 ? 1 : v < before - 1e-12 ? -1 : direction;
    if (direction != 0 && now != direction) ++way.turns;
    direction = now;
    before = v;
  }
  return way;
}

TEST(Hunt, OvershootGoesPastByItsShareAndSwings) {
  const Way way = way_of({.kind = Kind::overshoot, .by = 0.2, .swings = 3}, 1.0, 2.0);
  EXPECT_NEAR(way.max, 2.2, 1e-5);
  EXPECT_EQ(way.turns, 3);
  EXPECT_GE(way.min, 1.0);
}

TEST(Hunt, SearchFirstGoesTheWrongWayAndComesBack) {
  const Ease search{.kind = Kind::search, .swings = 1, .dioptres = 0.4};
  const Way way = way_of(search, 1.0, 2.0);
  EXPECT_NEAR(way.min, 0.6, 1e-5);
  EXPECT_NEAR(way.max, 2.4, 1e-5);
  // Also where start and target are the same: it searches and returns.
  const Way same = way_of(search, 1.0, 1.0);
  EXPECT_NEAR(same.max, 1.4, 1e-5);
  EXPECT_NEAR(same.min, 0.6, 1e-5);
}

Shot keyed(const std::string& key, double a, double b, Kind kind = Kind::linear) {
  Shot shot;
  shot.take.stop = f_number(2);
  shot.keyframes.push_back({key, {{1, {a, 0, 0}}, {11, {b, 0, 0}}}, {.kind = kind}});
  return shot;
}

TEST(Keyframed, HoldsBeforeAndAfterItsKeys) {
  const Shot shot = keyed("lens.pupil", 80, 100);
  EXPECT_DOUBLE_EQ(shot_at(shot, -50).lens.pupil->mm(), 80.0);
  EXPECT_DOUBLE_EQ(shot_at(shot, 6).lens.pupil->mm(), 90.0);
  EXPECT_DOUBLE_EQ(shot_at(shot, 500).lens.pupil->mm(), 100.0);
}

TEST(Keyframed, StopsGoByFactorsAndFocusByDioptres) {
  // Half-way between f/2 and f/8 is f/4; half-way between 1 m and 3 m of focus is 1.5 m.
  EXPECT_NEAR(shot_at(keyed("take.stop", 2, 8), 6).take.stop.value, 4.0, 1e-12);
  const Shot focus = shot_at(keyed("focus.at", 1000, 3000), 6);
  EXPECT_NEAR(focus.focus.distance->length.m(), 1.5, 1e-12);
  const Shot far = shot_at(keyed("focus.at", 2000, std::numeric_limits<double>::infinity()), 6);
  EXPECT_NEAR(far.focus.distance->length.m(), 4.0, 1e-12);
}

TEST(Keyframed, ASqueezeOverFramesLeavesThePictureDesqueezedAsItIs) {
  Shot shot = keyed("lens.squeeze", 2.0, 1.8);
  shot.lens.squeeze = 2.0;
  EXPECT_DOUBLE_EQ(shot_at(shot, 11).lens.squeeze, 2.0);
  EXPECT_DOUBLE_EQ(squeeze_at_focus(shot_at(shot, 11).lens, 3_m), 1.8);
}

TEST(Keyframed, ReadsWhatAShotFileReads) {
  Shot base;
  base.take.stop = f_number(2);
  EXPECT_DOUBLE_EQ(parse_keyed(base, "take.stop", "f/2.8")[0], 2.8);
  EXPECT_DOUBLE_EQ(parse_keyed(base, "focus.at", "3 m")[0], 3000.0);
  EXPECT_DOUBLE_EQ(parse_keyed(base, "subject.boat.tape", "3 m")[0], 3000.0);
  EXPECT_TRUE(is_keyed_place("subject.my.boat.place"));
  EXPECT_FALSE(is_keyed_place("subject.boat.at"));
}

TEST(Keyframed, EveryKeyableKeyCanBeReadAndSet) {
  Shot base;
  base.take.stop = f_number(2);
  base.take.shutter = Shutter{{}, 180_deg};
  base.subjects = {{.name = "NAME"}};
  const auto text_for = [](const std::string& key) -> std::string {
    if (key == "take.stop") return "f/4";
    if (key == "take.shutter") return "90 deg";
    if (key == "take.nd" || key == "finish.corners" || key.starts_with("finish.lift")) {
      return "2 stops";
    }
    if (key == "take.tilt" || key == "lens.iris.rotation") return "5 deg";
    if (key == "take.white") return "4300 K";
    if (key == "take.ev" || key == "take.iso" || key == "lens.squeeze" || key == "cheat.blur" ||
        key == "finish.cast") {
      return "1.5";
    }
    return "3 m";
  };
  for (const std::string& key : keyable_keys()) {
    if (is_keyed_place(key)) continue;
    Shot shot = base;
    shot.keyframes.push_back({key, {{1, parse_keyed(base, key, text_for(key))}}, {}});
    EXPECT_NO_THROW((void)shot_at(shot, 1)) << key;
    EXPECT_THROW((void)parse_keyed(base, key, "nonsense"), QuantityError) << key;
  }
}

TEST(Keyframed, WhatCannotMoveIsToldWithWhatCan) {
  const auto message = message_of<UsageError>([] { (void)parse_keyed({}, "take.fps", "24"); });
  EXPECT_TRUE(holds(message, "cannot change over frames"));
  EXPECT_TRUE(holds(message, "take.stop"));
  Shot base;
  base.take.stop = f_number(2);
  EXPECT_TRUE(holds(message_of<QuantityError>([&] { (void)parse_keyed(base, "take.stop", "T2"); }),
                    "keep to one"));
  EXPECT_THROW((void)parse_keyed(base, "subject.boat.size", "3 m"), UsageError);
}

TEST(Pull, MovesBetweenItsKeysAndHoldsOutside) {
  Shot shot;
  shot.pulls = {{.frame = 10, .focus = {.on = "a"}}, {.frame = 20, .focus = {.on = "b"}}};
  EXPECT_EQ(shot_at(shot, 5).focus.on, "a");
  EXPECT_FALSE(shot_at(shot, 5).move);
  EXPECT_DOUBLE_EQ(shot_at(shot, 15).move->fraction, 0.5);
  EXPECT_EQ(shot_at(shot, 15).move->to.on, "b");
  EXPECT_EQ(shot_at(shot, 25).focus.on, "b");
  EXPECT_TRUE(changes_over_frames(shot));
}

RC_GTEST_PROP(KeyedProperty, PlainEasesStayBetweenTheirKeys, ()) {
  const Ease ease{.kind = *rc::gen::element(Kind::step, Kind::linear, Kind::smooth,
                                            Kind::slow_start, Kind::slow_stop)};
  const double a = *rc::gen::inRange(-100, 100);
  const double b = *rc::gen::inRange(-100, 100);
  const double v = between(ease, a, b, 0.001 * *rc::gen::inRange(0, 1000));
  RC_ASSERT(v >= std::min(a, b) - 1e-9 && v <= std::max(a, b) + 1e-9);
}

}  // namespace keyframes_test
}  // namespace jolly_iris
