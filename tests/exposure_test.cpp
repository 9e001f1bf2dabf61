#include "jolly_iris/exposure.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "support.hpp"

namespace jolly_iris {
namespace {

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

}  // namespace
}  // namespace jolly_iris
