#include "jolly_iris/optics/sharpness.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace sharpness_test {

const Body body{
    .gate = {36_mm, 24_mm}, .pixels = {3600, 2400}, .photosites = PixelSize{7200, 4800}};
const Lens lens{.focal = 50_mm};

VirtualCamera focused(Length s, double n = 2.0) {
  return resolve(body, lens, {.stop = f_number(n)}, s);
}

TEST(Sharpness, CriteriaAreWhatTheySay) {
  const VirtualCamera c = focused(3_m);
  EXPECT_DOUBLE_EQ(coc_limit({Criterion::Kind::pixels, 2.0}, body, c).mm(), 0.02);
  EXPECT_DOUBLE_EQ(coc_limit({Criterion::Kind::photosite, 0}, body, c).mm(), 0.005);
  EXPECT_NEAR(coc_limit({Criterion::Kind::print, 0}, body, c).mm(), 43.2666 / 1500, 1e-6);
  Body parameter = body;
  parameter.photosites.reset();
  EXPECT_THROW((void)coc_limit({Criterion::Kind::photosite, 0}, parameter, c), OpticsError);
}

TEST(Sharpness, AtTheLimitsTheBlurIsTheLimit) {
  const VirtualCamera c = focused(3_m);
  const SharpRange range = sharp_range(c, 0.03_mm);
  EXPECT_NEAR(circle_of_confusion(c, range.near).mm(), -0.03, 1e-12);
  EXPECT_NEAR(circle_of_confusion(c, range.far).mm(), 0.03, 1e-12);
}

// Hyperfocal: f²/(Nc) + f, and focused there everything from half of it to infinity is sharp.
TEST(Sharpness, HyperfocalReachesInfinity) {
  const VirtualCamera c = focused(3_m, 8.0);
  const Length h = hyperfocal(c, 0.03_mm);
  EXPECT_NEAR(h.mm(), 2500.0 / (8 * 0.03) + 50.0, 1e-9);
  const SharpRange range = sharp_range(focused(h, 8.0), 0.03_mm);
  EXPECT_TRUE(range.far.is_infinite() || range.far > 1000_m);
  EXPECT_NEAR(range.near / h, 0.5, 0.005);
}

TEST(Sharpness, AiryDiscGrowsWithTheFNumber) {
  EXPECT_NEAR(airy_diameter(focused(Length::infinity(), 16)).mm(), 2.44 * 16 * 550e-6, 1e-12);
}

TEST(Sharpness, BehindTheCameraThereIsNoBlurToAskFor) {
  EXPECT_THROW((void)circle_of_confusion(focused(3_m), 0_m), OpticsError);
  EXPECT_THROW((void)circle_of_confusion(focused(3_m), -1.0 * 1_m), OpticsError);
  EXPECT_THROW((void)sharp_range(focused(3_m), 0_mm), OpticsError);
}

// Geometry, without the formula: a cone from the pupil over the focus plane, cut at the sensor.
RC_GTEST_PROP(SharpnessProperty, BlurIsAConeCutByTheSensor, ()) {
  const double s = 1000.0 + *rc::gen::inRange(0, 20000);
  const double z = 300.0 + *rc::gen::inRange(0, 50000);
  const VirtualCamera c = focused(Length::from_mm(s));
  const double image_of_z = 1.0 / (1.0 / 50.0 - 1.0 / z);
  const double sensor = 1.0 / (1.0 / 50.0 - 1.0 / s);
  const double cut = 25.0 * (sensor - image_of_z) / image_of_z;
  RC_ASSERT(std::abs(circle_of_confusion(c, Length::from_mm(z)).mm() - cut) <
            1e-9 * (1 + std::abs(cut)));
}

RC_GTEST_PROP(SharpnessProperty, BlurGrowsWithDistance, ()) {
  const VirtualCamera c = focused(3_m);
  const double a = 100.0 + *rc::gen::inRange(0, 100000);
  const double b = a + 1.0 + *rc::gen::inRange(0, 100000);
  RC_ASSERT(circle_of_confusion(c, Length::from_mm(a)) <
            circle_of_confusion(c, Length::from_mm(b)));
}

}  // namespace sharpness_test
}  // namespace jolly_iris
