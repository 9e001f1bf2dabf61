// The shape, light and smoothness of discs, against shapes that are computed here by other means.
#include "jolly_iris/picture/bokeh.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/opening.hpp"
#include "jolly_iris/optics/pupil.hpp"
#include "jolly_iris/optics/relative_illumination.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace bokeh_test {

using testing::holds;
using testing::message_of;

using std::numbers::pi;

const Body body{.gate = {24_mm, 13.5_mm}, .pixels = {1920, 1080}};

Lens lens_of(const Iris& iris) { return {.focal = 50_mm, .iris = iris}; }
VirtualCamera camera_of(const Lens& lens) {
  return resolve(body, lens, {.stop = f_number(2.0)}, 2_m);
}

// ---- the mask, by asking of many points of a pixel whether they are within ----------------------

struct MaskShape {
  int blades;
  double times;   // of the blade radius; 0 straight
  double corner;  // where the corners are, in radii
  std::vector<VignettingRim> vignetting;
};

bool within_blades(const MaskShape& s, double x, double y) {
  if (s.blades == 0) return x * x + y * y <= 1.0;
  const double half = pi / s.blades;
  const double apothem = s.corner * std::cos(half);
  const double chord = s.corner * std::sin(half);
  for (int i = 0; i < s.blades; ++i) {
    const double a = pi / 2.0 + half * (2.0 * i + 1.0);
    const double along = x * std::cos(a) + y * std::sin(a);
    const double across = -x * std::sin(a) + y * std::cos(a);
    if (s.times == 0.0) {
      if (along > apothem) return false;
      continue;
    }
    const double r = std::abs(s.times);
    const double centre = apothem - std::copysign(std::sqrt(r * r - chord * chord), s.times);
    const bool in_circle = std::hypot(along - centre, across) <= r;
    if (s.times > 0.0 && !in_circle) return false;
    // Bent inward: beyond the polygon nothing is open, and neither is what the blade covers.
    if (s.times < 0.0 && (along > apothem || in_circle)) return false;
  }
  return true;
}

bool within_vignetting(const MaskShape& s, const VirtualCamera& c, double x, double y,
                       double right_mm, double up_mm, double inverse_z) {
  const double radius = c.aperture_radius.mm();
  return std::all_of(s.vignetting.begin(), s.vignetting.end(), [&](const VignettingRim& rim) {
    const double k = 1.0 - rim.ahead.m() * inverse_z;
    return std::hypot(x * radius * k + right_mm / c.focal.mm() * rim.ahead.mm(),
                      y * radius * k + up_mm / c.focal.mm() * rim.ahead.mm()) <= rim.radius.mm();
  });
}

// Σmin / Σmax of a disc and its mask.
double overlap(const MaskShape& s, const VirtualCamera& c, FramePlace place, Length z,
               double wanted_px) {
  const double coc = bokeh_disc(c, place, z).coc_px;
  const double scale = wanted_px / std::abs(coc);
  const BokehDisc disc = bokeh_disc(c, place, z, scale);
  const double half = 0.5 * coc * scale;
  const double right = 0.5 * place.right * c.picture.width.mm();
  const double up = 0.5 * place.up * c.picture.height.mm();
  // Light is 1 in the frame's middle, also where rims cut something off there already.
  const double gain = Pupil(c).lens().gain;
  const int n = disc.picture.width();
  constexpr int fine = 8;
  double min = 0.0;
  double max = 0.0;
  for (int y = 0; y < n; ++y) {
    for (int x = 0; x < n; ++x) {
      int in = 0;
      for (int k = 0; k < fine * fine; ++k) {
        const double px = x - n / 2 - 0.5 + (k % fine + 0.5) / fine;
        const double py = y - n / 2 - 0.5 + (k / fine + 0.5) / fine;
        const double u = px / half;
        const double v = -py / half;
        in +=
            within_blades(s, u, v) && within_vignetting(s, c, u, v, right, up, 1.0 / z.m()) ? 1 : 0;
      }
      const double a = static_cast<double>(disc.picture.at(x, y)[1]) / gain;
      const double b = static_cast<double>(in) / (fine * fine);
      min += std::min(a, b);
      max += std::max(a, b);
    }
  }
  return min / max;
}

