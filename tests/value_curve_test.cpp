// Smooth curves through what single frames told, and what the value did: statements about made-up
// ways that are known.
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <random>

#include "jolly_iris/match/moves.hpp"
#include "jolly_iris/match/value_curve.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace value_curve_test {

std::vector<double> frames_to(int count) {
  std::vector<double> out;
  for (int f = 0; f < count; ++f) out.push_back(1001.0 + f);
  return out;
}

template <class Way>
std::vector<CurvePoint> points_of(const Way& way, int count, double sigma, std::mt19937& random,
                                  double missing = 0.0) {
  std::normal_distribution<double> off;
  std::vector<CurvePoint> out;
  for (int f = 0; f < count; ++f) {
    const double v = way(f) + sigma * off(random);
    const bool seen = std::uniform_real_distribution<double>(0.0, 1.0)(random) >= missing;
    if (seen) out.push_back({1001.0 + f, v, sigma});
  }
  return out;
}

double smooth_step(double t) {
  t = std::clamp(t, 0.0, 1.0);
  return t * t * (3.0 - 2.0 * t);
}

TEST(ValueCurve, StandsWhereAllPointsStand) {
  std::vector<CurvePoint> points;
  for (const double f : frames_to(30)) points.push_back({f, 0.4, 0.01});
  const ValueCurve c = smooth_curve(points, frames_to(30));
  for (std::size_t i = 0; i < c.frames.size(); ++i) {
    EXPECT_NEAR(c.value[i], 0.4, 1e-9);
    EXPECT_LT(c.sigma[i], 0.01);
  }
  EXPECT_TRUE(moves_of(points, c).moves.empty());
}

// Of many curves 95 in 100 frames lie within two deviations, where points are and where none are.
TEST(ValueCurve, HoldsItsMargins) {
  double held = 0.0;
  constexpr int sequences = 60;
  for (std::uint32_t seed = 1; seed <= sequences; ++seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> u(0.0, 1.0);
    const double begins = 15.0 + 25.0 * u(random);
    const double lasts = 10.0 + 30.0 * u(random);
    const auto way = [&](double f) { return 0.3 + 0.3 * smooth_step((f - begins) / lasts); };
    const auto points = points_of(way, 96, 0.004, random, 0.15);
    const ValueCurve c = smooth_curve(points, frames_to(96));
    for (int f = 0; f < 96; ++f) {
      const auto i = static_cast<std::size_t>(f);
      held += std::abs(c.value[i] - way(f)) <= 2.0 * c.sigma[i] ? 1.0 : 0.0;
    }
  }
  held /= 96.0 * sequences;
  EXPECT_GT(held, 0.90);
  EXPECT_LE(held, 1.0);
}

TEST(ValueCurve, IsNarrowerThanItsPointsAndWiderWhereNoneAre) {
  std::mt19937 random(5);
  const auto way = [](double f) { return 0.3 + 0.3 * smooth_step((f - 20.0) / 40.0); };
  auto points = points_of(way, 96, 0.004, random);
  std::erase_if(points, [](const CurvePoint& p) { return p.frame >= 1040.0 && p.frame < 1052.0; });
  const ValueCurve c = smooth_curve(points, frames_to(96));
  EXPECT_LT(c.sigma[10], 0.004);
  EXPECT_GT(c.sigma[45], 2.0 * c.sigma[36]);  // the gap's middle
  EXPECT_GT(c.sigma[45], c.sigma[40]);
  EXPECT_NEAR(c.value[45], way(45), 2.0 * c.sigma[45]);
}

TEST(ValueCurve, GrowsUnsureBeyondItsPoints) {
  std::mt19937 random(6);
  const auto way = [](double f) { return 0.3 + 0.3 * smooth_step((f - 20.0) / 40.0); };
  auto points = points_of(way, 96, 0.004, random);
  std::erase_if(points, [](const CurvePoint& p) { return p.frame < 1035.0; });
  const ValueCurve c = smooth_curve(points, frames_to(96));
  for (int f = 0; f < 33; ++f) {
    const auto i = static_cast<std::size_t>(f);
    EXPECT_GE(c.sigma[i], c.sigma[i + 1]);
    EXPECT_NEAR(c.value[i], way(f), 2.5 * c.sigma[i]) << f;
  }
}

TEST(ValueCurve, LetsAPointCountLittleThatGoesWithNoOther) {
  std::mt19937 random(7);
  const auto way = [](double) { return 0.5; };
  auto points = points_of(way, 60, 0.004, random);
  points[30].value += 0.2;
  const ValueCurve c = smooth_curve(points, frames_to(60));
  EXPECT_NEAR(c.value[30], 0.5, 0.01);
  EXPECT_LT(c.weight[30], 0.05);
  EXPECT_TRUE(moves_of(points, c).moves.empty());
}

