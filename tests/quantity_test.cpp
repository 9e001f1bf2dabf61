#include "jolly_iris/optics/quantity.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace quantity_test {

using testing::holds;
using testing::message_of;

TEST(Quantity, LengthsAsPeopleWriteThem) {
  EXPECT_DOUBLE_EQ(parse_length("53 mm").mm(), 53);
  EXPECT_DOUBLE_EQ(parse_length("53mm").mm(), 53);
  EXPECT_DOUBLE_EQ(parse_length("  2.4 m ").mm(), 2400);
  EXPECT_DOUBLE_EQ(parse_length("30 cm").mm(), 300);
  EXPECT_DOUBLE_EQ(parse_length("3 in").mm(), 76.2);
  EXPECT_DOUBLE_EQ(parse_length("7' 10\"").mm(), 94 * 25.4);
  EXPECT_DOUBLE_EQ(parse_length("7'10.5\"").mm(), 94.5 * 25.4);
  EXPECT_DOUBLE_EQ(parse_length("7 ft 10 in").mm(), 94 * 25.4);
  EXPECT_DOUBLE_EQ(parse_length("7′ 10″").mm(), 94 * 25.4);
  EXPECT_DOUBLE_EQ(parse_length("6 ft").mm(), 72 * 25.4);
  EXPECT_DOUBLE_EQ(parse_length(".5 m").mm(), 500);
  EXPECT_TRUE(parse_distance("infinity").is_infinite());
}

TEST(Quantity, StopsShuttersAnglesAndSizes) {
  EXPECT_EQ(parse_stop("f/2"), (Stop{2.0, Stop::Kind::f}));
  EXPECT_EQ(parse_stop("f2.8"), (Stop{2.8, Stop::Kind::f}));
  EXPECT_EQ(parse_stop("T2.1"), (Stop{2.1, Stop::Kind::t}));
  EXPECT_EQ(parse_stop("t/1.5"), (Stop{1.5, Stop::Kind::t}));
  EXPECT_DOUBLE_EQ(parse_shutter("1/48 s").time->seconds(), 1.0 / 48);
  EXPECT_DOUBLE_EQ(parse_shutter("20 ms").time->seconds(), 0.02);
  EXPECT_DOUBLE_EQ(parse_shutter("172.8 deg").angle->degrees(), 172.8);
  EXPECT_DOUBLE_EQ(parse_shutter("172.8°").angle->degrees(), 172.8);
  EXPECT_EQ(parse_extent("25.9 x 14.6 mm"), (Extent{25.9_mm, 14.6_mm}));
  EXPECT_DOUBLE_EQ(parse_extent("25.9 mm × 1.46 cm").height.mm(), 14.6);
  EXPECT_EQ(parse_pixel_size("3840 x 2160"), (PixelSize{3840, 2160}));
  EXPECT_DOUBLE_EQ(parse_temperature("5600 K").kelvin(), 5600);
  EXPECT_DOUBLE_EQ(parse_multiple("1.6 x"), 1.6);
  EXPECT_EQ(parse_blade_radius("straight").kind, BladeRadius::Kind::straight);
  EXPECT_DOUBLE_EQ(parse_blade_radius("-3 x").times, -3);
  EXPECT_DOUBLE_EQ(parse_blade_radius("22 mm").length.mm(), 22);
  EXPECT_DOUBLE_EQ(parse_luminance("95 cd/m2"), 95);
  EXPECT_DOUBLE_EQ(parse_luminance("10 EV"), 128);  // 2^EV · 12.5 / 100: ISO 2720
  EXPECT_DOUBLE_EQ(parse_stops("-1.2 stops"), -1.2);
  EXPECT_DOUBLE_EQ(parse_fraction("4 %"), 0.04);
  EXPECT_DOUBLE_EQ(parse_fraction("0.04"), 0.04);
  EXPECT_DOUBLE_EQ(parse_density("2 stops"), 2);
  EXPECT_DOUBLE_EQ(parse_density("0.6 density"), 2);
  EXPECT_DOUBLE_EQ(parse_density("4 x"), 2);
  EXPECT_DOUBLE_EQ(parse_criterion("2 px").pixels, 2);
  EXPECT_EQ(parse_criterion("photosite").kind, Criterion::Kind::photosite);
}

