// Halo, spikes and streak: where their light goes, and that none is lost.
#include "jolly_iris/picture/scatter.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace scatter_test {

using testing::holds_all;
using testing::message_of;

// A camera whose λN is so many px tall at 550 nm.
VirtualCamera camera_of(double lambda_n_px, const Iris& iris = {}, PixelSize pixels = {512, 512}) {
  const double f_number = 8.0;
  const double pitch_mm = 550e-6 * f_number / lambda_n_px;
  VirtualCamera c;
  c.focal = Length::from_mm(50.0);
  c.f_number = f_number;
  c.aperture_radius = Length::from_mm(50.0 / f_number / 2.0);
  c.gate = {Length::from_mm(pitch_mm * pixels.width), Length::from_mm(pitch_mm * pixels.height)};
  c.picture = c.gate;
  c.pixels = pixels;
  c.focus = Length::infinity();
  c.lens_focal = c.focal;
  c.lens_f_number = c.lens_t_number = f_number;
  c.iris = iris;
  return c;
}

Iris bladed(int blades, double rotation_deg = 0.0) {
  Iris iris;
  iris.blades = blades;
  iris.blade_radius = BladeRadius::straight();
  iris.rotation = Angle::from_degrees(rotation_deg);
  return iris;
}

double total(const Picture& p, std::size_t c) {
  double sum = 0.0;
  for (const Rgba& v : p.pixels()) sum += static_cast<double>(v[c]);
  return sum;
}

Picture lamp_in(PixelSize size, int x, int y, float light, float around = 0.02F) {
  Picture p(size, {around, around, around, 1.0F});
  p.at(x, y) = {light, light, light, 1.0F};
  return p;
}

const Halo usual_halo{{0.04, 0.05, 0.06}, {BlurSize::Kind::pixels, 5.0}, 3.0};
const Streak usual_streak{
    0.03, Angle::from_degrees(20.0), {BlurSize::Kind::pixels, 20.0}, 2.0, {0.4, 0.7, 1.0}};

TEST(Scatter, NoLightIsLostWhereverALampStands) {
  const PixelSize size{200, 120};
  const VirtualCamera camera = camera_of(1.0, bladed(6), size);
  const std::vector<ScatterKernel> kernels{halo_kernel(usual_halo, camera, size),
                                           spike_kernel({}, camera, size),
                                           streak_kernel(usual_streak, camera, size)};
  for (const std::array<int, 2> at : {std::array{100, 60}, {3, 2}, {199, 119}, {0, 60}}) {
    const Picture p = lamp_in(size, at[0], at[1], 1e6F);
    const Scattered out = scattered(p, kernels);
    for (std::size_t c = 0; c < 3; ++c) {
      EXPECT_NEAR(total(out.picture, c) / total(p, c), 1.0, 1e-6) << at[0] << " channel " << c;
    }
  }
}

TEST(Scatter, AnEvenPictureStaysEvenUpToItsEdges) {
  const VirtualCamera camera = camera_of(1.0, bladed(5), {150, 90});
  const Picture p({150, 90}, {0.3F, 0.2F, 0.1F, 0.5F});
  const Scattered out =
      scattered(p, {halo_kernel(usual_halo, camera, p.size()), spike_kernel({}, camera, p.size()),
                    streak_kernel(usual_streak, camera, p.size())});
  for (const Rgba& v : out.picture.pixels()) {
    EXPECT_NEAR(v[0], 0.3F, 1e-6F);
    EXPECT_NEAR(v[2], 0.1F, 1e-6F);
    EXPECT_EQ(v[3], 0.5F);
  }
}

TEST(Scatter, HaloFallsByItsPower) {
  const VirtualCamera camera = camera_of(0.1, {}, {401, 401});
  const Picture p = lamp_in({401, 401}, 200, 200, 1000.0F, 0.0F);
  const Picture out = scattered(p, {halo_kernel(usual_halo, camera, p.size())}).picture;
  const auto expected = [](double r) { return std::pow(1.0 + r * r / 25.0, -1.5); };
  const double unit = static_cast<double>(out.at(210, 200)[0]) / expected(10.0);
  for (const int r : {15, 40, 100, 190}) {
    EXPECT_NEAR(out.at(200 + r, 200)[0] / (unit * expected(r)), 1.0, 2e-3) << r;
    EXPECT_NEAR(out.at(200, 200 - r)[0] / out.at(200 + r, 200)[0], 1.0, 1e-5) << r;
  }
  EXPECT_NEAR(out.at(200, 240)[2] / out.at(200, 240)[0], 1.5, 1e-5);
}

