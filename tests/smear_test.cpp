// Smear: where light goes while the shutter is open, what is hidden and shown by what passes, and
// how motion vectors are read.
#include "jolly_iris/picture/smear.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <numbers>
#include <random>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace smear_test {

using testing::holds_all;
using testing::message_of;

constexpr float nan = std::numeric_limits<float>::quiet_NaN();

Frame field(PixelSize size, float light, float depth) {
  Frame frame{Picture(size, {light, light, light, 1.0F}), {}, {}};
  frame.depth.assign(frame.colour.pixels().size(), depth);
  return frame;
}

MotionVectors all_go(PixelSize size, float right, float down) {
  return {size,
          std::vector<std::array<float, 2>>(
              static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height),
              {right, down}),
          {}};
}

double total(const Picture& p) {
  double sum = 0.0;
  for (const Rgba& v : p.pixels()) sum += static_cast<double>(v[0]);
  return sum;
}

// How long a point was drawn out, from the spread of its light: an even line of length L has a
// variance of L²/12, and the pixel itself, a tent of two, one of 1/6 in each direction.
struct Drawn {
  double length = 0.0;
  double direction = 0.0;  // radians, counter-clockwise
  double x = 0.0;
  double y = 0.0;
};
Drawn line_in(const Picture& p, double around) {
  double w = 0.0;
  double x = 0.0;
  double y = 0.0;
  double xx = 0.0;
  double yy = 0.0;
  double xy = 0.0;
  for (int j = 0; j < p.height(); ++j) {
    for (int i = 0; i < p.width(); ++i) {
      const double v = static_cast<double>(p.at(i, j)[0]) - around;
      w += v;
      x += v * (i + 0.5);
      y += v * (j + 0.5);
      xx += v * (i + 0.5) * (i + 0.5);
      yy += v * (j + 0.5) * (j + 0.5);
      xy += v * (i + 0.5) * (j + 0.5);
    }
  }
  x /= w;
  y /= w;
  xx = xx / w - x * x;
  yy = yy / w - y * y;
  xy = xy / w - x * y;
  const double half = 0.5 * (xx - yy);
  const double along = 0.5 * (xx + yy) + std::hypot(half, xy);
  const double across = 0.5 * (xx + yy) - std::hypot(half, xy);
  return {std::sqrt(12.0 * std::max(0.0, along - across)), -0.5 * std::atan2(2.0 * xy, xx - yy), x,
          y};
}

TEST(Smear, DrawsAPointOutAsFarAsItGoes) {
  const PixelSize size{160, 120};
  for (const auto& [right, down, fraction] :
       {std::array{40.0F, 0.0F, 0.5F}, std::array{-23.0F, 31.0F, 0.48F},
        std::array{5.0F, 3.0F, 1.0F}, std::array{0.0F, -120.0F, 0.5F}}) {
    Frame frame = field(size, 0.02F, 5.0F);
    frame.colour.at(80, 60) = {100.0F, 100.0F, 100.0F, 1.0F};
    const SmearedPicture out =
        smeared(frame, all_go(size, right, down),
                shutter_span(static_cast<double>(fraction), ShutterPlace::centred));
    const double wanted = static_cast<double>(fraction * std::hypot(right, down));
    EXPECT_NEAR(out.longest_px, wanted, 1e-3);
    const Drawn line = line_in(out.picture, 0.02);
    EXPECT_NEAR(line.length, wanted, 0.3) << right << ", " << down;
    EXPECT_NEAR(line.x, 80.5, 0.05);
    EXPECT_NEAR(line.y, 60.5, 0.05);
    const double direction = std::atan2(static_cast<double>(-down), static_cast<double>(right));
    EXPECT_NEAR(std::sin(line.direction - direction), 0.0, 0.02);
    EXPECT_NEAR(total(out.picture) / total(frame.colour), 1.0, 1e-4) << "light is lost or made";
    EXPECT_EQ(out.unusable, 0U);
  }
}

TEST(Smear, BeginsAndEndsWhereTheShutterDoes) {
  const PixelSize size{160, 40};
  Frame frame = field(size, 0.0F, 5.0F);
  frame.colour.at(80, 20) = {100.0F, 100.0F, 100.0F, 1.0F};
  const MotionVectors v = all_go(size, 40.0F, 0.0F);
  const auto middle = [&](ShutterPlace place) {
    return line_in(smeared(frame, v, shutter_span(0.5, place)).picture, 0.0).x;
  };
  EXPECT_NEAR(middle(ShutterPlace::centred), 80.5, 0.05);
  EXPECT_NEAR(middle(ShutterPlace::from_frame), 90.5, 0.05);
  EXPECT_NEAR(middle(ShutterPlace::to_frame), 70.5, 0.05);
}

