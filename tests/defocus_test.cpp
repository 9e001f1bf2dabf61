#include "jolly_iris/picture/defocus.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>
#include <limits>

#include "jolly_iris/optics/blur_override.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace defocus_test {

using testing::holds;
using testing::message_of;

constexpr float infinity = std::numeric_limits<float>::infinity();

// A camera focused at 2 m whose blur at infinity is about 27 px on a picture of 200 px width.
VirtualCamera camera(Iris iris = {}, double squeeze = 1.0) {
  const Body body{.gate = {24_mm / squeeze, 16_mm}, .pixels = {200, 120}};
  return resolve(body, {.focal = 80_mm, .squeeze = squeeze, .iris = iris}, {.stop = f_number(1.0)},
                 2_m);
}

Frame flat(PixelSize size, const Rgba& colour, float depth) {
  Frame f{Picture(size, colour), {}};
  f.depth.assign(f.colour.pixels().size(), depth);
  return f;
}

double sum(const Picture& p, std::size_t channel = 0) {
  double total = 0.0;
  for (const Rgba& v : p.pixels()) total += static_cast<double>(v[channel]);
  return total;
}

// Where the light is, and how lopsided it is up and down: third moment about the centre of light.
struct Shape {
  double x = 0, y = 0, skew_y = 0, width = 0, height = 0;
};
Shape shape_of(const Picture& p) {
  Shape s;
  const double total = sum(p);
  for (int pass = 0; pass < 2; ++pass) {
    for (int y = 0; y < p.height(); ++y) {
      for (int x = 0; x < p.width(); ++x) {
        const double w = static_cast<double>(p.at(x, y)[0]) / total;
        if (pass == 0) {
          s.x += w * (x + 0.5);
          s.y += w * (y + 0.5);
        } else {
          s.skew_y += w * std::pow(y + 0.5 - s.y, 3.0);
          s.width += w * std::pow(x + 0.5 - s.x, 2.0);
          s.height += w * std::pow(y + 0.5 - s.y, 2.0);
        }
      }
    }
  }
  return s;
}

Frame lamp(float depth, float light = 1000.0F) {
  Frame f = flat({120, 120}, {0, 0, 0, 1}, depth);
  f.colour.at(60, 60) = {light, light, light, 1};
  return f;
}

TEST(Defocus, KeepsTheEnergyOfAPictureOfConstantDepth) {
  for (const float depth : {0.9F, 1.7F, 2.0F, 2.3F, 6.0F, infinity}) {
    Frame f = flat({160, 120}, {0, 0, 0, 1}, depth);
    for (int y = 50; y < 70; ++y) {
      for (int x = 60; x < 90; ++x)
        f.colour.at(x, y) = {0.3F, 0.01F * static_cast<float>(x), 0.2F, 1};
    }
    f.colour.at(80, 60) = {5000, 4000, 3000, 1};  // a lamp among it
    f.colour.at(85, 66) = {1e6F, 1e5F, 1e4F, 1};
    const Picture out = defocus(f, camera({.blades = 7}));
    for (std::size_t c = 0; c < 3; ++c) {
      EXPECT_NEAR(sum(out, c) / sum(f.colour, c), 1.0, 1e-4) << depth << " m, channel " << c;
    }
  }
}

TEST(Defocus, UniformPictureStaysUniformAtAnyDepth) {
  Frame f = flat({90, 60}, {0.2F, 0.4F, 0.6F, 1}, 1.0F);
  for (std::size_t i = 0; i < f.depth.size(); ++i) {  // a slope from 0.8 m to sky
    const auto row = static_cast<float>(i / 90);
    f.depth[i] = row > 50 ? infinity : 0.8F + 0.1F * row;
  }
  const Picture out = defocus(f, camera());
  for (const Rgba& p : out.pixels()) {
    EXPECT_NEAR(p[0], 0.2F, 2e-4F);
    EXPECT_NEAR(p[2], 0.6F, 6e-4F);
    EXPECT_NEAR(p[3], 1.0F, 1e-3F);
  }
}