// A lamp of a million beside black: nothing rings below zero, nothing comes round from the other
// side.
TEST(Scatter, ALampOfAMillionNeitherRingsNorWraps) {
  const VirtualCamera camera = camera_of(0.1, {}, {320, 200});
  Picture p({320, 200}, {0, 0, 0, 1});
  for (int y = 0; y < 6; ++y) {
    for (int x = 0; x < 6; ++x) p.at(x, y) = {1e6F, 1e6F, 1e6F, 1.0F};
  }
  const Picture out = scattered(p, {halo_kernel(usual_halo, camera, p.size())}).picture;
  for (const Rgba& v : out.pixels()) EXPECT_GE(v[0], 0.0F);
  // By the formula, from the lamp's middle to the far corner.
  const double r = std::hypot(317.0, 197.0);
  const double near = std::hypot(97.0, 17.0);
  const auto fall = [](double d) { return std::pow(1.0 + d * d / 25.0, -1.5); };
  EXPECT_NEAR(out.at(319, 199)[0] / out.at(99, 19)[0], fall(r) / fall(near),
              0.02 * fall(r) / fall(near));
}

TEST(Scatter, LayersAddUpToThePicture) {
  const VirtualCamera camera = camera_of(1.0, bladed(6), {120, 80});
  const Picture p = lamp_in({120, 80}, 40, 30, 500.0F);
  const std::vector<ScatterKernel> kernels{halo_kernel(usual_halo, camera, p.size()),
                                           spike_kernel({}, camera, p.size())};
  const Scattered together = scattered(p, kernels);
  const Scattered parts = scattered(p, kernels, true);
  ASSERT_EQ(parts.layers.size(), 2U);
  EXPECT_EQ(parts.layers[1].name, "spikes");
  for (std::size_t i = 0; i < p.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 4; ++c) {
      const float sum = p.pixels()[i][c] + parts.layers[0].added.pixels()[i][c] +
                        parts.layers[1].added.pixels()[i][c];
      ASSERT_NEAR(sum, together.picture.pixels()[i][c], 1e-6F * (1.0F + std::abs(sum)));
    }
  }
}

TEST(Scatter, StreakLiesInItsDirectionAndNowhereElse) {
  const VirtualCamera camera = camera_of(0.1, {}, {301, 301});
  const Picture p = lamp_in({301, 301}, 150, 150, 1000.0F, 0.0F);
  const Picture out = scattered(p, {streak_kernel(usual_streak, camera, p.size())}).picture;
  const double slope = std::tan(20.0 * std::numbers::pi / 180.0);
  for (const int x : {20, 60, 100}) {
    const int y = static_cast<int>(std::lround(x * slope));
    EXPECT_GT(out.at(150 + x, 150 - y)[2], 10.0F * out.at(150 + x, 150 + y)[2] + 1e-3F) << x;
    EXPECT_NEAR(out.at(150 - x, 150 + y)[2] / out.at(150 + x, 150 - y)[2], 1.0, 1e-4);
    EXPECT_NEAR(out.at(150 + x, 150 - y)[0] / out.at(150 + x, 150 - y)[2], 0.4, 1e-3);
  }
  // What it does not reach does not change.
  EXPECT_NEAR(out.at(150, 20)[1], 0.0F, 1e-6F);
}