TEST(Smear, WhatStandsStillStays) {
  const PixelSize size{200, 80};
  Frame frame = field(size, 0.1F, 5.0F);
  for (int y = 0; y < 80; ++y) {
    for (int x = 0; x < 200; ++x) frame.colour.at(x, y)[1] = 0.01F * static_cast<float>(x % 7);
  }
  MotionVectors v = all_go(size, 0.0F, 0.0F);
  for (int y = 30; y < 50; ++y) {
    for (int x = 20; x < 40; ++x)
      v.px_a_frame[static_cast<std::size_t>(y * 200 + x)] = {20.0F, 0.0F};
  }
  const Picture out = smeared(frame, v, shutter_span(0.5, ShutterPlace::centred)).picture;
  for (int y = 0; y < 80; ++y) {
    for (int x = 60; x < 200; ++x) {
      for (std::size_t c = 0; c < 4; ++c) {
        EXPECT_NEAR(out.at(x, y)[c], frame.colour.at(x, y)[c], 1e-6F);
      }
    }
  }
}

// A bar passes before an even wall: how much of it each place has seen is known in closed form.
Frame bar_before_wall(PixelSize size, int from, int to, float depth) {
  Frame frame = field(size, 0.1F, 10.0F);
  for (int y = 0; y < size.height; ++y) {
    for (int x = from; x < to; ++x) {
      frame.colour.at(x, y) = {0.9F, 0.9F, 0.9F, 1.0F};
      frame.depth[static_cast<std::size_t>(y * size.width + x)] = depth;
    }
  }
  return frame;
}

TEST(Smear, WhatPassesInFrontCoversAndUncovers) {
  const PixelSize size{200, 48};
  const Frame frame = bar_before_wall(size, 90, 110, 2.0F);
  MotionVectors v = all_go(size, 0.0F, 0.0F);
  for (int y = 0; y < size.height; ++y) {
    for (int x = 90; x < 110; ++x)
      v.px_a_frame[static_cast<std::size_t>(y * 200 + x)] = {60.0F, 0.0F};
  }
  const Picture out = smeared(frame, v, shutter_span(0.5, ShutterPlace::centred)).picture;
  for (int x = 50; x < 150; ++x) {
    // The bar, 20 wide, goes from −15 to +15: its share of the time over each pixel.
    double covered = 0.0;
    for (int k = 0; k < 3000; ++k) {
      const double shift = -15.0 + 30.0 * (k + 0.5) / 3000.0;
      const double inside = x + 0.5 - shift;
      if (inside >= 90.0 && inside < 110.0) covered += 1.0 / 3000.0;
    }
    EXPECT_NEAR(out.at(x, 24)[0], static_cast<float>(0.1 + 0.8 * covered), 0.035F) << x;
  }
}

TEST(Smear, WhatPassesBehindStaysBehind) {
  const PixelSize size{200, 48};
  const Frame frame = bar_before_wall(size, 90, 110, 2.0F);
  MotionVectors v = all_go(size, 80.0F, 0.0F);  // the wall goes, the bar stands
  for (int y = 0; y < size.height; ++y) {
    for (int x = 90; x < 110; ++x)
      v.px_a_frame[static_cast<std::size_t>(y * 200 + x)] = {0.0F, 0.0F};
  }
  const Picture out = smeared(frame, v, shutter_span(0.5, ShutterPlace::centred)).picture;
  for (int x = 0; x < 200; ++x) {
    const bool bar = x >= 90 && x < 110;
    EXPECT_NEAR(out.at(x, 24)[0], bar ? 0.9F : 0.1F, 1e-3F) << x;
  }
}

TEST(Smear, WithoutDepthWhatGoesFartherIsInFront) {
  const PixelSize size{200, 48};
  Frame frame = bar_before_wall(size, 90, 110, 2.0F);
  frame.depth.clear();
  MotionVectors v = all_go(size, 0.0F, 0.0F);
  for (int y = 0; y < size.height; ++y) {
    for (int x = 90; x < 110; ++x)
      v.px_a_frame[static_cast<std::size_t>(y * 200 + x)] = {60.0F, 0.0F};
  }
  const Picture out = smeared(frame, v, shutter_span(0.5, ShutterPlace::centred)).picture;
  EXPECT_NEAR(out.at(80, 24)[0], 0.1F + 0.8F * 5.5F / 30.0F, 0.03F);
  EXPECT_NEAR(out.at(100, 24)[0], 0.1F + 0.8F * 20.0F / 30.0F, 0.03F);
}

