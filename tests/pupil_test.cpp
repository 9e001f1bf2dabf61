#include "jolly_iris/optics/pupil.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/opening_light.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace pupil_test {

using testing::holds;
using testing::message_of;

using std::numbers::pi;

const Body body{.gate = {24_mm, 13.5_mm}, .pixels = {1920, 1080}};

VirtualCamera camera_of(const Lens& lens, double n = 2.0) {
  return resolve(body, lens, {.stop = f_number(n)}, 2_m);
}

double area_of(const std::vector<Contour>& contours) {
  double twice = 0.0;
  for (const Contour& c : contours) twice += signed_area_twice(c);
  return 0.5 * twice;
}

// Of two discs of radii a and b, d apart: the area that both cover.
double lens_area(double a, double b, double d) {
  if (d >= a + b) return 0.0;
  if (d <= std::abs(a - b)) return pi * std::min(a * a, b * b);
  const double u = std::acos((d * d + a * a - b * b) / (2 * d * a));
  const double v = std::acos((d * d + b * b - a * a) / (2 * d * b));
  return a * a * u + b * b * v -
         0.5 * std::sqrt((-d + a + b) * (d + a - b) * (d - a + b) * (d + a + b));
}

TEST(Pupil, BarrelCutsTheLensShapeOfTwoCircles) {
  // A pupil of 12.5 mm radius; the rim moves by 40 mm times the tangent, less what is near.
  const VirtualCamera c = camera_of({.focal = 50_mm, .vignetting = {{18_mm, 40_mm}}});
  const Pupil pupil(c);
  for (const double tan : {0.1, 0.2, 0.4, 0.6}) {
    for (const double inverse_z : {0.0, 0.5, 2.0}) {
      const double k = 1.0 / ((1.0 - 0.04 * inverse_z) * 12.5);
      const double wanted = lens_area(1.0, 18.0 * k, 40.0 * tan * k);
      EXPECT_NEAR(area_of(pupil.contours({tan, 0.0, inverse_z}, 1e-5)), wanted, 1e-3)
          << tan << ", " << inverse_z;
      EXPECT_NEAR(pupil.open({0.0, tan, inverse_z}), wanted / pi, 1e-3);
    }
  }
  EXPECT_TRUE(pupil.contours({3.0, 0.0, 0.0}).empty()) << "nothing is seen from there";
  EXPECT_DOUBLE_EQ(pupil.light({}), 1.0);
}

TEST(Pupil, FrontAndRearRimsCutOppositeSides) {
  const auto centre_x = [](double ahead) {
    const Pupil pupil(camera_of({.focal = 50_mm, .vignetting = {{16_mm, Length::from_mm(ahead)}}}));
    double x = 0.0;
    const auto contours = pupil.contours({0.2, 0.0, 0.0});
    for (const Point2& p : contours.front())
      x += p.x / static_cast<double>(contours.front().size());
    return x;
  };
  EXPECT_LT(centre_x(40.0), -0.05);
  EXPECT_GT(centre_x(-40.0), 0.05);
}

// Whatever the outline and the rims: areas by contours and by points that pass agree.
RC_GTEST_PROP(PupilProperty, ContoursHoldWhatPasses, ()) {
  Lens lens{.focal = 50_mm};
  lens.iris.blades = *rc::gen::element(0, 3, 5, 8);
  lens.iris.obstruction = *rc::gen::element(0.0, 0.2);
  if (*rc::gen::inRange(0, 3) == 0) {
    lens.iris.blades = 0;  // an outline bent inward, seen whole from nowhere
    lens.iris.outline = {{0, 0}, {4, 0}, {4, 4}, {3, 1.2}, {1.5, 4}, {0, 4}};
    lens.iris.obstruction = 0.0;
  }
  lens.vignetting = {{Length::from_mm(0.1 * *rc::gen::inRange(140, 220)), 40_mm},
                     {Length::from_mm(0.1 * *rc::gen::inRange(140, 220)), Length::from_mm(-35.0)}};
  const Pupil pupil(camera_of(lens));
  const PupilPlace place{0.01 * *rc::gen::inRange(-60, 61), 0.01 * *rc::gen::inRange(-40, 41),
                         0.1 * *rc::gen::inRange(0, 10)};
  constexpr int n = 160;
  double passed = 0.0;
  double all = 0.0;
  for (int i = 0; i < n; ++i) {
    for (int j = 0; j < n; ++j) {
      const Point2 p = pupil.opening().sample((i + 0.5) / n, (j + 0.5) / n);
      if (pupil.opening().blocked(p)) continue;
      all += 1.0;
      bool open = true;
      for (const auto& rim : pupil.lens().rims) {
        const double k = 1.0 - rim.ahead * place.inverse_z;
        open =
            open && std::hypot(p.x * pupil.lens().radius * k + place.right * rim.ahead,
                               p.y * pupil.lens().radius * k + place.up * rim.ahead) <= rim.radius;
      }
      passed += open ? 1.0 : 0.0;
    }
  }
  RC_ASSERT(std::abs(pupil.open(place) - passed / all) < 0.012);
}

