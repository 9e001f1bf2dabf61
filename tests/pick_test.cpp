#include "jolly_iris/picture/pick.hpp"

#include <gtest/gtest.h>

#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace pick_test {

using testing::holds;
using testing::message_of;

constexpr float sky = std::numeric_limits<float>::infinity();

// 9 × 9, 5 m everywhere, sky above, a post at 2 m in column 4.
Frame meadow() {
  Frame f{Picture({9, 9}), std::vector<float>(81, 5.0F)};
  for (std::size_t i = 0; i < 27; ++i) f.depth[i] = sky;
  for (std::size_t y = 3; y < 9; ++y) f.depth[y * 9 + 4] = 2.0F;
  return f;
}

const DepthEntry entry{.file = "folder/depth.exr"};

TEST(Pick, APixelOfTheDeliveredPicture) {
  // The depth picture is a hundredth of the delivered one.
  const Picked p = pick_depth(meadow(), entry, {900, 900}, {.pixel = {{450, 500}}});
  EXPECT_DOUBLE_EQ(p.distance.length.m(), 2.0);
  EXPECT_EQ(p.distance.kind, DistanceKind::axial);
  EXPECT_EQ(p.message, "pixel 450, 500 of depth.exr: 2 m");
  EXPECT_TRUE(
      pick_depth(meadow(), entry, {900, 900}, {.pixel = {{0, 0}}}).distance.length.is_infinite());
}

TEST(Pick, TheMiddlesNearestAndMedian) {
  EXPECT_DOUBLE_EQ(
      pick_depth(meadow(), entry, {900, 900}, {.area = MiddleArea::nearest}).distance.length.m(),
      2.0);
  const Picked median = pick_depth(meadow(), entry, {900, 900}, {.area = MiddleArea::median});
  EXPECT_DOUBLE_EQ(median.distance.length.m(), 5.0);
  EXPECT_TRUE(holds(median.message, "the median of the middle"));
}

TEST(Pick, ReadsColourWhereThereIsNoDepth) {
  DepthEntry normalised = entry;
  normalised.code = {
      .kind = DepthCode::Kind::normalised, .near = 1_m, .far = 5_m, .white_is_near = true};
  const Frame grey{Picture({4, 4}, {0.75F, 0.1F, 0.1F, 1.0F}), {}};
  EXPECT_DOUBLE_EQ(pick_depth(grey, normalised, {4, 4}, {.pixel = {{1, 1}}}).distance.length.m(),
                   2.0);
}

TEST(Pick, RadialStaysRadial) {
  DepthEntry radial = entry;
  radial.code.kind = DepthCode::Kind::radial;
  const Picked p = pick_depth(meadow(), radial, {9, 9}, {.pixel = {{4, 8}}});
  EXPECT_EQ(p.distance.kind, DistanceKind::radial);
  EXPECT_TRUE(p.distance.pixel);
}

TEST(Pick, WhatCannotBePickedIsTold) {
  const auto message = [](const Frame& f, const Focus& focus) {
    return message_of<PictureError>([&] { (void)pick_depth(f, entry, {900, 900}, focus); });
  };
  EXPECT_TRUE(holds(message(meadow(), {.pixel = {{900, 10}}}), "outside the picture of 900 x 900"));
  Frame broken = meadow();
  broken.depth[40] = -1.0F;
  EXPECT_TRUE(holds(message(broken, {.pixel = {{450, 450}}}), "pixel 4, 4"));
  Frame empty = meadow();
  empty.depth.assign(81, sky);
  EXPECT_TRUE(holds(message(empty, {.area = MiddleArea::median}), "nothing but sky"));
}

}  // namespace pick_test
}  // namespace jolly_iris