TEST(Quantity, MessagesSayWhatWasReadAndWhatWouldBeRight) {
  EXPECT_TRUE(holds(message_of<QuantityError>([] { (void)parse_length("58"); }), "'58'"));
  EXPECT_TRUE(holds(message_of<QuantityError>([] { (void)parse_length("58"); }), "e.g. 53 mm"));
  EXPECT_TRUE(holds(message_of<QuantityError>([] { (void)parse_length("2,4 m"); }), "a point"));
  EXPECT_TRUE(holds(message_of<QuantityError>([] { (void)parse_stop("f/-2"); }), "above zero"));
  EXPECT_TRUE(holds(message_of<QuantityError>([] { (void)parse_stop("2"); }), "f/2 or"));
}

TEST(Quantity, RefusesWhatItWouldHaveToGuess) {
  for (const char* text : {"", "mm", "58 furlongs", "53 mm mm", "nan mm", "inf mm", "1e999 mm",
                           "7' 10'", "7' -3\"", "5 mmm", "--5 mm"}) {
    EXPECT_THROW((void)parse_length(text), QuantityError) << text;
  }
  for (const char* text : {"f", "f/", "f/0", "f/nan", "g/2", "f/2 2", "T-1"}) {
    EXPECT_THROW((void)parse_stop(text), QuantityError) << text;
  }
  for (const char* text : {"1/0 s", "48", "0 s", "-1/48 s", "0 deg", "400 deg"}) {
    EXPECT_THROW((void)parse_shutter(text), QuantityError) << text;
  }
  for (const char* text : {"25.9 mm", "25.9 x 14.6", "x 14.6 mm", "25.9 14.6 mm"}) {
    EXPECT_THROW((void)parse_extent(text), QuantityError) << text;
  }
  for (const char* text : {"1920.5 x 1080", "0 x 1080", "-1 x 2", "1920", "99999999 x 2"}) {
    EXPECT_THROW((void)parse_pixel_size(text), QuantityError) << text;
  }
  EXPECT_THROW((void)parse_criterion("0 px"), QuantityError);
  EXPECT_THROW((void)parse_density("0.5 x"), QuantityError);
  EXPECT_THROW((void)parse_stops("1.2"), QuantityError);
  EXPECT_THROW((void)parse_stops("1e9 stops"), QuantityError);
  EXPECT_THROW((void)parse_fraction("-4 %"), QuantityError);
  EXPECT_THROW((void)parse_fraction("four"), QuantityError);
  EXPECT_THROW((void)parse_blade_radius("curvy"), QuantityError);
}

RC_GTEST_PROP(QuantityProperty, WhatIsWrittenIsRead, ()) {
  const double mm = 0.001 * *rc::gen::inRange(-1000000, 1000000);
  RC_ASSERT(std::abs(parse_length(fmt::format("{} mm", mm)).mm() - mm) < 1e-9);
  RC_ASSERT(std::abs(parse_length(fmt::format("{}m", mm)).m() - mm) < 1e-9);
}

RC_GTEST_PROP(QuantityProperty, AnyTextIsReadOrRefusedButNeverMore, (const std::string& text)) {
  try {
    RC_ASSERT(parse_length(text).is_finite());
  } catch (const QuantityError&) {
  }
  try {
    (void)parse_shutter(text);
    (void)parse_stop(text);
  } catch (const QuantityError&) {
  }
}

}  // namespace quantity_test
// By parts each is within reach; together they are not. And many cost no depth.
TEST(Density, OfManyFiltersIsBoundAsOne) {
  EXPECT_DOUBLE_EQ(parse_density("0.3 density + 2 stops + 4 x"), 5.0);
  EXPECT_THROW((void)parse_density("60 stops + 60 stops"), QuantityError);
  EXPECT_DOUBLE_EQ(parse_duration("12 min"), 720.0);
  EXPECT_DOUBLE_EQ(parse_duration("1 h 20 min"), 4800.0);
  EXPECT_DOUBLE_EQ(parse_duration("90s"), 90.0);
  EXPECT_THROW((void)parse_duration("12"), QuantityError);
  EXPECT_THROW((void)parse_duration(""), QuantityError);
  EXPECT_THROW((void)parse_duration("0 s"), QuantityError);
  EXPECT_THROW((void)parse_duration("30 weeks"), QuantityError);
  EXPECT_THROW((void)parse_duration("300 h"), QuantityError);
  try {
    (void)parse_density("2 stops +");
    ADD_FAILURE();
  } catch (const QuantityError& e) {
    EXPECT_TRUE(std::string(e.what()).starts_with("'2 stops +' is not")) << e.what();
  }
  std::string many = "0 stops";
  for (int i = 0; i < 200000; ++i) many += "+0 stops";
  EXPECT_EQ(parse_density(many), 0.0);
}

}  // namespace jolly_iris