// Units and where they count from mean nothing.
RC_GTEST_PROP(ValueCurve, GoesWithItsUnits, ()) {
  const auto seed = *rc::gen::inRange<std::uint32_t>(1, 1000);
  const double scale = std::exp(0.01 * *rc::gen::inRange(-400, 400));
  const double offset = *rc::gen::inRange(-50, 50);
  std::mt19937 random(seed);
  const auto way = [](double f) { return 0.3 + 0.3 * smooth_step((f - 20.0) / 20.0); };
  const auto points = points_of(way, 50, 0.01, random, 0.1);
  auto other = points;
  for (CurvePoint& p : other) p = {p.frame, offset + scale * p.value, scale * p.sigma};
  const ValueCurve a = smooth_curve(points, frames_to(50));
  const ValueCurve b = smooth_curve(other, frames_to(50));
  for (std::size_t i = 0; i < a.frames.size(); ++i) {
    RC_ASSERT(std::abs(b.value[i] - offset - scale * a.value[i]) < 1e-4 * scale);
    RC_ASSERT(std::abs(b.sigma[i] - scale * a.sigma[i]) < 1e-2 * scale * a.sigma[i]);
  }
}

TEST(ValueCurve, OfFewPointsIsTheirMean) {
  EXPECT_TRUE(smooth_curve({}, frames_to(5)).empty());
  const ValueCurve one = smooth_curve({{1003.0, 0.4, 0.02}}, frames_to(5));
  EXPECT_DOUBLE_EQ(one.value[0], 0.4);
  EXPECT_DOUBLE_EQ(one.sigma[4], 0.02);
  const ValueCurve two = smooth_curve({{1002.0, 0.3, 0.02}, {1004.0, 0.5, 0.02}}, frames_to(5));
  EXPECT_NEAR(two.value[2], 0.4, 1e-12);
  EXPECT_GT(two.sigma[2], 0.1);
}

TEST(ValueCurve, RefusesWhatIsNoPoint) {
  const double nan = std::numeric_limits<double>::quiet_NaN();
  EXPECT_THROW(smooth_curve({{1001.0, nan, 0.1}}, frames_to(3)), UsageError);
  EXPECT_THROW(smooth_curve({{1001.0, 0.4, 0.0}}, frames_to(3)), UsageError);
  EXPECT_THROW(smooth_curve({{1002.0, 0.4, 0.1}, {1001.0, 0.4, 0.1}}, frames_to(3)), UsageError);
  EXPECT_THROW(smooth_curve({{1001.0, 0.4, 0.1}}, {1002.0, 1002.0}), UsageError);
}

TEST(ValueCurve, OfTenThousandFramesTakesNoLongerThanItsLength) {
  std::mt19937 random(8);
  const auto way = [](double f) { return 0.5 + 0.1 * std::sin(f / 300.0); };
  const auto points = points_of(way, 10000, 0.004, random, 0.1);
  const ValueCurve c = smooth_curve(points, frames_to(10000));
  EXPECT_EQ(c.value.size(), 10000U);
  EXPECT_NEAR(c.value[5000], way(5000), 4.0 * c.sigma[5000]);
}

// ---- what a hand on a ring does
// -------------------------------------------------------------------

struct Made {
  int kind = 0;  // 0 still, 1 a pull, 2 past its end and back, 3 hunting
  double from, to, begins, lasts, past, back, period;
  double at(double f) const {
    const double arrived = f - begins - lasts;
    const double there = smooth_step((f - begins) / lasts);
    if (kind == 0) return from;
    if (kind == 1) return from + (to - from) * there;
    if (arrived <= 0.0) return from + (to - from) * (1.0 + past) * there;
    const double left =
        kind == 2 ? 1.0 - smooth_step(arrived / back)
                  : std::cos(2.0 * std::numbers::pi * arrived / period) * std::exp(-arrived / 14.0);
    return from + (to - from) * (1.0 + past * left);
  }
};

Made made_way(std::uint32_t seed) {
  std::mt19937 random(seed * 7919U);
  const auto between = [&](double a, double b) {
    return std::uniform_real_distribution<double>(a, b)(random);
  };
  Made m;
  m.kind = static_cast<int>(seed % 4U);
  m.from = between(0.2, 0.7);
  m.to = m.from + (random() % 2U == 0 ? 1.0 : -1.0) * between(0.15, 0.4);
  m.begins = between(15.0, 35.0);
  m.lasts = between(8.0, 36.0);
  m.past = m.kind == 3 ? between(0.2, 0.45) : between(0.1, 0.3);
  m.back = between(6.0, 12.0);
  m.period = between(10.0, 18.0);
  return m;
}

