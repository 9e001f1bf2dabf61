#include "jolly_iris/picture/resample.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/psnr.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace resample_test {

using testing::holds;
using testing::message_of;

// Light of a picture whose pixels cover an area of one in all.
double light(const Picture& p) {
  double sum = 0.0;
  for (const Rgba& v : p.pixels()) sum += static_cast<double>(v[1]);
  return sum / static_cast<double>(p.pixels().size());
}

Picture lamps(PixelSize size) {
  Picture p(size, {0.05F, 0.05F, 0.05F, 1});
  p.at(size.width / 3, size.height / 2) = {900, 1000, 800, 1};
  p.at(size.width - 1, 0) = {50, 60, 70, 0.5F};
  return p;
}

RC_GTEST_PROP(Resampler, KeepsLightAndMakesNoRings, ()) {
  const auto size = [] { return *rc::gen::inRange(1, 40); };
  const Picture old = lamps({size() + 3, size()});
  const Picture now = resampled({old, {}}, {size(), size()}).colour;
  RC_ASSERT(std::abs(light(now) / light(old) - 1.0) < 1e-4);
  for (const Rgba& p : now.pixels()) RC_ASSERT(p[1] > 0.0499F && p[1] < 1000.1F);
}

TEST(Resampler, ThereAndBackByWholeNumbersIsTheSamePicture) {
  const Picture old = lamps({37, 11});
  for (const PixelSize size : {PixelSize{74, 11}, PixelSize{37, 33}, PixelSize{148, 22}}) {
    const Picture width = resampled({old, {}}, size).colour;
    const Picture back = resampled({width, {}}, old.size()).colour;
    for (std::size_t i = 0; i < old.pixels().size(); ++i) {
      EXPECT_NEAR(back.pixels()[i][1], old.pixels()[i][1],
                  1e-4F * std::max(1.0F, old.pixels()[i][1]))
          << i;
    }
  }
}

// A wave of 12 px, stretched: the mean of the wave over every new pixel, which is known.
TEST(Resampler, ASmoothWaveStaysThatWave) {
  const auto wave = [](double from, double to) {  // its mean between two places, px of the old one
    const double k = 2.0 * std::numbers::pi / 12.0;
    return 0.5 + 0.4 * (std::cos(k * from) - std::cos(k * to)) / (k * (to - from));
  };
  Picture old({96, 1});
  for (int x = 0; x < 96; ++x) {
    const auto v = static_cast<float>(wave(x, x + 1.0));
    old.at(x, 0) = {v, v, v, 1};
  }
  for (const int width : {192, 173, 128, 64, 48}) {
    const Picture now = resampled({old, {}}, {width, 1}).colour;
    const double step = 96.0 / width;
    double worst = 0.0;
    for (int x = width / 8; x < width - width / 8; ++x) {
      const double wanted = wave(x * step, (x + 1) * step);
      worst = std::max(worst, std::abs(static_cast<double>(now.at(x, 0)[0]) - wanted));
    }
    EXPECT_LT(worst, 0.02) << width;  // crests become flat, so that lamps get no rings
  }
}

TEST(Resampler, DepthIsNeverAMeanOfTwoDistances) {
  Frame f{Picture({6, 2}), {1, 1, 1, 9, 9, 9, 1, 1, 1, 9, 9, 9}};
  for (const PixelSize size : {PixelSize{13, 2}, PixelSize{4, 1}, PixelSize{6, 5}}) {
    const Frame now = resampled(f, size);
    ASSERT_EQ(now.depth.size(), now.colour.pixels().size());
    for (const float z : now.depth) EXPECT_TRUE(z == 1.0F || z == 9.0F) << z;
  }
}

TEST(Resampler, TheSameSizeIsTheSamePicture) {
  const Picture old = lamps({9, 5});
  EXPECT_EQ(resampled({old, {}}, old.size()).colour.pixels(), old.pixels());
}

TEST(Resampler, NoPictureIsRefused) {
  EXPECT_TRUE(holds(message_of<UsageError>([] {
                      (void)resampled({Picture({4, 4}), {}}, {0, 3});
                    }),
                    "0 x 3"));
}

}  // namespace resample_test
}  // namespace jolly_iris