TEST(Defocus, InFocusNothingChanges) {
  Frame f = flat({40, 30}, {0.1F, 0.2F, 0.3F, 1}, 2.0F);
  f.colour.at(20, 10) = {0.9F, 0.1F, 0.4F, 1};
  f.colour.at(21, 10) = {700, 600, 500, 1};
  const Picture out = defocus(f, camera());
  for (std::size_t i = 0; i < out.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 4; ++c) {
      EXPECT_NEAR(out.pixels()[i][c], f.colour.pixels()[i][c],
                  1e-5 * f.colour.pixels()[i][c] + 1e-6);
    }
  }
}

TEST(Defocus, DiscHasTheAreaOfThePredictedCircle) {
  const VirtualCamera c = camera({.blades = 5});
  const Picture out = defocus(lamp(5.0F), c);
  const double diameter = circle_of_confusion(c, 5_m).mm() / c.gate.width.mm() * 120;
  const double area = sum(out) / static_cast<double>(out.at(60, 60)[0]);
  EXPECT_NEAR(area / (M_PI * diameter * diameter / 4.0), 1.0, 0.01);
}

// An upright triangle is heavy at its foot: the tail of the light points up (negative y).
TEST(Defocus, TriangleIsUprightBehindAndTurnedInFront) {
  const VirtualCamera c = camera({.blades = 3});
  EXPECT_LT(shape_of(defocus(lamp(6.0F), c)).skew_y, -10.0);
  EXPECT_GT(shape_of(defocus(lamp(1.2F), c)).skew_y, 10.0);
}

TEST(Defocus, RotationIsCounterClockwise) {
  const VirtualCamera c = camera({.blades = 3, .rotation = 20_deg});
  const Picture out = defocus(lamp(6.0F), c);
  // The topmost light lies left of the centre of light.
  const Shape s = shape_of(out);
  for (int y = 0; y < out.height(); ++y) {
    for (int x = 0; x < out.width(); ++x) {
      if (out.at(x, y)[0] <= 0.2F * out.at(60, 60)[0]) continue;
      EXPECT_LT(x + 0.5, s.x - 2.0);
      return;
    }
  }
  FAIL() << "no light at all";
}

TEST(Defocus, FrontSqueezeMakesTallDiscs) {
  const Shape s = shape_of(defocus(lamp(6.0F), camera({}, 2.0)));
  EXPECT_NEAR(std::sqrt(s.height / s.width), 2.0, 0.05);
}

// Left half: a sharp dark wall. Right half: bright, far behind.
Frame wall_before_light(float wall_depth) {
  Frame f = flat({120, 60}, {1, 1, 1, 1}, 30.0F);
  for (int y = 0; y < 60; ++y) {
    for (int x = 0; x < 60; ++x) {
      f.colour.at(x, y) = {0, 0, 0, 1};
      f.depth[static_cast<std::size_t>(y * 120 + x)] = wall_depth;
    }
  }
  return f;
}

TEST(Defocus, SharpForegroundIsNotSmearedByTheBackground) {
  const Picture out = defocus(wall_before_light(2.0F), camera());
  for (int x = 0; x < 60; ++x) EXPECT_LT(out.at(x, 30)[0], 1e-3F) << x;
  for (int x = 60; x < 120; ++x) EXPECT_GT(out.at(x, 30)[0], 0.999F) << x;  // nor does it leak out
}

TEST(Defocus, BlurredForegroundCoversSoftly) {
  const VirtualCamera c = camera();
  const Picture out = defocus(wall_before_light(1.3F), c);
  const double half = -0.5 * circle_of_confusion(c, 1.3_m).mm() / c.gate.width.mm() * 120;
  ASSERT_GT(half, 4.0);
  EXPECT_LT(out.at(60 - static_cast<int>(half) - 3, 30)[0], 0.01F);
  EXPECT_GT(out.at(60 + static_cast<int>(half) + 2, 30)[0], 0.99F);
  for (int x = 61 - static_cast<int>(half); x < 60 + static_cast<int>(half); ++x) {
    EXPECT_GT(out.at(x, 30)[0], out.at(x - 1, 30)[0]) << "no step at " << x;
    EXPECT_LT(out.at(x, 30)[0] - out.at(x - 1, 30)[0], 2.0 / half) << "no jump at " << x;
  }
  EXPECT_NEAR(0.5F * (out.at(59, 30)[0] + out.at(60, 30)[0]), 0.5F, 0.05F);
}

