#include "jolly_iris/optics/exposure_hold.hpp"

#include <gtest/gtest.h>
// gtest before rapidcheck
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/exposure_ramp.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace exposure_hold_test {

using testing::holds;
using testing::message_of;

const Lens lens{.focal = 53_mm, .adapter = 0.76, .transmission = 0.9};

Take noted() {
  return {.stop = f_number(2.0), .iso = 800, .shutter = Shutter{.angle = 172.8_deg}, .fps = 24};
}

double ev(const Take& take) {
  const Body body{.gate = {25.9_mm, 14.6_mm}, .pixels = {1920, 1080}};
  return ev100(lens, take, resolve(body, lens, take, 3_m)).value();
}

TEST(Hold, AStopWiderIsPaidByEachPartner) {
  Take now = noted();
  now.stop = f_number(std::sqrt(2.0));
  const auto paid_by = [&](Partner partner) { return hold_exposure(lens, noted(), now, partner); };
  EXPECT_NEAR(paid_by(Partner::iso).light_stops, 1.0, 1e-12);
  EXPECT_NEAR(*paid_by(Partner::iso).exact.iso, 400.0, 1e-9);
  EXPECT_NEAR(paid_by(Partner::iso).noise_stops, -1.0, 1e-12);
  EXPECT_NEAR(paid_by(Partner::shutter).exact.shutter->angle->degrees(), 86.4, 1e-9);
  EXPECT_NEAR(paid_by(Partner::shutter).motion_blur_times, 0.5, 1e-9);
  EXPECT_NEAR(paid_by(Partner::nd).exact.nd_stops, 1.0, 1e-12);
  EXPECT_NEAR(paid_by(Partner::nd).blur_times, std::sqrt(2.0), 1e-12);
}

TEST(Hold, AShorterShutterIsPaidByTheStop) {
  Take now = noted();
  now.shutter = Shutter{.time = Duration::from_seconds(1.0 / 200)};  // from 1/50: two stops
  const Trade trade = hold_exposure(lens, noted(), now, Partner::stop);
  EXPECT_NEAR(trade.light_stops, -2.0, 1e-9);
  EXPECT_NEAR(trade.exact.stop.value, 1.0, 1e-9);
  EXPECT_EQ(trade.nearest.stop.value, 1.0);
  EXPECT_NEAR(trade.left_stops, 0.0, 1e-9);
}

TEST(Hold, NearestMarksAreTheStandardsAndTheirErrorIsTold) {
  EXPECT_EQ(nearest_f_number(5.657), 5.6);
  EXPECT_EQ(nearest_iso(1130), 1250);  // a sixth of a stop off, the nearer by ratio
  EXPECT_EQ(nearest_iso(6400), 6400);
  EXPECT_NEAR(1.0 / nearest_time(Duration::from_seconds(1.0 / 48)).seconds(), 50.0, 1e-9);
  EXPECT_NEAR(nearest_nd_stops(1.2), 4.0 / 3.0, 1e-12);  // 0.4 density
  Take now = noted();
  now.stop = f_number(2.5);  // 0.644 stop less
  const Trade trade = hold_exposure(lens, noted(), now, Partner::iso);
  EXPECT_NEAR(*trade.exact.iso, 1250.0, 1e-6);
  EXPECT_EQ(*trade.nearest.iso, 1250);
  now.stop = f_number(2.4);
  const Trade rough = hold_exposure(lens, noted(), now, Partner::iso);
  EXPECT_EQ(*rough.nearest.iso, 1250);  // 1152 would be right
  EXPECT_NEAR(rough.left_stops, std::log2(1250.0 / 1152.0), 1e-9);
}

RC_GTEST_PROP(Hold, ExactlyHoldsTheExposureValueWhoeverPays, ()) {
  Take was = noted();
  was.nd_stops = 6.0;
  Take now = was;
  now.stop = f_number(*rc::gen::inRange(100, 800) / 100.0);
  now.iso = *rc::gen::inRange(400, 1600);
  const auto partner =
      *rc::gen::element(Partner::stop, Partner::shutter, Partner::iso, Partner::nd);
  if (partner == Partner::shutter && ev(now) - ev(was) > 1.0) return;  // beyond 360 deg
  const Trade trade = hold_exposure(lens, was, now, partner);
  RC_ASSERT(std::abs(ev(trade.exact) - ev(was)) < 1e-9);
  RC_ASSERT(std::abs(trade.left_stops - (ev(was) - ev(trade.nearest))) < 1e-9);
}

TEST(Hold, NoStopIsWiderThanTheLensOpens) {
  Lens slow = lens;
  slow.widest = f_number(1.88);  // no mark of the series
  Take wider = noted();
  wider.stop = f_number(1.4);
  EXPECT_TRUE(holds(
      message_of<OpticsError>([&] { (void)hold_exposure(slow, noted(), wider, Partner::iso); }),
      "the stop would have to be f/1.4; the lens opens to f/1.88"));
  EXPECT_THROW((void)change_exposure(slow, noted(), 2.0, Partner::stop), OpticsError);
  EXPECT_NO_THROW((void)change_exposure(lens, noted(), 2.0, Partner::stop));
  // f/1.8 would be nearest, but the ring ends at f/1.88.
  Take open = noted();
  open.stop = f_number(2.0);
  const Trade trade = change_exposure(slow, open, 2.0 * std::log2(2.0 / 1.88), Partner::stop);
  EXPECT_NEAR(trade.exact.stop.value, 1.88, 1e-9);
  EXPECT_DOUBLE_EQ(trade.nearest.stop.value, 1.88);
  // Counted as T-numbers it is the same ring.
  EXPECT_TRUE(opens_to(slow, t_number(1.88 / std::sqrt(0.9))));
  EXPECT_FALSE(opens_to(slow, t_number(1.88)));
  EXPECT_NEAR(widest_as(slow, Stop::Kind::t).value, 1.88 / std::sqrt(0.9), 1e-12);
}

TEST(Hold, SaysWhoCannotPay) {
  Take now = noted();
  now.stop = f_number(5.6);
  EXPECT_TRUE(holds(
      message_of<OpticsError>([&] { (void)hold_exposure(lens, noted(), now, Partner::shutter); }),
      "1355 deg; a frame's turn has 360"));
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)hold_exposure(lens, noted(), now, Partner::nd); }),
            "a filter only takes light"));
  now.iso = std::nullopt;
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)hold_exposure(lens, noted(), now, Partner::nd); }),
            "iso = 800"));
  now = noted();
  now.fps = std::nullopt;
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)hold_exposure(lens, noted(), now, Partner::iso); }),
            "needs take.fps"));
}