TEST(Smear, OddVectorsAreTakenAsStillAndCounted) {
  const PixelSize size{64, 48};
  Frame frame = field(size, 0.2F, 5.0F);
  frame.colour.at(10, 10) = {5.0F, 5.0F, 5.0F, 1.0F};
  MotionVectors v = all_go(size, 0.0F, 0.0F);
  v.px_a_frame[0] = {nan, 3.0F};
  v.px_a_frame[10 * 64 + 10] = {std::numeric_limits<float>::infinity(), 0.0F};
  v.px_a_frame[5] = {1e30F, -1e30F};
  v.px_a_frame[20 * 64 + 20] = {200.0F, 0.0F};  // out of the frame, but honest
  const SmearedPicture out = smeared(frame, v, shutter_span(1.0, ShutterPlace::from_frame));
  EXPECT_EQ(out.unusable, 3U);
  EXPECT_NEAR(out.picture.at(10, 10)[0], 5.0F, 0.2F);
  for (const Rgba& p : out.picture.pixels()) {
    for (const float c : p) EXPECT_TRUE(std::isfinite(c));
  }
}

TEST(Smear, AlphaGoesAlong) {
  const PixelSize size{120, 32};
  Frame frame{
      Picture(size), std::vector<float>(120 * 32, std::numeric_limits<float>::infinity()), {}};
  MotionVectors v = all_go(size, 0.0F, 0.0F);
  for (int y = 0; y < 32; ++y) {
    for (int x = 50; x < 70; ++x) {
      frame.colour.at(x, y) = {0.5F, 0.5F, 0.5F, 1.0F};
      frame.depth[static_cast<std::size_t>(y * 120 + x)] = 2.0F;
      v.px_a_frame[static_cast<std::size_t>(y * 120 + x)] = {40.0F, 0.0F};
    }
  }
  const Picture out = smeared(frame, v, shutter_span(0.5, ShutterPlace::centred)).picture;
  EXPECT_NEAR(out.at(50, 16)[3], 0.5F, 0.05F);
  EXPECT_NEAR(out.at(60, 16)[3], 1.0F, 1e-5F);
  for (int x = 0; x < 120; ++x) EXPECT_NEAR(out.at(x, 16)[0], 0.5F * out.at(x, 16)[3], 1e-5F);
}

TEST(Smear, OddShapesAndSizes) {
  for (const PixelSize size : {PixelSize{1, 40}, PixelSize{40, 1}, PixelSize{1, 1}}) {
    const Frame frame = field(size, 0.3F, 4.0F);
    const SmearedPicture out =
        smeared(frame, all_go(size, 25.0F, 9.0F), shutter_span(0.5, ShutterPlace::centred));
    for (const Rgba& p : out.picture.pixels()) EXPECT_NEAR(p[0], 0.3F, 1e-5F);
  }
  const Frame frame = field({20, 10}, 0.3F, 4.0F);
  EXPECT_TRUE(holds_all(message_of<PictureError>([&] {
                          (void)smeared(frame, all_go({10, 20}, 1.0F, 0.0F),
                                        shutter_span(0.5, ShutterPlace::centred));
                        }),
                        {"10 x 20", "20 x 10"}));
  Frame behind = frame;
  behind.depth[25] = -1.0F;
  EXPECT_TRUE(holds_all(message_of<PictureError>([&] {
                          (void)smeared(behind, all_go({20, 10}, 1.0F, 0.0F),
                                        shutter_span(0.5, ShutterPlace::centred));
                        }),
                        {"pixel 5, 1", "-1"}));
  EXPECT_THROW((void)smeared(frame, all_go({20, 10}, 1.0F, 0.0F), {0.0, 0.0}), OpticsError);
}

// Nothing but edges that come from everywhere: memory and time stay in bounds, and what comes out
// is a picture.
TEST(Smear, NoiseIsSmearedToo) {
  const PixelSize size{240, 150};
  std::mt19937 random(5);
  std::uniform_real_distribution<float> unit(0.0F, 1.0F);
  Frame frame = field(size, 0.2F, 5.0F);
  MotionVectors v = all_go(size, 0.0F, 0.0F);
  for (std::size_t i = 0; i < frame.depth.size(); ++i) {
    frame.depth[i] = 0.5F + 20.0F * unit(random);
    v.px_a_frame[i] = {800.0F * (unit(random) - 0.5F), 800.0F * (unit(random) - 0.5F)};
  }
  const ShutterSpan span = shutter_span(0.5, ShutterPlace::centred);
  const Picture out = smeared(frame, v, span, {1, {}, {}}).picture;
  for (const Rgba& p : out.pixels()) EXPECT_NEAR(p[0], 0.2F, 1e-4F);
  EXPECT_EQ(out.pixels(), smeared(frame, v, span, {3, {}, {}}).picture.pixels());
}