// A lamp far behind a sharp wall must not shine through it.
TEST(Defocus, LampsDoNotShineThroughWhatIsInFront) {
  Frame f = wall_before_light(2.0F);
  f.colour.at(64, 30) = {5000, 5000, 5000, 1};
  const Picture out = defocus(f, camera());
  EXPECT_LT(out.at(58, 30)[0], 1e-3F);
  EXPECT_GT(out.at(64, 30)[0], 5.0F);
}

TEST(Defocus, AlphaIsBlurredLikeColour) {
  Frame f = flat({80, 80}, {0, 0, 0, 0}, infinity);
  for (int y = 20; y < 60; ++y) {
    for (int x = 20; x < 60; ++x) {
      f.colour.at(x, y) = {0.5F, 0.5F, 0.5F, 1};
      f.depth[static_cast<std::size_t>(y * 80 + x)] = 1.3F;
    }
  }
  const Picture out = defocus(f, camera());
  EXPECT_NEAR(out.at(40, 40)[3], 1.0F, 1e-3F);
  EXPECT_NEAR(0.5F * (out.at(40, 19)[3] + out.at(40, 20)[3]), 0.5F, 0.03F);
  EXPECT_NEAR(out.at(40, 20)[0], 0.5F * out.at(40, 20)[3], 1e-4F);  // stays premultiplied
}

TEST(Defocus, OneStatedDistanceNeedsNoDepth) {
  const Frame with_depth = lamp(6.0F);
  const Frame without{with_depth.colour, {}};
  EXPECT_EQ(defocus(without, camera(), {.distance = 6_m}).pixels(),
            defocus(with_depth, camera()).pixels());
}

TEST(Defocus, SameResultOnAnyNumberOfThreads) {
  Frame f = wall_before_light(1.3F);
  f.colour.at(80, 20) = {900, 800, 700, 1};
  EXPECT_EQ(defocus(f, camera(), {.execution = {.threads = 1}}).pixels(),
            defocus(f, camera(), {.execution = {.threads = 2}}).pixels());
}

TEST(Defocus, RefusesDepthAndColourThatAreNone) {
  Frame f = flat({4, 3}, {1, 1, 1, 1}, 3.0F);
  const auto rejected = [&] {
    return message_of<PictureError>([&] { (void)defocus(f, camera()); });
  };
  f.depth[6] = std::numeric_limits<float>::quiet_NaN();
  EXPECT_TRUE(holds(rejected(), "not a number at pixel 2, 1"));
  f.depth[6] = 0.0F;
  EXPECT_TRUE(holds(rejected(), "0 m"));
  f.depth[6] = -1.0F;
  EXPECT_TRUE(holds(rejected(), "not in front of the camera"));
  f.depth[6] = 3.0F;
  f.depth[6] = 0.002F;
  EXPECT_TRUE(holds(rejected(), "is the depth in metres?"));
  f.depth[6] = 3.0F;
  f.colour.at(3, 2)[1] = infinity;
  EXPECT_TRUE(holds(rejected(), "pixel 3, 2"));
  f.colour.at(3, 2)[1] = 1.0F;
  f.depth.clear();
  EXPECT_TRUE(holds(rejected(), "no depth"));
  f.depth = {1.0F};
  EXPECT_TRUE(holds(rejected(), "another size"));
  EXPECT_THROW((void)defocus({}, camera()), PictureError);
  EXPECT_THROW((void)defocus(f, camera(), {.distance = 0_m}), PictureError);
}

TEST(Defocus, OnePixelIsAPicture) {
  const Picture out = defocus(flat({1, 1}, {0.5F, 0.5F, 0.5F, 1}, 9.0F), camera());
  EXPECT_NEAR(out.at(0, 0)[0], 0.5F, 1e-4F);
}

