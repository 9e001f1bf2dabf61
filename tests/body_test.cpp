#include "jolly_iris/optics/body.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace body_test {

using testing::holds;
using testing::message_of;

TEST(Body, TradeFormatsAreKnownByName) {
  EXPECT_EQ(parse_gate("full frame"), (Extent{36_mm, 24_mm}));
  EXPECT_EQ(parse_gate("Super 35"), (Extent{24.89_mm, 18.66_mm}));
  // Names that begin like a length are names all the same.
  EXPECT_EQ(parse_gate("16 mm"), (Extent{10.26_mm, 7.49_mm}));
  EXPECT_EQ(parse_gate("6 x 7"), (Extent{56_mm, 70_mm}));
  EXPECT_EQ(parse_gate("25.9 x 14.6 mm"), (Extent{25.9_mm, 14.6_mm}));
}

TEST(Body, AnUnknownFormatIsToldWithTheNearest) {
  const auto message = message_of<QuantityError>([] { (void)parse_gate("super 36"); });
  EXPECT_TRUE(holds(message, "'super 36'"));
  EXPECT_TRUE(holds(message, "super 35"));
  EXPECT_THROW((void)parse_gate("17 mm"), QuantityError);
}

TEST(Body, EveryFormatHasAGate) {
  for (const TradeFormat& format : trade_formats()) {
    EXPECT_GT(format.gate.width.mm(), 0.0) << format.name;
    EXPECT_GT(format.gate.height.mm(), 0.0) << format.name;
    EXPECT_EQ(parse_gate(format.name), format.gate);
  }
}

TEST(Body, AWindowShrinksTheGate) {
  const Body body{.gate = {24_mm, 16_mm},
                  .pixels = {1920, 1080},
                  .photosites = PixelSize{5848, 3896},
                  .window = PixelSize{2924, 1461}};
  EXPECT_EQ(recorded_gate(body), (Extent{12_mm, 6_mm}));
  const VirtualCamera camera =
      resolve(body, {.focal = 50_mm}, {.stop = f_number(2)}, Length::infinity());
  EXPECT_DOUBLE_EQ(camera.gate.width.mm(), 12.0);
  EXPECT_NEAR(camera.horizontal_field_of_view().degrees(), 13.6855, 1e-4);  // 2 atan(6 / 50)
}

TEST(Body, AWindowNeedsPhotositesAndFitsThem) {
  Body body{.gate = {24_mm, 16_mm}, .pixels = {1920, 1080}, .window = PixelSize{2924, 1461}};
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)recorded_gate(body); }), "photosites"));
  body.photosites = PixelSize{2000, 4000};
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)recorded_gate(body); }), "larger"));
}

// A gate of 24 × 16 (1.5 : 1) delivered as 2 : 1.
Extent kept(FitMode keeps, PixelSize pixels = {2000, 1000}) {
  const Body body{.gate = {24_mm, 16_mm}, .pixels = pixels, .keeps = keeps};
  return shown_by_picture(body, body.gate);
}

TEST(Body, APictureOfAnotherShapeKeepsWhatIsSaid) {
  EXPECT_EQ(kept(FitMode::gate_width), (Extent{24_mm, 12_mm}));
  EXPECT_EQ(kept(FitMode::gate_height), (Extent{32_mm, 16_mm}));
  EXPECT_EQ(kept(FitMode::whole_gate), (Extent{32_mm, 16_mm}));  // bars at the sides
  EXPECT_EQ(kept(FitMode::no_bars), (Extent{24_mm, 12_mm}));
  // A picture narrower than the gate turns the last two round.
  EXPECT_EQ(kept(FitMode::whole_gate, {1000, 1000}), (Extent{24_mm, 24_mm}));
  EXPECT_EQ(kept(FitMode::no_bars, {1000, 1000}), (Extent{16_mm, 16_mm}));
}

TEST(Body, KeepingTheHeightWidensTheView) {
  Body body{.gate = {24_mm, 16_mm}, .pixels = {2000, 1000}, .keeps = FitMode::gate_height};
  const Take take{.stop = f_number(2)};
  const VirtualCamera height = resolve(body, {.focal = 50_mm}, take, 4_m);
  body.keeps = FitMode::gate_width;
  const VirtualCamera width = resolve(body, {.focal = 50_mm}, take, 4_m);
  EXPECT_NEAR(height.horizontal_picture_view().radians(), 2 * std::atan(16.0 / height.focal.mm()),
              1e-12);
  EXPECT_DOUBLE_EQ(width.horizontal_picture_view().radians(),
                   width.horizontal_field_of_view().radians());
  // The blur is the same on the gate, and fewer of the larger pixels.
  EXPECT_NEAR(to_pixels(circle_of_confusion(height, 8_m), height) /
                  to_pixels(circle_of_confusion(width, 8_m), width),
              24.0 / 32.0, 1e-12);
}

TEST(Body, PixelsThatAreNotSquareHaveTwoPitches) {
  const Body body{.gate = {24_mm, 16_mm}, .pixels = {1500, 2000}, .pixel_aspect = 2.0};
  EXPECT_DOUBLE_EQ(picture_shape(body), 1.5);
  const VirtualCamera camera = resolve(body, {.focal = 50_mm}, {.stop = f_number(2)}, 4_m);
  EXPECT_DOUBLE_EQ(camera.pixel_pitch_x() / camera.pixel_pitch(), 2.0);
}

RC_GTEST_PROP(BodyProperty, PictureHasItsOwnShape, ()) {
  const int width = *rc::gen::inRange(100, 8000);
  const int height = *rc::gen::inRange(100, 8000);
  for (const FitMode keeps :
       {FitMode::gate_width, FitMode::gate_height, FitMode::whole_gate, FitMode::no_bars}) {
    const Extent e = kept(keeps, {width, height});
    RC_ASSERT(std::abs(e.width / e.height - static_cast<double>(width) / height) < 1e-9 * width);
  }
  // No bars lies within the gate; the whole gate lies within the picture.
  RC_ASSERT(kept(FitMode::no_bars, {width, height}).width.mm() <= 24.0 + 1e-9);
  RC_ASSERT(kept(FitMode::no_bars, {width, height}).height.mm() <= 16.0 + 1e-9);
  RC_ASSERT(kept(FitMode::whole_gate, {width, height}).width.mm() >= 24.0 - 1e-9);
  RC_ASSERT(kept(FitMode::whole_gate, {width, height}).height.mm() >= 16.0 - 1e-9);
}

}  // namespace body_test
}  // namespace jolly_iris