struct ShapeCase {
  int blades;
  double times;
};
void PrintTo(const ShapeCase& c, std::ostream* out) { *out << c.blades << " blades, " << c.times; }

class DiscShapes : public ::testing::TestWithParam<ShapeCase> {};

TEST_P(DiscShapes, OverlapTheirMasksOnBothSidesAndAllOverTheFrame) {
  const auto [blades, times] = GetParam();
  Iris iris{.blades = blades};
  if (times != 0.0) iris.blade_radius = BladeRadius::multiple(times);
  Lens lens = lens_of(iris);
  lens.vignetting = {{17_mm, 40_mm}, {18_mm, Length::from_mm(-35.0)}};
  const VirtualCamera c = camera_of(lens);
  const MaskShape shape{blades, times, Opening(iris, c.aperture_radius).corner_radius(),
                        lens.vignetting};
  const double min_px = times < 0.0 ? 48.0 : 24.0;
  for (const Length z : {1_m, 40_m}) {
    for (const FramePlace place : {FramePlace{0, 0}, FramePlace{0.9, 0}, FramePlace{-0.9, 0.9},
                                   FramePlace{0.5, -0.7}, FramePlace{0, -0.95}}) {
      for (const double px : {min_px, 61.3}) {
        const bool few = place.right == 0.9 || (place.up == -0.7 && px == min_px);
        if (testing::sanitized && !few) continue;
        EXPECT_GE(overlap(shape, c, place, z, px), 0.985)
            << z.m() << " m, at " << place.right << ", " << place.up << ", " << px << " px";
      }
    }
  }
}

INSTANTIATE_TEST_SUITE_P(All, DiscShapes,
                         ::testing::Values(ShapeCase{0, 0}, ShapeCase{3, 0}, ShapeCase{3, 1.6},
                                           ShapeCase{5, 0}, ShapeCase{5, 1.2}, ShapeCase{5, -8},
                                           ShapeCase{6, 3}, ShapeCase{7, 1.6}, ShapeCase{8, 1.6},
                                           ShapeCase{8, 0}, ShapeCase{9, -4}, ShapeCase{11, 1.2},
                                           ShapeCase{16, 2}, ShapeCase{32, 0}));

// ---- light --------------------------------------------------------------------------------------

struct Control {
  std::string name;
  Lens lens;
};
void PrintTo(const Control& c, std::ostream* out) { *out << c.name; }

std::vector<Control> controls() {
  const auto with = [](const std::string& name, const Iris& iris) {
    return Control{name, lens_of(iris)};
  };
  const auto faulty = [](const std::string& name, const Aberrations& aberrations) {
    Lens lens = lens_of({.blades = 7});
    lens.widest = f_number(2.0);
    lens.aberrations = aberrations;
    lens.aberrations.height = 13_mm;
    return Control{name, lens};
  };
  auto picture = std::make_shared<OpeningPicture>();
  picture->width = picture->height = 3;
  picture->light = {{1, 1, 1}, {0, 0, 0}, {1, 1, 1}, {0.5, 0.5, 0.5}, {1, 1, 1},
                    {0, 0, 0}, {1, 1, 1}, {1, 1, 1}, {1, 1, 1}};
  Iris laid;
  laid.picture = picture;
  Aberrations coma;
  coma.coma = Length::from_mm(0.1);
  Aberrations curved;
  curved.curvature = Power::from_dioptres(0.1);
  Aberrations fringe;
  fringe.focus_shift = {Power::from_dioptres(-0.05), {}, Power::from_dioptres(0.05)};
  Aberrations soft;
  soft.spherical = Length::from_mm(0.1);
  Lens tall = lens_of({.blades = 6});
  tall.squeeze = 2.0;
  return {with("round", {}),
          with("blades", {.blades = 5, .rotation = 12_deg}),
          with("uneven", {.blades = 9, .uneven = 0.05}),
          with("outline", {.outline = {{0, 0}, {4, 0}, {4, 4}, {2, 1}, {0, 4}}}),
          with("obstruction", {.obstruction = 0.4}),
          with("rim", {.blades = 8, .edge_falloff = 1.5}),
          with("rings", {.rings = 6, .ring_strength = 0.6}),
          with("dust", {.dust = 60}),
          with("scratches", {.scratches = 12}),
          Control{"picture", lens_of(laid)},
          Control{"squeeze", tall},
          faulty("spherical", soft),
          faulty("coma", coma),
          faulty("curvature", curved),
          faulty("focus_shift", fringe)};
}