// Whatever the picture, the result lies within what went in: nothing darkens below or brightens
// above, nothing becomes NaN.
RC_GTEST_PROP(DefocusProperty, StaysWithinTheRangeOfItsInput, ()) {
  Frame f{Picture({24, 16}), {}};
  for (Rgba& p : f.colour.pixels()) {
    const float v = 0.01F * static_cast<float>(*rc::gen::inRange(20, 100));
    p = {v, v, v, 1};
    f.depth.push_back(0.1F * static_cast<float>(*rc::gen::inRange(8, 300)));
  }
  const Picture out = defocus(f, camera({.blades = 6}));
  for (const Rgba& p : out.pixels()) {
    RC_ASSERT(p[0] >= 0.19F && p[0] <= 1.01F);
    RC_ASSERT(p[3] >= 0.999F && p[3] <= 1.001F);
  }
}

// A cheat's band is wholly sharp, its factor widens discs, its limit cuts them.
TEST(Defocus, FollowsACheat) {
  const VirtualCamera honest = camera();
  const auto lamp_width = [](const VirtualCamera& c, float depth) {
    Frame f = flat({200, 120}, {0, 0, 0, 1}, depth);
    f.colour.at(100, 60) = {1000, 1000, 1000, 1};
    const Picture p = defocus(f, c);
    int width = 0;
    for (int x = 0; x < 200; ++x) width += p.at(x, 60)[0] > 0.01F ? 1 : 0;
    return width;
  };
  EXPECT_EQ(lamp_width(with_blur_override(honest, {.from = 1_m, .to = 4_m}), 3.0F), 1);
  EXPECT_GT(lamp_width(honest, 3.0F), 5);
  EXPECT_NEAR(lamp_width(with_blur_override(honest, {.blur = 2.0}), 8.0F),
              2 * lamp_width(honest, 8.0F), 2);
  const BlurSize ten{BlurSize::Kind::pixels, 10.0};
  EXPECT_NEAR(lamp_width(with_blur_override(honest, {.at_most = ten}), infinity), 10, 1);
}

// ---- odd input ----------------------------------------------------------------------------------

double lit(const Picture& p) {
  for (const Rgba& v : p.pixels()) {
    for (const float c : v) {
      if (!std::isfinite(c)) return -1.0;
    }
  }
  return sum(p);
}

TEST(DefocusOdd, WidePicturesAndDiscsBeyondTheFrame) {
  Frame width = flat({16385, 2}, {0.5F, 0.5F, 0.5F, 1}, 4.0F);
  width.depth[16384] = 30.0F;
  Body body{.gate = {24_mm, 16_mm}, .pixels = {16385, 2}};
  body.gate.height = Length::from_mm(24.0 * 2.0 / 16385.0);
  const VirtualCamera far = resolve(body, {.focal = 80_mm}, {.stop = f_number(8.0)}, 2_m);
  EXPECT_NEAR(lit(defocus(width, far)), 0.5 * 16385 * 2, 20.0);
  // A disc of 1.8 frames: everything becomes one tone.
  Frame f = flat({64, 40}, {0.2F, 0.2F, 0.2F, 1}, 9.0F);
  f.colour.at(5, 5) = {0.9F, 0.2F, 0.2F, 1};
  DefocusSettings settings;
  settings.coc_px.assign(f.colour.pixels().size(), -115.0F);
  const Picture out = defocus(f, camera({.blades = 5}), settings);
  EXPECT_GT(lit(out), 0.0);
  EXPECT_NEAR(out.at(60, 35)[1], 0.2F, 1e-3F);
}

TEST(DefocusOdd, NegativeColourStaysWhatItIs) {
  Frame f = flat({60, 40}, {0.1F, 0.1F, 0.1F, 1}, 6.0F);
  f.colour.at(30, 20) = {-0.5F, 0.1F, 0.1F, 1};
  const Picture out = defocus(f, camera());
  EXPECT_NEAR(lit(out), sum(f.colour), 0.02);
}

