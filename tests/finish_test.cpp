// Lifted highlights, corners, cast and grain, and the order of all parts.
#include "jolly_iris/picture/finish.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/grain.hpp"
#include "jolly_iris/picture/highlight_lift.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace finish_test {

using testing::holds_all;
using testing::message_of;

VirtualCamera some_camera(PixelSize pixels) {
  VirtualCamera c;
  c.focal = Length::from_mm(50.0);
  c.f_number = 2.8;
  c.aperture_radius = Length::from_mm(50.0 / 2.8 / 2.0);
  c.gate = {Length::from_mm(0.006 * pixels.width), Length::from_mm(0.006 * pixels.height)};
  c.picture = c.gate;
  c.pixels = pixels;
  c.focus = Length::infinity();
  c.lens_focal = c.focal;
  c.lens_f_number = c.lens_t_number = 2.8;
  return c;
}

// From −8 to +4 stops of mid-grey, coloured.
Picture ramp() {
  Picture p({121, 3});
  for (int x = 0; x < 121; ++x) {
    const auto v = static_cast<float>(0.18 * std::exp2(-8.0 + 0.1 * x));
    for (int y = 0; y < 3; ++y) p.at(x, y) = {v, 0.5F * v, 0.25F * v, 1.0F};
  }
  return p;
}

TEST(Lift, BringsTheBrightestToWhereItWasToldAndKeepsColours) {
  const LiftedPicture out = lifted(ramp(), {.from_stops = 2.0, .to_stops = 7.0});
  EXPECT_NEAR(out.peak_stops, 4.0, 1e-5);
  EXPECT_NEAR(std::log2(out.picture.at(120, 0)[0] / 0.18), 7.0, 1e-4);
  float before = 0.0F;
  for (int x = 0; x < 121; ++x) {
    const Rgba& p = out.picture.at(x, 1);
    EXPECT_GT(p[0], before) << "no step back";
    EXPECT_NEAR(p[1] / p[0], 0.5F, 1e-6F);
    EXPECT_NEAR(p[2] / p[0], 0.25F, 1e-6F);
    if (x <= 100) {
      EXPECT_EQ(p, ramp().at(x, 1));
    }
    before = p[0];
  }
  // No kink where it begins: a tenth of a stop above, the gain is still next to nothing.
  EXPECT_NEAR(std::log2(out.picture.at(101, 0)[0] / ramp().at(101, 0)[0]), 3.0 * 0.05 * 0.05, 1e-4);
}

TEST(Lift, ColoursWhatIsClippedToWhite) {
  Picture p({4, 1}, {0.1F, 0.1F, 0.1F, 1.0F});
  p.at(1, 0) = {1.0F, 1.0F, 1.0F, 1.0F};
  p.at(2, 0) = {1.0F, 0.2F, 0.2F, 1.0F};
  const LiftedPicture out = lifted(
      p, {.from_stops = 1.0, .to_stops = 5.0, .peak_stops = {}, .lamp_colour = Rgb{1.0, 0.7, 0.4}});
  EXPECT_NEAR(out.picture.at(1, 0)[1] / out.picture.at(1, 0)[0], 0.7F, 1e-5F);
  EXPECT_NEAR(out.picture.at(2, 0)[1] / out.picture.at(2, 0)[0], 0.2F, 1e-5F) << "has its colour";
  EXPECT_EQ(out.picture.at(0, 0), p.at(0, 0));
}

TEST(Lift, ChangesNothingWhereNothingIsBright) {
  const Picture black({8, 8}, {0, 0, 0, 1});
  EXPECT_EQ(lifted(black, {.from_stops = 2.0, .to_stops = 5.0}).pixels, 0U);
  const LiftedPicture out = lifted(ramp(), {.from_stops = 6.0, .to_stops = 9.0});
  EXPECT_EQ(out.pixels, 0U);
  EXPECT_EQ(out.picture.pixels(), ramp().pixels());
  EXPECT_TRUE(holds_all(
      message_of<OpticsError>([] { (void)lifted(ramp(), {.from_stops = 1.0, .to_stops = 3.0}); }),
      {"finish.lift_to", "+4.00", "no light down"}));
  EXPECT_THROW((void)lifted(ramp(), {.from_stops = 3.0, .to_stops = 2.0}), OpticsError);
}