TEST(Spikes, ARoundOpeningsFirstDarkRing) {
  // 1.22 λN at 24.4 px.
  const VirtualCamera camera = camera_of(20.0, {}, {400, 400});
  const ScatterKernel k =
      spike_kernel({}, camera, {400, 400}, {}, {.wavelengths_nm = {550.0}, .max_reach = 120});
  const ScatterShape& s = *k.shape[1];
  int darkest = 15;
  for (int r = 15; r < 34; ++r) {
    if (s.at(r, 0) < s.at(darkest, 0)) darkest = r;
  }
  // Between pixels, by a parabola.
  const double a = s.at(darkest - 1, 0);
  const double b = s.at(darkest, 0);
  const double c = s.at(darkest + 1, 0);
  const double ring = darkest + 0.5 * (a - c) / (a - 2.0 * b + c);
  EXPECT_NEAR(ring / 20.0, 1.2197, 0.0122);
  // The first bright ring is at 1.635 λN and has 1.75 % of the middle's light.
  EXPECT_NEAR(s.at(33, 0) / s.at(5, 0), 0.0175 / 0.853, 0.05 * 0.0175 / 0.853);
}

TEST(Spikes, ASlitHasSinc) {
  Iris iris;
  // Twenty times as tall as wide: across it, what a slit does.
  iris.outline = {{-0.1, -2.0}, {0.1, -2.0}, {0.1, 2.0}, {-0.1, 2.0}};
  const VirtualCamera camera = camera_of(4.0, iris, {600, 600});
  const ScatterKernel k =
      spike_kernel({}, camera, {600, 600}, {}, {.wavelengths_nm = {550.0}, .max_reach = 200});
  const ScatterShape& s = *k.shape[1];
  // The area is a circle's of diameter D: its width is D √(π/80).
  const double width = std::sqrt(std::numbers::pi / 80.0);
  const auto sinc_squared = [&](double px) {
    const double u = std::numbers::pi * width * px / 4.0;
    return std::pow(std::sin(u) / u, 2.0);
  };
  const double unit = s.at(8, 0) / sinc_squared(8.0);
  for (const int x : {3, 5, 12, 15, 30, 33, 36, 52}) {
    EXPECT_NEAR(s.at(x, 0) / unit, sinc_squared(x), 0.01 * sinc_squared(x) + 2e-4) << x;
  }
}

// Directions of the brightest rays at a distance, degrees counter-clockwise from level, 0 … 360.
std::vector<double> rays_of(const ScatterShape& s, int r) {
  std::vector<double> light(1440);
  for (std::size_t i = 0; i < light.size(); ++i) {
    const double turn = static_cast<double>(i) * std::numbers::pi / 720.0;
    // Along the ray, so that its ripples do not count.
    for (double d = 0.7 * r; d < r; d += 0.5) {
      const double x = d * std::cos(turn);
      const double y = -d * std::sin(turn);
      const int i0 = static_cast<int>(std::floor(x));
      const int j0 = static_cast<int>(std::floor(y));
      const double fx = x - i0;
      const double fy = y - j0;
      light[i] += (1 - fy) * ((1 - fx) * s.at(i0, j0) + fx * s.at(i0 + 1, j0)) +
                  fy * ((1 - fx) * s.at(i0, j0 + 1) + fx * s.at(i0 + 1, j0 + 1));
    }
  }
  const double top = *std::max_element(light.begin(), light.end());
  std::vector<double> out;
  for (std::size_t i = 0; i < light.size(); ++i) {
    bool peak = light[i] > 0.25 * top;
    for (std::size_t d = 1; d < 40 && peak; ++d) {
      peak = light[i] >= light[(i + d) % 1440] && light[i] > light[(i + 1440 - d) % 1440];
    }
    if (peak) out.push_back(static_cast<double>(i) / 4.0);
  }
  return out;
}

TEST(Spikes, EvenBladesMakeAsManyRaysOddOnesTwice) {
  for (const auto& [blades, rays] : {std::pair{6, 6}, {5, 10}, {8, 8}, {7, 14}}) {
    for (const double rotation : {blades > 6 ? 0.0 : 11.0}) {
      const VirtualCamera camera = camera_of(2.0, bladed(blades, rotation), {512, 512});
      const ScatterKernel k =
          spike_kernel({}, camera, {512, 512}, {}, {.wavelengths_nm = {}, .max_reach = 160});
      const std::vector<double> found = rays_of(*k.shape[1], 110);
      ASSERT_EQ(found.size(), static_cast<std::size_t>(rays)) << blades << " blades";
      // At right angles to the edges: 0 = a corner at the top, so an edge's middle stands half a
      // blade beside it.
      for (const double angle : found) {
        const double off = (angle - 90.0 - rotation) / (360.0 / blades) + 0.5;
        const double other = (angle + 180.0 - 90.0 - rotation) / (360.0 / blades) + 0.5;
        const double miss =
            std::min(std::abs(off - std::round(off)), std::abs(other - std::round(other)));
        EXPECT_LT(miss * 360.0 / blades, 1.0) << blades << " blades, at " << angle;
      }
    }
  }
}