TEST(DefocusOdd, EdgesAreWhatWasAskedFor) {
  Frame f = flat({80, 60}, {0.0F, 0.0F, 0.0F, 1}, 30.0F);
  for (int y = 0; y < 60; ++y) {
    for (int x = 0; x < 3; ++x) f.colour.at(x, y) = {0.8F, 0.8F, 0.8F, 1};
  }
  const VirtualCamera c = camera();
  const float repeated = defocus(f, c).at(0, 30)[0];
  const float mirrored = defocus(f, c, {.edge = FrameEdge::mirror}).at(0, 30)[0];
  const float black = defocus(f, c, {.edge = FrameEdge::black}).at(0, 30)[3];
  EXPECT_GT(repeated, mirrored) << "a bright edge goes on for ever, or ends as it does within";
  EXPECT_LT(black, 0.75F) << "with nothing beyond the frame, alpha fades towards it";
}

TEST(DefocusOdd, AMarginIsCutOff) {
  Frame f = flat({140, 100}, {0.1F, 0.1F, 0.1F, 1}, 30.0F);
  f.colour.at(15, 50) = {900, 900, 900, 1};  // 5 px left of the frame
  const Picture out = defocus(f, camera(), {.margin = {20, 20}});
  EXPECT_EQ(out.size(), (PixelSize{100, 60}));
  EXPECT_GT(out.at(0, 30)[0], 0.5F) << "a lamp beyond the frame brings light into it";
}

TEST(DefocusOdd, ZeroAndOneSidedDiscPicturesAreRefused) {
  const Frame f = flat({8, 6}, {1, 1, 1, 1}, 3.0F);
  DefocusSettings settings;
  settings.coc_px = {1.0F, 2.0F};
  EXPECT_TRUE(holds(message_of<PictureError>([&] { (void)defocus(f, camera(), settings); }),
                    "another size"));
  settings.coc_px.assign(48, 1.0F);
  settings.coc_px[13] = std::numeric_limits<float>::quiet_NaN();
  EXPECT_TRUE(
      holds(message_of<PictureError>([&] { (void)defocus(f, camera(), settings); }), "pixel 5, 1"));
  EXPECT_THROW((void)defocus_layers({}, camera()), PictureError);
  EXPECT_TRUE(holds(message_of<PictureError>([&] {
                      (void)defocus_layers({{f}, {flat({9, 6}, {1, 1, 1, 1}, 3.0F)}}, camera());
                    }),
                    "layer 2 is 9 x 6"));
}

// How much of a pixel lies right of a slanted edge, and whether its middle does.
struct Covered {
  float fraction = 0.0F;
  bool middle = false;
};
Covered right_of(double x0, double slope, int x, int y) {
  const auto inside = [&](double u, double v) { return u > x0 + slope * v; };
  int hits = 0;
  for (int k = 0; k < 256; ++k) hits += inside(x + (k % 16 + 0.5) / 16, y + (k / 16 + 0.5) / 16);
  return {static_cast<float>(hits) / 256.0F, inside(x + 0.5, y + 0.5)};
}

// An edge's pixels mix two colours and have one depth. Whichever it is, the sharp thing's outline
// must stay as it was, and none of its colour may be spread beside it.
TEST(Defocus, TheOutlineOfASharpThingLeavesNoSeam) {
  const Rgba red{0.5F, 0.05F, 0.03F, 1};
  const Rgba grey{0.1F, 0.12F, 0.14F, 1};
  for (const double slope : {0.0, 0.31, -0.77}) {
    for (const int kept : {0, 1, 2}) {  // the depth of the nearer, of the middle, of the farther
      Frame f = flat({90, 60}, grey, 12.0F);
      Picture expected({90, 60});
      for (int y = 0; y < 60; ++y) {
        for (int x = 0; x < 90; ++x) {
          const Covered c = right_of(44.37 - 30 * slope, slope, x, y);
          Rgba& p = f.colour.at(x, y);
          for (std::size_t k = 0; k < 3; ++k)
            p[k] = c.fraction * red[k] + (1 - c.fraction) * grey[k];
          const bool near = kept == 0   ? c.fraction > 0.0F
                            : kept == 1 ? c.middle
                                        : c.fraction == 1.0F;
          if (near) f.depth[static_cast<std::size_t>(y) * 90 + static_cast<std::size_t>(x)] = 2.0F;
          expected.at(x, y) = p;
        }
      }
      const Picture got = defocus(f, camera());
      for (int y = 0; y < 60; ++y) {
        for (int x = 0; x < 90; ++x) {
          ASSERT_NEAR(got.at(x, y)[0], expected.at(x, y)[0], 0.012)
              << "slope " << slope << ", depth " << kept << ", at " << x << ", " << y;
        }
      }
    }
  }
}