TEST(Corners, LoseWhatWasTold) {
  const PixelSize size{201, 101};
  Finish finish;
  finish.corners = Corners{.stops = 1.2, .power = 3.0};
  const Picture even(size, {0.5F, 0.4F, 0.3F, 0.7F});
  const Picture out = after_lens(even, some_camera(size), finish).picture;
  // The corner pixel's middle is half a pixel within.
  EXPECT_NEAR(std::log2(0.5F / out.at(0, 0)[0]), 1.2, 0.03);
  EXPECT_NEAR(out.at(100, 50)[1], 0.4F, 1e-5F);
  EXPECT_EQ(out.at(0, 0)[3], 0.7F);
  EXPECT_NEAR(std::log2(0.5F / out.at(0, 50)[0]),
              1.2 * std::pow(100.0 / std::hypot(100.5, 50.5), 3.0), 1e-3);
  // As cos⁴ has it where power is 2: θ of 20° at the corner.
  const double corner = -4.0 * std::log2(std::cos(20.0 * std::numbers::pi / 180.0));
  for (const double r : {0.3, 0.7, 1.0}) {
    const double theta = std::atan(r * std::tan(20.0 * std::numbers::pi / 180.0));
    EXPECT_NEAR(corner_fraction({corner, 2.0}, r), std::pow(std::cos(theta), 4.0), 0.005) << r;
  }
}

TEST(Cast, GoesByMiredAndTint) {
  const Rgb warm = cast_gains({.mired = 30.0, .tint = 0.0});
  EXPECT_GT(warm[0], 1.02);
  EXPECT_LT(warm[2], 0.9);
  EXPECT_NEAR(warm[1], 1.0, 1e-12);
  // The white that these gains make of D65 is 30 mired warmer.
  const White made = white_of_patch(warm, Primaries::rec709);
  EXPECT_NEAR(mired(made.temperature), mired(Temperature::from_kelvin(6504.0)) + 30.0, 0.6);
  const Rgb green = cast_gains({.mired = 0.0, .tint = 0.01});
  EXPECT_LT(green[0], 0.99);
  EXPECT_LT(green[2], 0.99);
  EXPECT_TRUE(holds_all(message_of<OpticsError>([] { (void)cast_gains({.mired = -150.0}); }),
                        {"finish.cast", "-150", "whites"}));
}

struct GrainSeen {
  double mean = 0.0;
  double sigma = 0.0;
  double beside = 0.0;  // correlation with the pixel to the right
  double across = 0.0;  // with the other channel
};

GrainSeen seen(const Picture& p, std::size_t c, std::size_t other) {
  GrainSeen out;
  double n = 0.0;
  double mean_other = 0.0;
  for (const Rgba& v : p.pixels()) {
    out.mean += static_cast<double>(v[c]);
    mean_other += static_cast<double>(v[other]);
    n += 1.0;
  }
  out.mean /= n;
  mean_other /= n;
  double var = 0.0;
  double var_other = 0.0;
  double cov = 0.0;
  double next = 0.0;
  for (int y = 0; y < p.height(); ++y) {
    for (int x = 0; x + 1 < p.width(); ++x) {
      const double v = static_cast<double>(p.at(x, y)[c]) - out.mean;
      const double w = static_cast<double>(p.at(x, y)[other]) - mean_other;
      var += v * v;
      var_other += w * w;
      cov += v * w;
      next += v * (static_cast<double>(p.at(x + 1, y)[c]) - out.mean);
    }
  }
  out.sigma = std::sqrt(var / n);
  out.beside = next / var;
  out.across = cov / std::sqrt(var * var_other);
  return out;
}

TEST(Grain, HasTheVarianceItWasToldAtEveryLevel) {
  const Grain grain{{0.002, 0.003, 0.004}, {0.01, 0.012, 0.02}, {}, 0.0, 5};
  for (const float level : {0.0F, 0.02F, 0.18F, 0.7F}) {
    const Picture p({512, 512}, {level, level, level, 1.0F});
    const Picture out = with_grain(p, grain, 0.0, 3.0);
    for (std::size_t c = 0; c < 3; ++c) {
      const GrainSeen s = seen(out, c, (c + 1) % 3);
      const double a = grain.black[c] * grain.black[c];
      const double b = (grain.grey[c] * grain.grey[c] - a) / 0.18;
      const double wanted = std::sqrt(a + b * static_cast<double>(level));
      EXPECT_NEAR(s.sigma / wanted, 1.0, 0.01) << level << " channel " << c;
      EXPECT_NEAR(s.mean, level, 5.0 * wanted / 512.0);
      EXPECT_NEAR(s.beside, 0.0, 0.01);
      EXPECT_NEAR(s.across, 0.0, 0.01);
    }
  }
}