TEST(MovesOf, TellsWhatItWasOrThatItCannotTell) {
  int told = 0;
  int right = 0;
  int in_time = 0;
  int pulls = 0;
  constexpr int sequences = 80;
  for (std::uint32_t seed = 500; seed < 500 + sequences; ++seed) {
    const Made m = made_way(seed);
    std::mt19937 random(seed);
    const auto way = [&](double f) { return m.at(f); };
    const auto points = points_of(way, 96, 0.002, random, 0.1);
    const ValueCurve c = smooth_curve(points, frames_to(96));
    const auto moves = moves_of(points, c, {.least = 0.003}).moves;
    if (m.kind == 0) {
      ++told;
      right += moves.empty() ? 1 : 0;
      continue;
    }
    if (moves.size() == 1 && moves.front().kind == MoveKind::untold) continue;
    ++told;
    const MoveKind wanted = m.kind == 1   ? MoveKind::pull
                            : m.kind == 2 ? MoveKind::overshoot
                                          : MoveKind::hunt;
    right += moves.size() == 1 && moves.front().kind == wanted ? 1 : 0;
    if (m.kind != 1 || moves.size() != 1) continue;
    ++pulls;
    const auto when = [&](double share) {
      double f = 0.0;
      while (std::abs(m.at(f) - m.from) < share * std::abs(m.to - m.from)) f += 0.01;
      return 1001.0 + f;
    };
    in_time += std::abs(moves.front().tenth - when(0.1)) <= 2.0 &&
                       std::abs(moves.front().nine_tenths - when(0.9)) <= 2.0
                   ? 1
                   : 0;
  }
  EXPECT_GE(told, sequences * 90 / 100);
  EXPECT_GE(right, told * 95 / 100);
  EXPECT_EQ(in_time, pulls);
}

// Too noisy to see a turn back: then it is not called a pull.
TEST(MovesOf, DoesNotTellAKindThatNoiseCouldHide) {
  for (std::uint32_t seed = 1; seed < 9; ++seed) {
    Made m = made_way(4 * seed + 1);
    ASSERT_EQ(m.kind, 1);
    m.to = m.from + 0.15;
    std::mt19937 random(seed);
    const auto points = points_of([&](double f) { return m.at(f); }, 96, 0.02, random);
    const ValueCurve c = smooth_curve(points, frames_to(96));
    for (const Move& one : moves_of(points, c).moves) {
      EXPECT_EQ(one.kind, MoveKind::untold) << seed;
    }
  }
}

TEST(MovesOf, PartsTwoPullsWithARestBetween) {
  std::mt19937 random(11);
  const auto way = [](double f) {
    return 0.3 + 0.2 * smooth_step((f - 15.0) / 15.0) + 0.2 * smooth_step((f - 55.0) / 20.0);
  };
  const auto points = points_of(way, 96, 0.002, random);
  const auto moves = moves_of(points, smooth_curve(points, frames_to(96)), {.least = 0.003}).moves;
  ASSERT_EQ(moves.size(), 2U);
  EXPECT_EQ(moves[0].kind, MoveKind::pull);
  EXPECT_NEAR(moves[0].begins, 1016.0, 2.0);
  EXPECT_NEAR(moves[0].ends, 1031.0, 2.0);
  EXPECT_NEAR(moves[1].begins, 1056.0, 2.5);
  EXPECT_NEAR(moves[1].to, 0.7, 0.005);
}

TEST(MovesOf, FindsTheEaseItWasKeyedWith) {
  for (const Ease::Kind kind :
       {Ease::Kind::linear, Ease::Kind::smooth, Ease::Kind::slow_start, Ease::Kind::slow_stop}) {
    std::mt19937 random(12);
    const auto way = [&](double f) {
      return 0.3 + 0.3 * between({.kind = kind}, 0.0, 1.0, std::clamp((f - 25.0) / 30.0, 0.0, 1.0));
    };
    const auto points = points_of(way, 96, 0.003, random);
    const auto moves = moves_of(points, smooth_curve(points, frames_to(96))).moves;
    ASSERT_EQ(moves.size(), 1U) << to_string(kind);
    ASSERT_TRUE(moves[0].eased) << to_string(kind);
    EXPECT_EQ(moves[0].ease.kind, kind);
    EXPECT_NEAR(moves[0].begins, 1026.0, 1.5);
    EXPECT_NEAR(moves[0].ends, 1056.0, 1.5);
  }
}

// One point alone is no move, however far off, and nothing is told of frames without points.
TEST(MovesOf, AsksForMoreThanOnePoint) {
  std::mt19937 random(13);
  auto points = points_of([](double) { return 0.5; }, 60, 0.002, random);
  points.back().value += 0.1;
  points.front().value -= 0.1;
  EXPECT_TRUE(moves_of(points, smooth_curve(points, frames_to(60))).moves.empty());
}

TEST(MovesOf, OfHardlyAnyFramesSeesNone) {
  const std::vector<CurvePoint> points{{1001.0, 0.3, 0.01}, {1002.0, 0.6, 0.01}};
  EXPECT_TRUE(moves_of(points, smooth_curve(points, {1001.0, 1002.0})).moves.empty());
  EXPECT_TRUE(moves_of({}, {}).moves.empty());
}

}  // namespace value_curve_test
}  // namespace jolly_iris