class Controls : public ::testing::TestWithParam<Control> {};

double sum(const Picture& p, std::size_t c) {
  double total = 0.0;
  for (const Rgba& v : p.pixels()) total += static_cast<double>(v[c]);
  return total;
}

// A patch and a lamp on black at one depth: whatever spreads them, the light stays.
TEST_P(Controls, KeepTheLight) {
  const VirtualCamera c = camera_of(GetParam().lens);
  for (const float depth : {1.4F, 2.0F, 2.6F, 30.0F}) {
    Frame f{Picture({240, 160}, {0, 0, 0, 1}), {}};
    f.depth.assign(f.colour.pixels().size(), depth);
    for (int y = 70; y < 90; ++y) {
      for (int x = 110; x < 130; ++x)
        f.colour.at(x, y) = {0.3F, 0.2F, 0.01F * static_cast<float>(x - 100), 1};
    }
    f.colour.at(118, 76) = {5000, 4000, 3000, 1};
    const Picture out = defocus(f, c);
    for (std::size_t k = 0; k < 3; ++k) {
      EXPECT_NEAR(sum(out, k) / sum(f.colour, k), 1.0, 1e-4) << depth << " m, channel " << k;
    }
  }
}

INSTANTIATE_TEST_SUITE_P(All, Controls, ::testing::ValuesIn(controls()),
                         [](const auto& each) { return each.param.name; });

// What the barrel takes is what is reported: for a lamp, and for a plain grey picture.
TEST(Bokeh, LostLightIsTheReportedVignetting) {
  Lens lens = lens_of({.blades = 8, .blade_radius = BladeRadius::multiple(1.6)});
  lens.vignetting = {{16_mm, 40_mm}, {15_mm, Length::from_mm(-30.0)}};
  const VirtualCamera c = camera_of(lens);
  const Pupil pupil(c);
  // Natural fall-off belongs to whoever makes the sharp picture.
  const auto reported = [&](double right, double up) {
    return open_fraction_of(lens.vignetting, c, right * c.picture.width / 2.0,
                            up * c.picture.height / 2.0) /
           open_fraction_of(lens.vignetting, c, {}, {});
  };
  for (const FramePlace place :
       {FramePlace{0.5, 0.5}, FramePlace{-0.95, 0}, FramePlace{0.95, 0.9}}) {
    const double fraction = reported(place.right, place.up);
    EXPECT_LT(fraction, 0.99);
    const BokehDisc d = bokeh_disc(c, place, Length::infinity());
    EXPECT_NEAR(std::exp2(d.light_stops), fraction, 0.01 * fraction);
    const double even = pi / 4.0 * d.coc_px * d.coc_px;
    EXPECT_NEAR(sum(d.picture, 1) / even, fraction, 0.01 * fraction);
  }
  Frame grey{Picture({192, 108}, {0.5F, 0.5F, 0.5F, 1}), {}};
  grey.depth.assign(grey.colour.pixels().size(), 1e6F);
  const Picture out = defocus(grey, c);
  EXPECT_NEAR(out.at(96, 54)[0], 0.5, 0.005);
  EXPECT_NEAR(out.at(191, 0)[0] / 0.5, reported(191.0 / 192.0, 107.0 / 108.0), 0.02);
  EXPECT_NEAR(defocus(grey, c, {.vignetting = false}).at(191, 0)[0], 0.5, 0.001);
}