TEST(Smear, OneLongWayAmongShortOnesChangesNothingElsewhere) {
  const PixelSize size{1200, 900};
  Frame frame = bar_before_wall(size, 400, 460, 2.0F);
  MotionVectors v = all_go(size, 0.0F, 0.0F);
  for (int y = 0; y < size.height; ++y) {
    for (int x = 400; x < 460; ++x) {
      v.px_a_frame[static_cast<std::size_t>(y * 1200 + x)] = {40.0F, 0.0F};
    }
  }
  const ShutterSpan span = shutter_span(0.5, ShutterPlace::centred);
  const Picture without = smeared(frame, v, span).picture;
  v.px_a_frame[static_cast<std::size_t>(10 * 1200 + 900)] = {0.0F, 3000.0F};  // a renderer's slip
  const Picture with = smeared(frame, v, span).picture;
  // 20 px are shown at 14 moments, a step of 0.8 / 14 each; with a longer way at more of them.
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < 880; ++x) {
      const bool passed = x >= 388 && x < 472;
      EXPECT_NEAR(with.at(x, y)[0], without.at(x, y)[0], passed ? 0.8F / 14.0F : 1e-6F);
    }
  }
}

TEST(Smear, IsTheSameOnAnyNumberOfThreads) {
  const PixelSize size{150, 90};
  Frame frame = bar_before_wall(size, 60, 80, 2.0F);
  MotionVectors v = all_go(size, 7.0F, -4.0F);
  for (int y = 0; y < size.height; ++y) {
    for (int x = 60; x < 80; ++x) {
      v.px_a_frame[static_cast<std::size_t>(y * 150 + x)] = {-50.0F, static_cast<float>(y % 5)};
    }
  }
  const ShutterSpan span = shutter_span(0.5, ShutterPlace::centred);
  const Picture one = smeared(frame, v, span, {1, {}, {}}).picture;
  const Picture three = smeared(frame, v, span, {3, {}, {}}).picture;
  EXPECT_EQ(one.pixels(), three.pixels());
}

TEST(MotionVectors, AreReadInEitherConvention) {
  Picture p({40, 20}, {0.5F, 0.25F, 0.0F, 1.0F});
  const auto first = [&](const VectorMeaning& m) { return read_vectors(p, m).px_a_frame.front(); };
  using Way = VectorMeaning::Way;
  const auto v = [](float x, float y) { return std::array<float, 2>{x, y}; };
  EXPECT_EQ(first({Way::to_next, false, false}), v(0.5F, 0.25F));
  EXPECT_EQ(first({Way::from_last, true, false}), v(0.5F, -0.25F));
  EXPECT_EQ(first({Way::to_last, false, false}), v(-0.5F, -0.25F));
  EXPECT_EQ(first({Way::to_last, true, true}), v(-20.0F, 5.0F));
}

TEST(MotionVectors, OfACameraFollowFromDepth) {
  VirtualCamera c;
  c.focal = Length::from_mm(50.0);
  c.gate = c.picture = {Length::from_mm(32.0), Length::from_mm(18.0)};
  c.pixels = {320, 180};
  c.focus = Length::from_m(3.0);
  c.aperture_radius = Length::from_mm(5.0);
  Frame frame = field({320, 180}, 0.2F, 4.0F);
  frame.depth[0] = std::numeric_limits<float>::infinity();
  const ShutterSpan span = shutter_span(0.5, ShutterPlace::centred);
  CameraMoment opens{c, {}};
  CameraMoment closes{c, {}};
  opens.place.translation = {-0.02, 0.0, 0.0};
  closes.place.translation = {0.02, 0.0, 0.0};  // 4 cm to the right in half a frame
  const MotionVectors v = vectors_of_camera(frame, {c, {}}, opens, closes, span);
  // f/z × 80 mm a frame, to the left, in px of 0.1 mm.
  EXPECT_NEAR(v.px_a_frame[90 * 320 + 160][0], -50.0 / 4000.0 * 80.0 / 0.1, 1e-3);
  EXPECT_NEAR(v.px_a_frame[90 * 320 + 160][1], 0.0, 1e-6);
  EXPECT_NEAR(v.px_a_frame[0][0], 0.0, 1e-6) << "the sky does not move with a step aside";
  frame.depth.clear();
  EXPECT_THROW((void)vectors_of_camera(frame, {c, {}}, opens, closes, span), NoDepthError);
}

}  // namespace smear_test
}  // namespace jolly_iris
