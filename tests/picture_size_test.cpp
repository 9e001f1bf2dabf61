#include "jolly_iris/optics/picture_size.hpp"

#include <gtest/gtest.h>

#include <algorithm>

#include "jolly_iris/optics/body.hpp"

namespace jolly_iris {
namespace picture_size_test {

TEST(PictureSize, SqueezesOneSideAndKeepsTheOther) {
  EXPECT_EQ(desqueezed_size({2880, 2160}, 2.0), (PixelSize{5760, 2160}));
  EXPECT_EQ(desqueezed_size({2880, 2160}, 2.0, KeptSide::width), (PixelSize{2880, 1080}));
  EXPECT_EQ(squeezed_size({5760, 2160}, 2.0), (PixelSize{2880, 2160}));
  EXPECT_EQ(squeezed_size({2880, 1080}, 2.0, KeptSide::width), (PixelSize{2880, 2160}));
  EXPECT_EQ(squeezed_size({1, 1}, 2.0), (PixelSize{1, 1})) << "never nothing";
}

// The classic: a 2 x lens on four-perf film fills 2.39 but for a tenth of its width.
TEST(PictureSize, FourPerfBehindTwoTimesFillsTheWideScreen) {
  const auto sizes =
      proposed_sizes(gate_of_format("super 35"), 2.0, std::optional(PixelSize{4310, 2990}));
  const ProposedSize& width = sizes.front();
  EXPECT_EQ(width.delivery.pixels, (PixelSize{4096, 1716}));
  EXPECT_NEAR(width.gate_width, 2.387 / 2.668, 1e-3);
  EXPECT_DOUBLE_EQ(width.gate_height, 1.0);
  EXPECT_NEAR(width.photosites_across.value(), 4310 * 0.8947 / 4096, 1e-3);
  EXPECT_NEAR(width.photosites_down.value(), 2990.0 / 1716, 1e-9);
  EXPECT_FALSE(proposed_sizes(gate_of_format("super 35"), 2.0, {}).front().photosites_down);
}

TEST(PictureSize, EveryProposalFitsTheGateOneWayExactly) {
  for (const TradeFormat& f : trade_formats()) {
    for (const double squeeze : {1.0, 1.33, 1.8, 2.0}) {
      for (const ProposedSize& p : proposed_sizes(f.gate, squeeze, {})) {
        EXPECT_DOUBLE_EQ(std::max(p.gate_width, p.gate_height), 1.0);
        const double shape =
            squeeze * (f.gate.width / f.gate.height) * p.gate_width / p.gate_height;
        EXPECT_NEAR(shape, p.shape, 1e-9) << f.name;
      }
    }
  }
}

}  // namespace picture_size_test
}  // namespace jolly_iris