TEST(Spikes, ClosingDownMakesThemLonger) {
  const PixelSize size{300, 300};
  const auto beyond = [&](double lambda_n_px) {
    const ScatterKernel k = spike_kernel({}, camera_of(lambda_n_px, bladed(6), size), size);
    double sum = 0.0;
    for (int x = 20; x <= k.shape[1]->reach_x; ++x)
      sum += static_cast<double>(k.shape[1]->at(0, std::min(x, k.shape[1]->reach_y)));
    return k.fraction[1] * sum;
  };
  EXPECT_GT(beyond(2.0), 2.0 * beyond(0.5));
}

// White light stays white, and its far parts are redder than its near ones.
TEST(Spikes, ColoursGoByWavelength) {
  const PixelSize size{400, 400};
  const ScatterKernel k = spike_kernel({}, camera_of(6.0, {}, size), size);
  const ScatterShape& r = *k.shape[0];
  const ScatterShape& b = *k.shape[2];
  // First dark rings: 1.22 λN, of about 600 and 450 nm.
  EXPECT_GT(k.fraction[2] * b.at(9, 0), 0.0);
  EXPECT_LT(k.fraction[2] * b.at(6, 0), k.fraction[0] * r.at(6, 0));
}

TEST(Spikes, MoreLightThanThereIsIsRefused) {
  const VirtualCamera camera = camera_of(3.0, bladed(6), {200, 200});
  EXPECT_TRUE(holds_all(message_of<OpticsError>([&] {
                          (void)spike_kernel({.times = 40.0}, camera, {200, 200});
                        }),
                        {"finish.spikes.times", "more than there is"}));
  EXPECT_THROW((void)spike_kernel({}, camera, {200, 200}, {}, {.samples = 1000}), UsageError);
  EXPECT_THROW((void)spike_kernel({}, camera, {200, 200}, {}, {.wavelengths_nm = {90.0}}),
               UsageError);
}

TEST(Scatter, ImpossibleValuesAreRefusedByTheirKeys) {
  const VirtualCamera camera = camera_of(1.0, {}, {64, 64});
  Halo halo = usual_halo;
  halo.power = 2.0;
  EXPECT_TRUE(holds_all(message_of<OpticsError>([&] {
                          (void)halo_kernel(halo, camera, {64, 64});
                        }),
                        {"finish.halo.power", "2", "above 2"}));
  Streak streak = usual_streak;
  streak.colour = {0.0, 0.0, 0.0};
  EXPECT_TRUE(holds_all(message_of<OpticsError>([&] {
                          (void)streak_kernel(streak, camera, {64, 64});
                        }),
                        {"finish.streak.colour"}));
  Picture odd({64, 64});
  odd.at(3, 4)[1] = std::numeric_limits<float>::quiet_NaN();
  EXPECT_TRUE(holds_all(message_of<PictureError>([&] {
                          (void)scattered(odd, {halo_kernel(usual_halo, camera, {64, 64})});
                        }),
                        {"no light", "3, 4"}));
}

TEST(Scatter, APictureOfOnePixelWide) {
  const VirtualCamera camera = camera_of(1.0, bladed(6), {1, 40});
  const Picture p = lamp_in({1, 40}, 0, 20, 100.0F);
  const Picture out =
      scattered(p, {halo_kernel(usual_halo, camera, p.size()), spike_kernel({}, camera, p.size()),
                    streak_kernel(usual_streak, camera, p.size())})
          .picture;
  EXPECT_NEAR(total(out, 1) / total(p, 1), 1.0, 1e-6);
}

}  // namespace scatter_test
}  // namespace jolly_iris