TEST(Pupil, RefusesABarrelThatCutsTheMiddle) {
  const VirtualCamera c = camera_of({.focal = 50_mm, .vignetting = {{5_mm, 40_mm}}});
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)Pupil(c); }), "picture's middle"));
}

// ---- the sampler --------------------------------------------------------------------------------

Lens faulty() {
  Lens lens{.focal = 50_mm, .widest = f_number(2.0)};
  lens.iris = {.blades = 7, .blade_radius = BladeRadius::multiple(1.6)};
  lens.aberrations.spherical = Length::from_mm(0.05);
  lens.aberrations.coma = Length::from_mm(0.04);
  lens.aberrations.height = 13_mm;
  lens.aberrations.curvature = Power::from_dioptres(0.05);
  lens.aberrations.focus_shift = {Power::from_dioptres(-0.02), {}, Power::from_dioptres(0.03)};
  lens.aberrations.magnification = {1.001, 1.0, 0.999};
  return lens;
}

// A ray that leaves for the scene, taken at any distance, lands where it came from.
TEST(LensSampler, RaysGoBothWays) {
  Lens lens = faulty();
  lens.aberrations.curvature = {};  // grows with the square of two heights that differ slightly
  lens.aberrations.coma = {};
  const LensSampler s = lens_sampler(camera_of(lens));
  std::mt19937 random(3);
  std::uniform_real_distribution<double> uniform(0.0, 1.0);
  for (int i = 0; i < 500; ++i) {
    const double right = 0.012 * (2.0 * uniform(random) - 1.0);
    const double up = 0.007 * (2.0 * uniform(random) - 1.0);
    const Point2 p = s.point(uniform(random), uniform(random));
    const auto colour = static_cast<std::size_t>(i % 3);
    const LensRay ray = s.ray_through(right, up, p, colour);
    const double z = 0.5 + 20.0 * uniform(random);
    const std::array<double, 3> at{ray.origin[0] + z * ray.direction[0],
                                   ray.origin[1] + z * ray.direction[1], -z};
    const auto back = s.land(at, p, colour);
    EXPECT_NEAR(back.at.x, right, 1e-9);
    EXPECT_NEAR(back.at.y, up, 1e-9);
  }
}

TEST(LensSampler, APerfectLensMeetsInTheFocusPlane) {
  const LensSampler s = lens_sampler(camera_of({.focal = 50_mm}));
  for (const double u : {0.1, 0.5, 0.9}) {
    const LensRay ray = s.ray(0.004, -0.003, u, 0.7);
    const double v = s.focal;
    EXPECT_NEAR(ray.origin[0] + 2.0 * ray.direction[0], 0.004 / v * 2.0, 1e-12);
    EXPECT_NEAR(ray.origin[1] + 2.0 * ray.direction[1], -0.003 / v * 2.0, 1e-12);
  }
}