// ---- a camera that re-exposes itself -----------------------------------------------------------

TEST(Ramp, FollowsAStepNoFasterThanItCan) {
  std::vector<double> wanted(120, 0.0);
  for (std::size_t i = 24; i < wanted.size(); ++i) wanted[i] = 3.0;
  const auto done = exposure_ramp(wanted, {.stops_per_second = 2.0, .fps = 24.0});
  for (std::size_t i = 1; i < done.size(); ++i) {
    EXPECT_LE(std::abs(done[i] - done[i - 1]), 2.0 / 24.0 + 1e-12) << i;
    EXPECT_GE(done[i], done[i - 1]) << "it never turns back, " << i;
    EXPECT_LE(done[i], 3.0) << "nor overshoots, " << i;
  }
  EXPECT_EQ(done[23], 0.0);
  EXPECT_NEAR(done[24 + 23], 2.0, 1e-9) << "a second of full speed";
  EXPECT_NEAR(done.back(), 3.0, 1e-3);
}

TEST(Ramp, SeesLate) {
  std::vector<double> wanted(100, 0.0);
  for (std::size_t i = 10; i < wanted.size(); ++i) wanted[i] = -1.0;
  const RampSettings late{.delay = Duration::from_seconds(0.5), .fps = 24.0};
  const auto done = exposure_ramp(wanted, late);
  const auto prompt = exposure_ramp(wanted, {.fps = 24.0});
  for (std::size_t i = 12; i < 100; ++i) EXPECT_NEAR(done[i], prompt[i - 12], 1e-12) << i;
}

TEST(Ramp, WithoutEaseItArrivesOnTime) {
  std::vector<double> wanted(60, 1.0);
  wanted[0] = 0.0;
  const auto done =
      exposure_ramp(wanted, {.stops_per_second = 4.0, .ease = Duration{}, .fps = 16.0});
  EXPECT_NEAR(done[3], 0.75, 1e-12);
  EXPECT_EQ(done[4], 1.0);
  EXPECT_EQ(done[59], 1.0);
}

TEST(Ramp, RefusesNonsense) {
  EXPECT_TRUE(exposure_ramp({}, {}).empty());
  EXPECT_THROW((void)exposure_ramp({1.0}, {.stops_per_second = 0.0}), UsageError);
  EXPECT_THROW((void)exposure_ramp({1.0}, {.delay = Duration::from_seconds(-1)}), UsageError);
  EXPECT_TRUE(holds(message_of<UsageError>([] {
                      (void)exposure_ramp({1.0, std::nan("")}, {});
                    }),
                    "at place 1 is nan"));
}

}  // namespace exposure_hold_test
}  // namespace jolly_iris
