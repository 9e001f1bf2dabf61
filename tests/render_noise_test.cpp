// Noise of renders, told from made pictures whose noise is known.
#include "jolly_iris/measure/render_noise.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <random>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace render_noise_test {

using testing::holds;
using testing::message_of;

constexpr PixelSize size{320, 256};

// What a lens left of a scene: a slope, and discs of 24 px with hard edges, as pixels see them that
// have an area.
double blurred(int x, int y) {
  const double slope = 0.2 + 0.1 * x / size.width + 0.05 * std::sin(y / 40.0);
  int inside = 0;
  for (int k = 0; k < 16; ++k) {
    const double u = std::fmod(x + 40.0 + 0.25 * (k % 4), 97.0) - 48.0;
    const double v = std::fmod(y + 10.0 + 0.25 * (k / 4), 83.0) - 41.0;
    if (u * u + v * v < 144.0) ++inside;
  }
  return slope + 0.3 * inside / 16.0;
}

// Detail as fine as a pixel.
double woven(int x, int y) { return 0.3 + 0.1 * ((x + y) % 2) + 0.08 * ((x / 2) % 2); }

template <class Scene>
Picture with_noise(const Scene& scene, double sigma, unsigned seed) {
  std::mt19937 random(seed);
  std::normal_distribution<double> noise(0.0, sigma);
  Picture picture(size, {0, 0, 0, 1});
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const auto v = static_cast<float>(scene(x, y) + (sigma > 0.0 ? noise(random) : 0.0));
      picture.at(x, y) = {v, v, v, 1.0F};
    }
  }
  return picture;
}

std::vector<float> discs(float px) { return std::vector<float>(320 * 256, px); }

double rms(const RenderNoise& noise) {
  double sum = 0.0;
  int n = 0;
  for (const NoisePlace& p : noise.places) {
    if (!p.told) continue;
    sum += p.noise * p.noise;
    ++n;
  }
  return std::sqrt(sum / std::max(1, n));
}

double told(const RenderNoise& noise) {
  return static_cast<double>(std::count_if(noise.places.begin(), noise.places.end(),
                                           [](const NoisePlace& p) { return p.told; })) /
         static_cast<double>(noise.places.size());
}

TEST(RenderNoise, IsToldFromOnePictureWhereItIsBlurred) {
  for (const double sigma : {0.03, 0.1, 0.4}) {
    const RenderNoise noise = render_noise(with_noise(blurred, sigma, 5), discs(24.0F));
    EXPECT_EQ(noise.across, 10);
    EXPECT_EQ(noise.down, 8);
    EXPECT_NEAR(rms(noise) / sigma, 1.0, 0.05) << sigma;
    EXPECT_GT(told(noise), 0.85) << sigma;
    EXPECT_NEAR(noise.places[0].coc_px, 24.0, 1e-6);
  }
}

// The discs' edges are no noise: of a picture without any, less is told than 1 % of their step.
TEST(RenderNoise, EdgesOfDiscsAreNotTakenForNoise) {
  const RenderNoise noise = render_noise(with_noise(blurred, 0.0, 5), discs(24.0F));
  for (const NoisePlace& p : noise.places) {
    if (p.told) {
      EXPECT_LT(p.noise, 0.01 * 0.3) << p.box.x << " " << p.box.y;
    }
  }
}

TEST(RenderNoise, WhereThereIsDetailOnePictureCannotTellAndTwoCan) {
  const Picture one = with_noise(woven, 0.01, 5);
  EXPECT_LT(told(render_noise(one, discs(0.0F))), 0.05);
  const RenderNoise both = render_noise(one, with_noise(woven, 0.01, 6), discs(0.0F));
  EXPECT_EQ(told(both), 1.0);
  EXPECT_NEAR(rms(both) / 0.01, 1.0, 0.02);
}

// A pixel filter or a smoother that makes neighbours alike leaves less fine noise than there is.
TEST(RenderNoise, NoiseThatNeighboursShareIsNotTold) {
  const Picture sharp = with_noise(blurred, 0.1, 5);
  Picture soft(size, {0, 0, 0, 1});
  for (int y = 1; y + 1 < size.height; ++y) {
    for (int x = 1; x + 1 < size.width; ++x) {
      float sum = 0.0F;
      for (int j = -1; j <= 1; ++j) {
        for (int i = -1; i <= 1; ++i) sum += sharp.at(x + i, y + j)[0];
      }
      soft.at(x, y) = {sum / 9.0F, sum / 9.0F, sum / 9.0F, 1.0F};
    }
  }
  EXPECT_LT(told(render_noise(soft, discs(24.0F))), 0.15);
}

TEST(RenderNoise, FourTimesTheRaysForHalfTheNoise) {
  const NoisePlace place{{0, 0, 32, 32}, 24.0, 0.2, 0.02, true};
  EXPECT_NEAR(times_the_rays(place, 0.05, 0.02), 4.0, 1e-12);
  EXPECT_NEAR(times_the_rays(place, 0.1, 0.02), 1.0, 1e-12);
  // Black: its noise counts against the darkest level that anybody looks at.
  EXPECT_NEAR(times_the_rays({{}, 24.0, 0.0, 0.02, true}, 0.1, 0.1), 4.0, 1e-12);
}

TEST(RenderNoise, WhatCannotBeIsSaid) {
  Picture picture = with_noise(blurred, 0.1, 5);
  EXPECT_THROW((void)render_noise(picture, {}), PictureError);
  EXPECT_TRUE(
      holds(message_of<PictureError>([&] { (void)render_noise(picture, picture, discs(1.0F)); }),
            "equal"));
  EXPECT_THROW((void)render_noise(picture, Picture({64, 64}, {0, 0, 0, 1}), discs(1.0F)),
               PictureError);
  picture.at(70, 9)[1] = std::numeric_limits<float>::quiet_NaN();
  EXPECT_TRUE(
      holds(message_of<PictureError>([&] { (void)render_noise(picture, discs(1.0F)); }), "70, 9"));
  EXPECT_THROW((void)render_noise(Picture({20, 20}, {0, 0, 0, 1}), std::vector<float>(400)),
               PictureError);
}

}  // namespace render_noise_test
}  // namespace jolly_iris