TEST(LensSampler, WeightsAreOneInTheMiddleAndTheVignettingElsewhere) {
  Lens lens = faulty();
  lens.aberrations = {};
  lens.iris.edge_falloff = 1.5;
  lens.iris.dust = 30;
  lens.vignetting = {{16_mm, 40_mm}, {15_mm, Length::from_mm(-30.0)}};
  const VirtualCamera c = camera_of(lens);
  const Pupil pupil(c);
  const LensSampler& s = pupil.lens();
  const auto mean = [&](double right, double up) {
    constexpr int n = 300;
    double sum = 0.0;
    for (int i = 0; i < n; ++i) {
      for (int j = 0; j < n; ++j) {
        const auto w = s.ray(right, up, (i + 0.5) / n, (j + 0.5) / n).weight;
        sum += static_cast<double>(w[0] + w[1] + w[2]) / 3.0;
      }
    }
    return sum / (n * n);
  };
  EXPECT_NEAR(mean(0.0, 0.0), 1.0, 0.01);
  // Rays converge on what is in focus at 2 m.
  EXPECT_NEAR(mean(0.011, 0.006), pupil.light({0.011 / s.focal, 0.006 / s.focal, 0.5}), 0.01);
  EXPECT_LT(mean(0.011, 0.006), 0.8);
}

// The −2ρ/3 keeps the least blur (root mean square) in the focus plane.
TEST(LensSampler, SphericalAberrationIsLeastInFocus) {
  Lens lens{.focal = 50_mm, .widest = f_number(2.0)};
  lens.aberrations.spherical = Length::from_mm(0.1);
  const LensSampler s = lens_sampler(camera_of(lens));
  const auto spread = [&](double z) {
    double sum = 0.0;
    constexpr int n = 100;
    for (int i = 0; i < n; ++i) {
      for (int j = 0; j < n; ++j) {
        const Point2 at = s.land({0, 0, -z}, s.point((i + 0.5) / n, (j + 0.5) / n)).at;
        sum += at.x * at.x + at.y * at.y;
      }
    }
    return std::sqrt(sum / (n * n));
  };
  EXPECT_LT(spread(2.0), spread(1.99));
  EXPECT_LT(spread(2.0), spread(2.01));
  EXPECT_GT(spread(2.0), 1e-6);
}

TEST(LensSampler, FaultsShrinkAsTheLensIsStoppedDown) {
  const LensSampler open = lens_sampler(camera_of(faulty(), 2.0));
  const LensSampler closed = lens_sampler(camera_of(faulty(), 4.0));
  EXPECT_NEAR(open.spherical / closed.spherical, 8.0, 1e-9);
  EXPECT_NEAR(open.coma / closed.coma, 4.0, 1e-9);
  EXPECT_DOUBLE_EQ(open.curvature, closed.curvature);
  EXPECT_TRUE(
      holds(message_of<OpticsError>([] { (void)camera_of(faulty(), 1.4); }), "its widest is f/2"));
}

TEST(LensSampler, CurvatureFocusesCornersNearer) {
  const LensSampler s = lens_sampler(camera_of(faulty()));
  EXPECT_NEAR(s.power_at(0.013, 0.0, 1), 0.5 + 0.05, 1e-12);
  EXPECT_NEAR(s.power_at(0.0065, 0.0, 1), 0.5 + 0.0125, 1e-12);
}

// ---- the opening's other shapes -----------------------------------------------------------------

double polygon_area(const Contour& p) { return 0.5 * signed_area_twice(p); }

TEST(Opening, UnevenBladesKeepTheArea) {
  for (const double times : {0.0, 1.4, -6.0}) {
    Iris iris{.blades = 7, .uneven = 0.06, .seed = 4};
    if (times != 0.0) iris.blade_radius = BladeRadius::multiple(times);
    const Opening o(iris, 10_mm);
    EXPECT_NEAR(o.area(), pi, 1e-9) << times;
    EXPECT_NEAR(polygon_area(o.outline(1e-5)), pi, 1e-3) << times;
    iris.seed = 5;
    const Opening other(iris, 10_mm);
    EXPECT_GT(std::hypot(other.outline().front().x - o.outline().front().x,
                         other.outline().front().y - o.outline().front().y),
              1e-3)
        << "another seed is another iris";
  }
  EXPECT_THROW((void)Opening({.blades = 5, .uneven = 0.3}, 10_mm), OpticsError);
  EXPECT_THROW((void)Opening({.blades = 32, .uneven = 0.2}, 10_mm), OpticsError);
}

