#include "jolly_iris/picture/picture.hpp"
#include "picture/decode_straight.hpp"

#include <gtest/gtest.h>

#include <array>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/picture/psnr.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace picture_test {

using testing::holds;
using testing::message_of;

TEST(Picture, HasAtLeastOnePixel) {
  EXPECT_THROW((void)Picture({0, 0}), UsageError);
  EXPECT_THROW((void)Picture({4, -1}), UsageError);
  EXPECT_EQ(Picture({3, 2}, {1, 2, 3, 4}).at(2, 1)[3], 4.0F);
}

TEST(Picture, BoxIsCutOutWithItsDepth) {
  Frame frame{Picture({4, 3}), std::vector<float>(12, 1.0F)};
  frame.colour.at(2, 1) = {9, 8, 7, 1};
  frame.depth[6] = 5.0F;
  const Frame part = crop(frame, {2, 1, 2, 2});
  EXPECT_EQ(part.colour.at(0, 0)[0], 9.0F);
  EXPECT_EQ(part.depth, (std::vector<float>{5, 1, 1, 1}));
  for (const Box& box : {Box{-1, 0, 2, 2}, Box{3, 0, 2, 1}, Box{0, 0, 0, 1}, Box{0, 2, 1, 2}}) {
    EXPECT_TRUE(holds(message_of<UsageError>([&] { (void)crop(frame, box); }), "4 x 3"));
  }
}

// Published values: sRGB 0.5 is 0.21404 in linear light; 18 % grey is 0.46136 in sRGB and 0.40901
// in Rec.709.
TEST(Transfer, KnownValues) {
  EXPECT_NEAR(decode(0.5F, Transfer::srgb), 0.21404, 1e-5);
  EXPECT_NEAR(encode(0.18F, Transfer::srgb), 0.46136, 1e-5);
  EXPECT_NEAR(encode(0.18F, Transfer::rec709), 0.40885, 1e-5);
  EXPECT_EQ(encode(0.18F, Transfer::linear), 0.18F);
}

TEST(Transfer, ThereAndBackOverAllEightBitValuesAndBeyond) {
  for (const Transfer t : {Transfer::srgb, Transfer::rec709}) {
    for (int i = -64; i <= 512; ++i) {
      const float v = static_cast<float>(i) / 255.0F;
      EXPECT_NEAR(encode(decode(v, t), t), v, 2e-6) << i;
    }
  }
}

TEST(Transfer, AcescctIsThePublishedCurve) {
  // AMPAS S-2016-001: 18 % grey, 1, and black.
  EXPECT_NEAR(encode(0.18F, Transfer::acescct), 0.4135884, 1e-6);
  EXPECT_NEAR(encode(1.0F, Transfer::acescct), 0.5547945, 1e-6);
  EXPECT_NEAR(encode(0.0F, Transfer::acescct), 0.0729055, 1e-6);
  for (int i = -10; i <= 140; ++i) {
    const float v = static_cast<float>(i) / 100.0F;
    EXPECT_NEAR(encode(decode(v, Transfer::acescct), Transfer::acescct), v, 2e-5) << i;
  }
  EXPECT_NEAR(max_light(Transfer::acescct), std::exp2(17.52 - 9.72), 1e-2);
}

TEST(Transfer, ATableIsFollowedAndGoesOnStraight) {
  const Curve curve{"", {{0.1, 0.0}, {0.4, 0.18}, {0.6, 1.0}, {0.9, 8.0}}};
  EXPECT_NEAR(decode(0.4F, curve), 0.18F, 1e-6F);
  EXPECT_NEAR(decode(0.5F, curve), 0.59F, 1e-6F);
  EXPECT_NEAR(decode(0.0F, curve), -0.06F, 1e-6F);
  EXPECT_NEAR(decode(1.0F, curve), 8.0F + 7.0F / 3.0F, 1e-5F);
  for (const float v : {-0.2F, 0.1F, 0.25F, 0.55F, 0.77F, 1.3F}) {
    EXPECT_NEAR(encode(decode(v, curve), curve), v, 1e-5F);
  }
  EXPECT_NEAR(max_light(Transfer::table, curve), 8.0 + 7.0 / 3.0, 1e-5);
  EXPECT_THROW((void)decode(0.5F, Curve{}), UsageError);
  EXPECT_THROW((void)decode(0.5F, Transfer::table), UsageError);
}

TEST(Transfer, StraightAlphaComesOutPremultiplied) {
  Picture p({1, 1}, {0.5F, 0.5F, 0.5F, 0.25F});
  decode_straight(p, Transfer::srgb);
  EXPECT_NEAR(p.at(0, 0)[0], 0.21404 * 0.25, 1e-5);
  EXPECT_EQ(p.at(0, 0)[3], 0.25F);
}

// What is looked up is what would be worked out.
TEST(Transfer, PicturesAreDecodedAsTheirNumbersAre) {
  constexpr int n = 256 * 5;
  Picture p({n, 1}, {0, 0, 0, 1});
  for (int i = 0; i < n; ++i) {
    const float v = static_cast<float>(i / 5) * (1.0F / 255.0F);
    const std::array<float, 5> beside{v, std::nextafter(v, 2.0F), std::nextafter(v, -2.0F),
                                      static_cast<float>(i / 5) / 255.0F, 2.0F * v - 0.5F};
    p.at(i, 0)[0] = beside[static_cast<std::size_t>(i % 5)];
  }
  const Picture encoded = p;
  decode_straight(p, Transfer::rec709);
  for (int i = 0; i < n; ++i) {
    EXPECT_EQ(p.at(i, 0)[0], decode(encoded.at(i, 0)[0], Transfer::rec709)) << i;
  }
}

TEST(Compare, PsnrOfAKnownDifference) {
  const Picture a({2, 2}, {0, 0, 0, 1});
  const float step = decode(0.1F, Transfer::srgb);
  EXPECT_NEAR(psnr(a, Picture({2, 2}, {step, step, step, 1})), 20.0, 1e-3);  // a tenth: 20 dB
  EXPECT_TRUE(std::isinf(psnr(a, a)));
  // Above white nobody sees a difference.
  EXPECT_TRUE(std::isinf(psnr(Picture({1, 1}, {2, 2, 2, 1}), Picture({1, 1}, {9, 9, 9, 1}))));
  EXPECT_THROW((void)psnr(a, Picture({2, 1})), UsageError);
}

}  // namespace picture_test
}  // namespace jolly_iris