TEST(Grain, IsSoftenedAndAlikeAsTold) {
  const Grain grain{{0.0, 0.0, 0.0}, {0.01, 0.01, 0.01}, {}, 0.6, 5};
  const Picture p({512, 512}, {0.18F, 0.18F, 0.18F, 1.0F});
  const GrainSeen s = seen(with_grain(p, grain, 1.2, 3.0), 0, 2);
  EXPECT_NEAR(s.sigma, 0.01, 0.0003);
  // A Gaussian of σ with itself, one px apart: exp(−1 / 4σ²).
  EXPECT_NEAR(s.beside, std::exp(-1.0 / (4.0 * 1.44)), 0.02);
  EXPECT_NEAR(s.across, 0.6, 0.02);
}

TEST(Grain, IsTheSameForAPartAndAnotherInEachFrame) {
  const Grain grain{{0.01, 0.01, 0.01}, {0.02, 0.02, 0.02}, {}, 0.2, 9};
  const Picture p({160, 90}, {0.2F, 0.1F, 0.3F, 1.0F});
  const Picture whole = with_grain(p, grain, 0.8, 1001.0);
  const Box box{37, 41, 50, 33};
  const Picture part =
      with_grain(crop({p, {}, {}}, box).colour, grain, 0.8, 1001.0, {box.x, box.y});
  EXPECT_EQ(part.pixels(), crop({whole, {}, {}}, box).colour.pixels());
  Picture one_thread;
  Finish finish;
  finish.grain = grain;
  FinishSettings settings;
  settings.frame = 1001.0;
  const Picture all = after_lens(p, some_camera(p.size()), finish, settings).picture;
  settings.execution.threads = 1;
  EXPECT_EQ(after_lens(p, some_camera(p.size()), finish, settings).picture.pixels(), all.pixels());
  std::size_t alike = 0;
  const Picture next = with_grain(p, grain, 0.8, 1002.0);
  for (std::size_t i = 0; i < p.pixels().size(); ++i)
    alike += next.pixels()[i] == whole.pixels()[i];
  EXPECT_LT(alike, 3U);
}

TEST(Finish, LayersAddUpInTheOrderOfWork) {
  const PixelSize size{96, 64};
  Picture p(size, {0.2F, 0.2F, 0.2F, 1.0F});
  p.at(40, 30) = {4.0F, 4.0F, 4.0F, 1.0F};
  Finish finish;
  finish.lift = HighlightLift{.from_stops = 1.0, .to_stops = 8.0};
  finish.halo = Halo{{0.05, 0.05, 0.05}, {BlurSize::Kind::pixels, 3.0}, 3.0};
  finish.corners = Corners{.stops = 1.0};
  finish.cast = Cast{.mired = 20.0};
  finish.grain = Grain{{0.001, 0.001, 0.001}, {0.004, 0.004, 0.004}};
  FinishSettings settings;
  settings.layers = true;
  settings.factor = 0.5;
  const FinishedPicture out = finished(p, some_camera(size), finish, settings);
  std::vector<std::string> names;
  for (const FinishLayer& l : out.layers) names.push_back(l.name);
  EXPECT_EQ(names,
            (std::vector<std::string>{"lift", "halo", "corners", "exposure", "cast", "grain"}));
  for (std::size_t i = 0; i < p.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 4; ++c) {
      float sum = p.pixels()[i][c];
      for (const FinishLayer& l : out.layers) sum += l.added.pixels()[i][c];
      ASSERT_NEAR(sum, out.picture.pixels()[i][c], 1e-5F * (1.0F + std::abs(sum)));
    }
  }
  settings.layers = false;
  EXPECT_NEAR(finished(p, some_camera(size), finish, settings).picture.at(41, 31)[0],
              out.picture.at(41, 31)[0], 1e-5F);
  EXPECT_FALSE(out.notes.empty());
}

TEST(Finish, NothingAskedForChangesNothing) {
  Picture p({16, 9}, {-0.1F, 3.0F, 0.5F, 0.25F});
  EXPECT_EQ(finished(p, some_camera({16, 9}), {}).picture.pixels(), p.pixels());
  p.at(2, 2)[0] = std::numeric_limits<float>::infinity();
  EXPECT_THROW((void)finished(p, some_camera({16, 9}), {}), PictureError);
}

}  // namespace finish_test
}  // namespace jolly_iris