TEST(Opening, FreeOutlineIsCentredAndSizedByItsArea) {
  // An L of five unit squares, drawn clockwise far from the origin, in its own unit.
  const std::vector<Point2> l{{100, 203}, {101, 203}, {101, 201},
                              {103, 201}, {103, 200}, {100, 200}};
  const Opening o({.outline = l}, 10_mm);
  const Contour outline = o.outline();
  EXPECT_NEAR(polygon_area(outline), pi, 1e-12);
  double x = 0.0;
  double y = 0.0;
  for (int i = 0; i < 200; ++i) {
    for (int j = 0; j < 200; ++j) {
      const Point2 p = o.sample((i + 0.5) / 200, (j + 0.5) / 200);
      x += p.x / 40000.0;
      y += p.y / 40000.0;
    }
  }
  EXPECT_NEAR(x, 0.0, 2e-3);
  EXPECT_NEAR(y, 0.0, 2e-3);
  // The L's inner corner is (1, 1) of 5 squares with its centre at (1.1, 1.1); a square is π/5.
  const double side = std::sqrt(pi / 5.0);
  EXPECT_TRUE(std::any_of(outline.begin(), outline.end(), [&](Point2 p) {
    return std::abs(p.x + 0.1 * side) < 1e-9 && std::abs(p.y + 0.1 * side) < 1e-9;
  }));
}

TEST(Opening, RefusesOutlinesThatAreNone) {
  const auto rejected = [](const std::vector<Point2>& p) {
    return message_of<OpticsError>([&] { (void)Opening({.outline = p}, 10_mm); });
  };
  EXPECT_TRUE(holds(rejected({{0, 0}, {2, 2}, {2, 0}, {0, 2}}), "crosses or touches itself"));
  EXPECT_TRUE(holds(rejected({{0, 0}, {1, 1}}), "2 corners"));
  EXPECT_TRUE(holds(rejected({{0, 0}, {1, 1}, {2, 2}}), "line"));
  EXPECT_TRUE(holds(rejected({{1, 1}, {1, 1}, {1, 1}}), "1 corners"));
  EXPECT_TRUE(holds(rejected({{0, 0}, {NAN, 1}, {2, 2}}), "not finite"));
  EXPECT_TRUE(holds(
      message_of<OpticsError>([] {
        (void)Opening({.outline = {{0, 0}, {9, 0}, {9, 1}, {0, 1}}, .obstruction = 0.9}, 10_mm);
      }),
      "reaches beyond its outline"));
}

// Cells of a polar grid hold as many points as their share of the open area.
TEST(Opening, SamplesOfARingAreUniform) {
  for (const int blades : {0, 6}) {
    const Opening o({.blades = blades, .obstruction = 0.4}, 10_mm);
    constexpr int n = 1600;
    constexpr int bins = 8;
    std::array<double, bins> count{};
    for (int i = 0; i < n; ++i) {
      for (int j = 0; j < n; ++j) {
        const Point2 p = o.sample((i + 0.5) / n, (j + 0.5) / n);
        const double r = std::hypot(p.x, p.y);
        ASSERT_GE(r, 0.4 - 1e-9);
        // Rings of equal area from the hole to where the outline begins.
        const double inner = blades == 0 ? 1.0 : o.corner_radius() * std::cos(pi / blades);
        const double fraction = (r * r - 0.16) / (inner * inner - 0.16);
        if (fraction < 1.0) count[static_cast<std::size_t>(fraction * bins)] += 1.0;
      }
    }
    for (const double c : count) EXPECT_NEAR(c / count[0], 1.0, 0.02) << blades;
  }
}

