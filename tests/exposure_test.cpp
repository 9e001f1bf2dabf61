#include "jolly_iris/optics/exposure.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace exposure_test {

using testing::holds;
using testing::message_of;

const Body body{.gate = {36_mm, 24_mm}, .pixels = {1920, 1280}};

double ev_of(const Lens& lens, const Take& take, Length focus = Length::infinity()) {
  return ev100(lens, take, resolve(body, lens, take, focus)).value();
}

Take sunny() {
  return {
      .stop = f_number(16), .iso = 100, .shutter = Shutter{.time = Duration::from_seconds(0.01)}};
}

TEST(Exposure, SunnySixteenIsEvFourteenAndTwoThirds) {
  EXPECT_NEAR(ev_of({.focal = 50_mm}, sunny()), std::log2(256.0 * 100.0), 1e-12);
}

TEST(Exposure, EachStopIsOne) {
  const double base = ev_of({.focal = 50_mm}, sunny());
  Take t = sunny();
  t.iso = 200;
  EXPECT_NEAR(ev_of({.focal = 50_mm}, t), base - 1.0, 1e-12);
  t = sunny();
  t.nd_stops = 2.0;
  EXPECT_NEAR(ev_of({.focal = 50_mm}, t), base + 2.0, 1e-12);
  t = sunny();
  t.stop = f_number(16 * std::sqrt(2.0));
  EXPECT_NEAR(ev_of({.focal = 50_mm}, t), base + 1.0, 1e-12);
}

TEST(Exposure, ReducerGivesLightAndItsGlassTakesSome) {
  const double base = ev_of({.focal = 50_mm}, sunny());
  const double reduced = ev_of({.focal = 50_mm, .adapter = 0.5}, sunny());
  EXPECT_NEAR(reduced, base - 2.0, 1e-12);
  const Lens dim{.focal = 50_mm, .adapter = 0.5, .adapter_transmission = 0.5};
  EXPECT_NEAR(ev_of(dim, sunny()), base - 1.0, 1e-12);
}

TEST(Exposure, OneToOneCostsTwoStops) {
  EXPECT_NEAR(ev_of({.focal = 50_mm}, sunny(), 100_mm), ev_of({.focal = 50_mm}, sunny()) + 2.0,
              1e-12);
}

TEST(Exposure, TransmissionCountsOnceForFAndNeverForT) {
  const Lens dark{.focal = 50_mm, .transmission = 0.5};
  EXPECT_NEAR(ev_of(dark, sunny()), ev_of({.focal = 50_mm}, sunny()) + 1.0, 1e-12);
  Take t = sunny();
  t.stop = t_number(16);
  EXPECT_NEAR(ev_of(dark, t), ev_of({.focal = 50_mm}, sunny()), 1e-12);
}

TEST(Exposure, AngleNeedsAFrameRate) {
  Take t = sunny();
  t.shutter = Shutter{.angle = 172.8_deg};
  EXPECT_FALSE(shutter_time(t).has_value());
  EXPECT_FALSE(ev100({.focal = 50_mm}, t, resolve(body, {.focal = 50_mm}, t, 3_m)).has_value());
  t.fps = 24;
  EXPECT_NEAR(shutter_time(t)->seconds(), 0.02, 1e-12);
  t.shutter = Shutter{.time = Duration::from_seconds(1.0 / 48)};
  EXPECT_NEAR(shutter_angle(t)->degrees(), 180.0, 1e-9);
}

TEST(Exposure, SixteenAtAHundredTwentyFifthIsAlmostFifteen) {
  Take t = sunny();
  t.shutter = Shutter{.time = Duration::from_seconds(1.0 / 125)};
  EXPECT_NEAR(ev_of({.focal = 50_mm}, t), 14.966, 5e-4);
}

TEST(Exposure, AgreesWithAHandCalculationOfAWholeTake) {
  // f/2 behind a reducer of 0.76, a lens that loses 0.3 stop, ND 0.6 (two stops), ISO 800 (three):
  //   N²  = (2 · 0.76)² · 2^0.3            log2 = 1.208142 + 0.3 = 1.508142
  //   1/t = 24 / (180/360) = 48            log2 = 5.584963
  //   EV  = 1.508142 + 5.584963 − 3 + 2 = 6.093105
  const Lens lens{.focal = 50_mm, .adapter = 0.76, .transmission = std::exp2(-0.3)};
  Take t{.stop = f_number(2),
         .iso = 800,
         .shutter = Shutter{.angle = 180_deg},
         .fps = 24,
         .nd_stops = parse_density("0.6 density")};
  EXPECT_NEAR(ev_of(lens, t), 6.093105, 2e-6);
  t.fps = 25;  // 1/50 s: log2 50 = 5.643856
  EXPECT_NEAR(ev_of(lens, t), 6.151999, 2e-6);
}