// What is blurred in front is not seen through its own outline's pixels: they have its colour or
// that of what is behind, which stays sharp.
TEST(Defocus, TheOutlineOfABlurredForegroundLeavesNoSharpSeam) {
  const Rgba grey{0.2F, 0.2F, 0.2F, 1};
  Frame f = flat({160, 60}, grey, 2.0F);
  for (int y = 0; y < 60; ++y) {
    for (int x = 0; x < 160; ++x) {
      const Covered c = right_of(79.6, 0.2, x, y);
      for (std::size_t k = 0; k < 3; ++k) f.colour.at(x, y)[k] = (1 - c.fraction) * grey[k];
      if (c.middle) f.depth[static_cast<std::size_t>(y) * 160 + static_cast<std::size_t>(x)] = 1.0F;
    }
  }
  const Picture got = defocus(f, camera());
  for (int y = 20; y < 40; ++y) {
    for (int x = 1; x < 160; ++x) {  // it darkens evenly from left to right, without a dark line
      ASSERT_LT(got.at(x, y)[0], got.at(x - 1, y)[0] + 0.002F) << x << ", " << y;
      ASSERT_GT(got.at(x, y)[0], got.at(x - 1, y)[0] - 0.02F) << x << ", " << y;
    }
  }
}

TEST(DepthMap, EdgesThatWereAveragedAreMendedAndSlopesAreNot) {
  std::vector<float> depth;
  for (int y = 0; y < 8; ++y) {
    for (int x = 0; x < 20; ++x) depth.push_back(x < 9 ? 2.0F : x == 9 ? 3.1F : 12.0F);
  }
  EXPECT_EQ(mend_edges(depth, {20, 8}), 8);
  for (int y = 0; y < 8; ++y) {
    const float z = depth[static_cast<std::size_t>(y) * 20 + 9];
    EXPECT_TRUE(z == 2.0F || z == 12.0F) << z;
  }
  std::vector<float> slope;
  for (int i = 0; i < 160; ++i) slope.push_back(2.0F + 0.2F * static_cast<float>(i % 20));
  const std::vector<float> before = slope;
  EXPECT_EQ(mend_edges(slope, {20, 8}), 0);
  EXPECT_EQ(slope, before);
}

TEST(DepthMap, IsDecodedAndBroughtToSize) {
  Frame picture{Picture({4, 2}, {0.0F, 0, 0, 1}), {}};
  picture.colour.at(3, 1) = {1.0F, 0, 0, 1};
  DepthCode code;
  code.kind = DepthCode::Kind::normalised;
  code.near = 1_m;
  code.far = 5_m;
  code.white_is_near = false;
  const auto depth = axial_depth(picture, code, camera(), {8, 4});
  ASSERT_EQ(depth.size(), 32U);
  EXPECT_FLOAT_EQ(depth[0], 1.0F);
  EXPECT_FLOAT_EQ(depth[31], 5.0F);
  picture.colour.at(1, 0) = {std::numeric_limits<float>::quiet_NaN(), 0, 0, 1};
  EXPECT_TRUE(holds(message_of<PictureError>([&] {
                      (void)axial_depth(picture, code, camera(), {8, 4});
                    }),
                    "pixel 1, 0"));
}

}  // namespace defocus_test
}  // namespace jolly_iris