TEST(OpeningLight, RimAndRingsChangeNoTotal) {
  const Opening o;
  const OpeningLightGrid g =
      opening_light({.edge_falloff = 2.0, .rings = 5, .ring_strength = 0.5}, o);
  double sum = 0.0;
  for (int i = 0; i < 300; ++i) {
    for (int j = 0; j < 300; ++j) {
      sum += static_cast<double>(g.at(o.sample((i + 0.5) / 300, (j + 0.5) / 300))[1]);
    }
  }
  EXPECT_NEAR(sum / 90000.0, 1.0, 1e-3);
  const OpeningLightGrid rim = opening_light({.edge_falloff = 2.0}, o);
  EXPECT_NEAR(std::log2(rim.at({0.99, 0})[0] / rim.at({0, 0})[0]), 2.0 * std::pow(0.99, 6), 0.05);
  EXPECT_EQ(opening_light({}, o).side, 0) << "an even opening needs no grid";
}

TEST(OpeningLight, PictureStandsUprightInTheSceneAndColours) {
  auto picture = std::make_shared<OpeningPicture>();
  picture->width = picture->height = 2;  // red above, green below left, dark below right
  picture->light = {{1, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 0}};
  Iris iris;
  iris.picture = picture;
  const OpeningLightGrid g = opening_light(iris, Opening());
  EXPECT_GT(g.at({-0.4, 0.4})[0], 1.0F);
  EXPECT_EQ(g.at({-0.4, 0.4})[1], 0.0F);
  EXPECT_GT(g.at({-0.4, -0.4})[1], 1.0F);
  EXPECT_EQ(g.at({0.4, -0.4})[1], 0.0F);
  auto black = std::make_shared<OpeningPicture>(*picture);
  black->light.assign(4, {0, 0, 0});
  iris.picture = black;
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)opening_light(iris, Opening()); }),
                    "no light passes"));
  black->light[2] = {0, -1, 0};
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)opening_light(iris, Opening()); }), "pixel 0, 1"));
}

TEST(Faults, DiscColoursKeepTheirLuminance) {
  const std::vector<ColourPlace> places{{5_mm, 0_mm, {1.0, 0.2, 0.2}, 3_mm}};
  const auto here = disc_colour({places, {}}, 5_mm, 0_mm);
  EXPECT_GT(here[0], 2.0 * here[1]);
  EXPECT_NEAR(0.2126 * here[0] + 0.7152 * here[1] + 0.0722 * here[2], 1.0, 1e-3);
  const auto far = disc_colour({places, {}}, Length::from_mm(-40.0), 0_mm);
  EXPECT_NEAR(far[0], far[1], 0.05);
  EXPECT_DOUBLE_EQ(colour_fraction(1.0), 0.0);
  EXPECT_DOUBLE_EQ(colour_fraction(-9.0), 1.0);
}

TEST(DiscTint, GrowsFromTheMiddleOrAlongADirection) {
  DiscTint tint{.colour = {1.0, 0.5, 0.2}, .reach = 10_mm, .power = 2.0, .least = 0.1, .most = 0.9};
  EXPECT_NEAR(tint_fraction(tint, 0_mm, 0_mm), 0.1, 1e-12);
  EXPECT_NEAR(tint_fraction(tint, 3_mm, 4_mm), 0.1 + 0.8 * 0.25, 1e-12);
  EXPECT_NEAR(tint_fraction(tint, 30_mm, 0_mm), 0.9, 1e-12);
  tint.towards = 90_deg;
  tint.power = 1.0;
  EXPECT_NEAR(tint_fraction(tint, 7_mm, Length::from_mm(-10.0)), 0.1, 1e-12);
  EXPECT_NEAR(tint_fraction(tint, 7_mm, 0_mm), 0.5, 1e-12);
  EXPECT_NEAR(tint_fraction(tint, 0_mm, 20_mm), 0.9, 1e-12);
  // Whatever the tint, a disc is as bright as before.
  const auto c = disc_colour({{}, tint}, 0_mm, 20_mm);
  EXPECT_NEAR(0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2], 1.0, 1e-3);
  EXPECT_GT(c[0], c[1]);
  EXPECT_GT(c[1], c[2]);
  tint.most = 0.0;
  tint.least = 0.0;
  for (const double v : disc_colour({{}, tint}, 3_mm, 1_mm)) EXPECT_NEAR(v, 1.0, 1e-12);
}
}  // namespace pupil_test
}  // namespace jolly_iris