TEST(Exposure, FollowsTheApexTable) {
  // Ev = Av + Tv at ISO 100, Av = log2 N², Tv = −log2 t, and one less a doubling of the speed
  // (APEX, ANSI PH2.7). First by the exact numbers behind the marks, then by the marks, which are
  // rounded.
  for (int av = 0; av <= 10; ++av) {
    for (int tv = -4; tv <= 12; ++tv) {
      const Take t{.stop = f_number(std::exp2(0.5 * av)),
                   .iso = 100.0 * std::exp2(tv % 3),
                   .shutter = Shutter{.time = Duration::from_seconds(std::exp2(-tv))}};
      EXPECT_NEAR(ev_of({.focal = 50_mm}, t), av + tv - tv % 3, 1e-9);
    }
  }
  struct Row {
    double n, seconds, iso, ev;
  };
  for (const Row& r :
       {Row{1, 1, 100, 0}, Row{1.4, 1, 100, 1}, Row{2, 1. / 2, 100, 3}, Row{2.8, 1. / 4, 100, 5},
        Row{4, 1. / 8, 100, 7}, Row{5.6, 1. / 60, 100, 11}, Row{8, 1. / 125, 100, 13},
        Row{16, 1. / 125, 100, 15}, Row{22, 1. / 1000, 100, 19}, Row{2, 1. / 60, 400, 6},
        Row{2.8, 1. / 50, 800, 5.6}, Row{11, 30, 100, 2}}) {
    const Take t{.stop = f_number(r.n),
                 .iso = r.iso,
                 .shutter = Shutter{.time = Duration::from_seconds(r.seconds)}};
    EXPECT_NEAR(ev_of({.focal = 50_mm}, t), r.ev, 0.15) << "f/" << r.n << " " << r.seconds << " s";
  }
}

TEST(Exposure, AGivenEvLeadsOverTheNumbers) {
  Take t = sunny();
  t.ev = 9.5;
  const Lens lens{.focal = 50_mm};
  const Exposure e = exposure_of(lens, t, resolve(body, lens, t, 3_m));
  EXPECT_EQ(e.ev100, 9.5);
  EXPECT_TRUE(e.ev_is_given);
  EXPECT_GT(*e.by_numbers, 14.0);
}

TEST(Exposure, BothAnchorsAreTheStandardsOwn) {
  // ISO 2720, K = 12.5: EV 0 is 0.125 cd/m², EV 15 is 4096; that becomes 0.18.
  EXPECT_NEAR(metered_luminance(0.0), 0.125, 1e-12);
  EXPECT_NEAR(metered_luminance(15.0) * value_per_candela(15.0, Anchor::grey, 0.65), 0.18, 1e-12);
  // ISO 12232: H = 78 / S saturates, and with q = 0.65 that is 1.2 · 2^EV cd/m² at ISO 100.
  EXPECT_NEAR(1.2 * std::exp2(7.0) * value_per_candela(7.0, Anchor::saturation, 0.65), 1.0, 1e-12);
  // The same by the sensor: L = 78 N² / (S t q) for N = 4, t = 1/100 s, S = 200.
  const double q = lens_q(true);
  const double l = 78.0 * 16.0 / (200.0 * 0.01 * q);
  const double ev = std::log2(16.0 / 0.01) - 1.0;
  EXPECT_NEAR(l * value_per_candela(ev, Anchor::saturation, q), 1.0, 1e-12);
}

TEST(Exposure, CgShuttersAreHalfAnExposureApart) {
  Take t = sunny();
  t.shutter = Shutter{.angle = 172.8_deg};
  t.fps = 24;
  const CgShutter s = cg_shutter(t).value();
  EXPECT_NEAR(s.open_fraction, 0.48, 1e-12);
  EXPECT_NEAR(s.centred.opens, -0.24, 1e-12);
  EXPECT_NEAR(s.centred.closes, 0.24, 1e-12);
  EXPECT_NEAR(s.from_frame.closes, 0.48, 1e-12);
  t.shutter = Shutter{.time = Duration::from_seconds(0.1)};
  EXPECT_NEAR(cg_shutter(t)->open_fraction, 2.4, 1e-12);  // longer than the frame, and said so
  t.fps = std::nullopt;
  EXPECT_FALSE(cg_shutter(t));
}

TEST(Exposure, RefusesWhatNoTakeHas) {
  const auto message = [](auto&& alter) {
    Take t = sunny();
    t.fps = 24;
    alter(t);
    return message_of<OpticsError>([&] { (void)ev_of({.focal = 50_mm}, t); });
  };
  EXPECT_TRUE(holds(message([](Take& t) { t.iso = 0; }), "ISO is 0"));
  EXPECT_TRUE(holds(message([](Take& t) { t.fps = -24; }), "frame rate is -24"));
  EXPECT_TRUE(holds(message([](Take& t) { t.shutter = Shutter{.time = Duration{}}; }),
                    "exposure time in s is 0"));
  EXPECT_TRUE(
      holds(message([](Take& t) { t.shutter = Shutter{.angle = 361_deg}; }), "a frame's turn"));
  EXPECT_TRUE(holds(message([](Take& t) { t.nd_stops = -1; }), "density is -1 stops"));
  EXPECT_TRUE(holds(message([](Take& t) { t.ev = std::nan(""); }), "exposure value is nan"));
}

TEST(Density, SeveralFiltersStack) {
  EXPECT_NEAR(parse_density("0.6 density + 1 stop"), 3.0, 1e-12);
  EXPECT_NEAR(parse_density("4 x + 2 x + 0.3 density"), 4.0, 1e-12);
  EXPECT_TRUE(holds(message_of<QuantityError>([] { (void)parse_density("1 stop +"); }), "+"));
  EXPECT_THROW((void)parse_density("-1 stop"), QuantityError);
}

}  // namespace exposure_test
}  // namespace jolly_iris