// A disc that grows evenly from 1 to 80 px never jumps.
TEST(Bokeh, AGrowingDiscNeverJumps) {
  for (const bool textured : {false, true}) {
    Iris iris{.blades = 7, .blade_radius = BladeRadius::multiple(1.6)};
    if (textured) {
      iris.edge_falloff = 1.0;
      iris.dust = 30;
      iris.seed = 2;
    }
    Lens lens = lens_of(iris);
    lens.vignetting = {{17_mm, 40_mm}};
    const VirtualCamera c = camera_of(lens);
    std::vector<double> changes;
    Picture before;
    for (int i = 0; i < testing::cases(200, 12); ++i) {
      const auto px = static_cast<float>(1.0 + 79.0 * i / 199.0);
      Frame f{Picture({100, 100}, {0, 0, 0, 1}), {}};
      f.colour.at(40, 60) = {3000, 3000, 3000, 1};
      DefocusSettings settings;
      settings.coc_px.assign(f.colour.pixels().size(), px);
      // Its light by area, so that a disc of any size is as bright: what the eye follows.
      const Picture out = defocus(f, c, settings);
      if (i > 0) {
        double change = 0.0;
        for (std::size_t k = 0; k < out.pixels().size(); ++k) {
          change += std::abs(static_cast<double>(out.pixels()[k][0] - before.pixels()[k][0]));
        }
        changes.push_back(change * static_cast<double>(px));  // falls as 1 / size by itself
      }
      before = out;
    }
    std::vector<double> sorted = changes;
    std::sort(sorted.begin(), sorted.end());
    EXPECT_LE(sorted.back(), 3.0 * sorted[sorted.size() / 2]) << textured;
  }
}

TEST(Bokeh, NumbersOfTheOpening) {
  const VirtualCamera round = camera_of(lens_of({}));
  const OpeningFigures f = opening_figures(round);
  EXPECT_NEAR(f.area_mm2, pi * 12.5 * 12.5, 1e-2 * f.area_mm2);
  EXPECT_NEAR(f.height_over_width, 1.0, 1e-3);
  EXPECT_NEAR(f.flattened, 0.0, 1e-3);
  Lens tall = lens_of({});
  tall.squeeze = 2.0;
  EXPECT_NEAR(opening_figures(camera_of(tall)).height_over_width, 2.0, 0.01);
  // A straight-bladed hexagon: 1 − cos 30°.
  EXPECT_NEAR(opening_figures(camera_of(lens_of({.blades = 6}))).flattened,
              1.0 - std::cos(pi / 6.0), 1e-3);
  EXPECT_NEAR(opening_figures(camera_of(lens_of({.edge_falloff = 2.0}))).edge_falloff_stops,
              2.0 * (std::pow(0.87, 6) - std::pow(0.2, 6)), 0.05);
}

TEST(Bokeh, KernelFillsItsPictureAndAddsUpToOne) {
  const VirtualCamera c = camera_of(lens_of({.blades = 5, .edge_falloff = 0.5}));
  for (const int size : {16, 64, 256}) {
    const Picture k = kernel_picture(c, {}, Length::infinity(), size);
    ASSERT_EQ(k.width(), size);
    EXPECT_NEAR(sum(k, 1), 1.0, 1e-4);
    int widest = 0;
    for (int y = 0; y < size; ++y) {
      int row = 0;
      for (int x = 0; x < size; ++x) row += k.at(x, y)[1] > 0.0F ? 1 : 0;
      widest = std::max(widest, row);
    }
    EXPECT_GE(widest, size - 6);
    EXPECT_LE(widest, size);
  }
  EXPECT_TRUE(
      holds(message_of<UsageError>([&] { (void)kernel_picture(c, {}, 2_m, 64); }), "in focus"));
  EXPECT_TRUE(
      holds(message_of<UsageError>([&] { (void)kernel_picture(c, {}, 9_m, 4); }), "8 to 8192"));
}

}  // namespace bokeh_test
}  // namespace jolly_iris
