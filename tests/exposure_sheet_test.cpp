#include "jolly_iris/drawing/exposure_sheet.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>

#include "support.hpp"

namespace jolly_iris {
namespace exposure_sheet_test {

using testing::holds;

// Ten grey stairs, a stop each, with a corner of every mishap.
ExposureSheet stairs(PixelSize size = {400, 200}) {
  ExposureSheet sheet;
  sheet.title = "stairs.exr: well exposed";
  sheet.subtitle = "400 x 200 px";
  sheet.picture = Picture(size);
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const float v = 0.18F * std::exp2(static_cast<float>(10 * x / size.width - 7));
      sheet.picture.at(x, y) = {v, v, v, 1.0F};
    }
  }
  sheet.picture.at(0, 0) = {std::numeric_limits<float>::quiet_NaN(), 0.0F, 0.0F, 1.0F};
  sheet.picture.at(size.width - 1, 0) = {50.0F, 50.0F, 50.0F, 1.0F};
  sheet.histogram = stops_histogram(sheet.picture, Primaries::rec709);
  sheet.black = 0.25;
  sheet.clipped = 0.0001;
  sheet.level_stops = -2.5;
  sheet.spots = {{{180, 90, 20, 20}, true, "-2.50"}, {{190, 100, 30, 20}, false, "card -2.00"}};
  sheet.numbers = {{"To bring it to 0.18", ""}, {"in CG", "+2.50 stops"}};
  return sheet;
}

TEST(ExposureSheet, NamesEveryTerraceAndMark) {
  const std::string svg = exposure_svg(stairs());
  EXPECT_TRUE(holds(svg, "<svg"));
  EXPECT_TRUE(holds(svg, "</svg>"));
  EXPECT_TRUE(holds(svg, "data:image/png")) << "the picture is in it";
}

TEST(ExposureSheet, IsAPngOfTheUsualSize) {
  const std::string png = exposure_png(stairs());
  ASSERT_GT(png.size(), 1000U);
  EXPECT_EQ(png.substr(1, 3), "PNG");
  const auto number = [&](std::size_t at) {
    int v = 0;
    for (std::size_t i = 0; i < 4; ++i) v = v * 256 + static_cast<unsigned char>(png[at + i]);
    return v;
  };
  EXPECT_EQ(number(16), 1280);
  EXPECT_EQ(number(20), 800);
}

TEST(ExposureSheet, ABrighterPictureDrawsAnotherMap) {
  ExposureSheet bright = stairs();
  for (Rgba& p : bright.picture.pixels()) p[1] *= 4.0F;
  EXPECT_NE(exposure_png(bright), exposure_png(stairs()));
}

TEST(ExposureSheet, DrawsAnyShapeAndWhatIsNoLight) {
  for (const PixelSize size : {PixelSize{1, 1}, PixelSize{1, 300}, PixelSize{3000, 2}}) {
    EXPECT_GT(exposure_png(stairs(size)).size(), 1000U) << size.width << " x " << size.height;
  }
  ExposureSheet dark = stairs();
  dark.picture = Picture({64, 36});
  dark.histogram = stops_histogram(dark.picture, Primaries::rec709);
  dark.level_stops = -std::numeric_limits<double>::infinity();
  EXPECT_GT(exposure_png(dark).size(), 1000U);
}

}  // namespace exposure_sheet_test
}  // namespace jolly_iris
