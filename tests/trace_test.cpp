#include "jolly_iris/trace/trace.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "jolly_iris/optics/distance.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/perspective.hpp"
#include "jolly_iris/optics/sample_count.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "made_scene.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace trace_test {

using testing::add_node;
using testing::holds;
using testing::message_of;

using std::numbers::pi;

VirtualCamera camera(Iris iris = {}, double n = 1.0) {
  const Body body{.gate = {24_mm, 24_mm}, .pixels = {128, 128}};
  return resolve(body, {.focal = 80_mm, .iris = iris}, {.stop = f_number(n)}, 2_m);
}

const Pose at_origin = Pose{};

Scene lamp_at(const Vec3f& place, double diameter_m = 0.001) {
  Scene scene;
  add_node(scene, {.kind = Primitive::Kind::points, .positions = {place}},
           {.emission = Vec3f::all(1000.0F), .point_diameter_m = diameter_m});
  return scene;
}

// A square facing the camera.
Primitive square(float half, float z, float x = 0.0F) {
  return {.positions = {{x - half, -half, z},
                        {x + half, -half, z},
                        {x + half, half, z},
                        {x - half, half, z}},
          .triangles = {{0, 1, 2}, {0, 2, 3}}};
}

double sum(const Picture& p) {
  double total = 0.0;
  for (const Rgba& v : p.pixels()) total += static_cast<double>(v[0]);
  return total;
}

double plateau(const Picture& p, int radius) {
  double total = 0.0;
  const int c = p.width() / 2;
  for (int y = c - radius; y < c + radius; ++y) {
    for (int x = c - radius; x < c + radius; ++x) total += static_cast<double>(p.at(x, y)[0]);
  }
  return total / (4.0 * radius * radius);
}

// The share of light above the lamp's own height: a triangle on its foot has more below.
double fraction_above(const Picture& p) {
  double above = 0.0;
  for (int y = 0; y < p.height() / 2; ++y) {
    for (int x = 0; x < p.width(); ++x) above += static_cast<double>(p.at(x, y)[0]);
  }
  return above / sum(p);
}

// Energy over plateau value is the disc's area: that of a circle of the predicted CoC, whatever the
// blades.
TEST(Trace, DiscsHaveTheAreaOfThePredictedCircle) {
  const Scene scene = lamp_at({0, 0, -4.0F});
  int legal = 0;
  for (int blades = 3; blades <= 12; blades += testing::cases(1, 4)) {
    for (const double times : {1.0, 1.5, 3.0, 0.0, -3.0}) {
      Iris iris{.blades = blades};
      if (times != 0.0) iris.blade_radius = BladeRadius::multiple(times);
      const VirtualCamera c = camera(iris);
      try {
        const Frame f = trace(scene, c, at_origin, {.samples = 64});
        const double diameter = to_pixels(circle_of_confusion(c, 4_m), c);
        const double area = sum(f.colour) / plateau(f.colour, static_cast<int>(diameter / 8));
        EXPECT_NEAR(area / (pi * diameter * diameter / 4.0), 1.0, 0.01)
            << blades << " blades, " << times;
        ++legal;
      } catch (const OpticsError&) {
        EXPECT_LT(times, 0.0) << "only inward blades can cross";
      }
    }
  }
  EXPECT_GE(legal, testing::cases(40 + 6, 12));
}

TEST(Trace, TriangleIsUprightBehindAndTurnedInFront) {
  const VirtualCamera c = camera({.blades = 3});
  EXPECT_LT(fraction_above(trace(lamp_at({0, 0, -4.0F}), c, at_origin, {}).colour), 0.47);
  EXPECT_GT(fraction_above(trace(lamp_at({0, 0, -1.4F}), c, at_origin, {}).colour), 0.53);
}

TEST(Trace, RotationIsCounterClockwise) {
  const Picture p =
      trace(lamp_at({0, 0, -4.0F}), camera({.blades = 3, .rotation = 20_deg}), at_origin, {})
          .colour;
  for (int y = 0; y < p.height(); ++y) {
    for (int x = 0; x < p.width(); ++x) {
      if (p.at(x, y)[0] <= 0.2F * p.at(64, 64)[0]) continue;
      EXPECT_LT(x, 62);  // the topmost light lies left of the middle
      return;
    }
  }
  FAIL() << "no light at all";
}

TEST(Trace, LampKeepsItsLightThroughTheLens) {
  const Scene scene = lamp_at({0.05F, 0.08F, -4.0F});
  const VirtualCamera c = camera();
  const double through_lens = sum(trace(scene, c, at_origin, {}).colour);
  const double pinhole = sum(trace(scene, c, at_origin, {.pinhole = true}).colour);
  EXPECT_NEAR(through_lens / pinhole, 1.0, 2e-3);
  // Radiance × projected area × (v/z)² in pixels of the gate, by hand.
  const double px = c.focal.mm() / c.gate.width.mm() * 128.0;
  EXPECT_NEAR(pinhole / (1000.0 * pi * 0.0005 * 0.0005 * px * px / 16.0), 1.0, 2e-3);
}

TEST(Trace, LampAndSmallSquareOfTheSameAreaGiveTheSameLight) {
  Scene scene;
  const float side = 0.001F * static_cast<float>(std::sqrt(pi / 4.0));
  add_node(scene, square(0.5F * side, -4.0F), {.base = Vec3f{}, .emission = Vec3f::all(1000.0F)});
  const VirtualCamera c = camera();
  EXPECT_NEAR(sum(trace(scene, c, at_origin, {}).colour) /
                  sum(trace(lamp_at({0, 0, -4.0F}), c, at_origin, {}).colour),
              1.0, 3e-3);
}

Scene wire(const Vec3f& from, const Vec3f& to, double width_m, float radiance = 10.0F) {
  Scene scene;
  add_node(scene, {.kind = Primitive::Kind::lines, .positions = {from, to}, .lines = {{0, 1}}},
           {.emission = Vec3f::all(radiance), .line_width_m = width_m});
  return scene;
}

// Radiance × the area of its picture in px: what a band that faces the camera brings.
TEST(Trace, AWireBringsTheLightOfItsArea) {
  const VirtualCamera c = camera();
  const double px_a_metre = c.focal.m() / 4.0 / c.pixel_pitch().m();  // at 4 m
  const double wanted = 10.0 * (0.002 * px_a_metre) * (0.6 * px_a_metre);
  const Scene scene = wire({-0.2F, -0.3F, -4.0F}, {-0.2F, 0.3F, -4.0F}, 0.002);
  const double sharp = sum(trace(scene, c, at_origin, {.samples = 64, .pinhole = true}).colour);
  EXPECT_NEAR(sharp, wanted, 0.01 * wanted);
  // Through the lens its discs are larger than its picture, and none of their light is lost.
  const double blurred = sum(trace(scene, c, at_origin, {.samples = 64}).colour);
  EXPECT_NEAR(blurred, wanted, 0.01 * wanted);
  // Seen along itself there is hardly anything of it.
  const Scene along = wire({0.0F, 0.0F, -4.0F}, {0.0F, 0.0F, -8.0F}, 0.002);
  EXPECT_LT(sum(trace(along, c, at_origin, {.samples = 16, .pinhole = true}).colour),
            0.02 * wanted);
}

TEST(Trace, AWireIsAStraightThinLineWithItsDepth) {
  const VirtualCamera c = camera();
  const Frame seen = trace(wire({-0.3F, 0.1F, -4.0F}, {0.3F, 0.1F, -4.0F}, 0.0005, 1000.0F), c,
                           at_origin, {.samples = 64, .pinhole = true});
  const double px_a_metre = c.focal.m() / 4.0 / c.pixel_pitch().m();
  const int row = static_cast<int>(64.0 - 0.1 * px_a_metre);
  int lit_rows = 0;
  for (int y = 0; y < 128; ++y) lit_rows += seen.colour.at(64, y)[0] > 0.0F ? 1 : 0;
  EXPECT_LE(lit_rows, 3);
  EXPECT_GT(
      seen.colour.at(64, row)[0] + seen.colour.at(64, row - 1)[0] + seen.colour.at(64, row + 1)[0],
      1.0F);
  // Even all along: no seams between its pieces.
  const auto at = [&](int x) {
    return seen.colour.at(x, row - 1)[0] + seen.colour.at(x, row)[0] +
           seen.colour.at(x, row + 1)[0];
  };
  for (int x = 50; x < 78; ++x) EXPECT_NEAR(at(x) / at(64), 1.0F, 0.1F) << x;
  EXPECT_NEAR(seen.depth[static_cast<std::size_t>(row) * 128 + 64], 4.0F, 0.01F);
}

TEST(Trace, SomethingInBetweenHidesALamp) {
  Scene scene = lamp_at({0, 0, -4.0F});
  add_node(scene, square(0.3F, -2.0F), {.base = Vec3f{}});
  EXPECT_EQ(sum(trace(scene, camera(), at_origin, {.samples = 4}).colour), 0.0);
  // Half the lens covered: half the light, and half a disc.
  Scene half = lamp_at({0, 0, -4.0F});
  add_node(half, square(0.5F, -1.0F, 0.5F), {.base = Vec3f{}});
  EXPECT_NEAR(sum(trace(half, camera(), at_origin, {}).colour) /
                  sum(trace(lamp_at({0, 0, -4.0F}), camera(), at_origin, {}).colour),
              0.5, 0.01);
}

TEST(Trace, PinholeDepthIsAxialEverywhere) {
  Scene scene;
  add_node(scene, square(5.0F, -3.0F), {});
  const Frame f = trace(scene, camera(), at_origin, {.samples = 1, .pinhole = true});
  for (const float z : f.depth) EXPECT_NEAR(z, 3.0F, 1e-5F);
  EXPECT_FALSE(trace(scene, camera(), at_origin, {.samples = 1}).has_depth());
}

TEST(Trace, NothingIsTransparentUnlessThereIsASky) {
  Scene scene;
  const Frame none = trace(scene, camera(), at_origin, {.samples = 1, .pinhole = true});
  EXPECT_EQ(none.colour.at(5, 5), (Rgba{0, 0, 0, 0}));
  EXPECT_TRUE(std::isinf(none.depth[0]));
  scene.sky = {0.1F, 0.2F, 0.3F};
  const Rgba sky = trace(scene, camera(), at_origin, {.samples = 1}).colour.at(64, 5);
  EXPECT_EQ(sky[3], 1.0F);
  EXPECT_NEAR(sky[2], 0.3F, 1e-5F);
}

// Lambert: a white wall under a light of E lx straight on shows E/π.
TEST(Trace, DiffuseWallShowsItsIlluminanceOverPi) {
  Scene scene;
  add_node(scene, square(5.0F, -3.0F), {});
  scene.lights.push_back({.kind = Light::Kind::directional, .intensity = Vec3f::all(2.0F)});
  Node sun;
  sun.light = 0;
  scene.nodes.push_back(sun);
  EXPECT_NEAR(trace(scene, camera(), at_origin, {.samples = 1}).colour.at(64, 64)[0], 2.0 / pi,
              1e-5);
  add_node(scene, square(0.4F, -1.0F, 5.0F), {});
  Affine& world = scene.nodes.back().world;
  world = world.moved(Vec3(-5.0, 0, 2.0));  // behind the camera: a shadow
  EXPECT_NEAR(
      trace(scene, camera(), at_origin, {.samples = 1, .pinhole = true}).colour.at(64, 64)[0], 0.0,
      1e-6);
}

// A spot straight on: I cos θ / (π d²) within its cone, nothing outside it.
TEST(Trace, SpotLightsItsConeAndNothingElse) {
  Scene scene;
  add_node(scene, square(5.0F, -3.0F), {});
  scene.lights.push_back({.kind = Light::Kind::spot,
                          .intensity = Vec3f::all(90.0F),
                          .inner_cone = 0.04,
                          .outer_cone = 0.08});
  Node node;
  node.light = 0;
  scene.nodes.push_back(node);
  const Picture p = trace(scene, camera(), at_origin, {.samples = 1, .pinhole = true}).colour;
  EXPECT_NEAR(p.at(64, 64)[0], 90.0 / 9.0 / pi, 1e-3);
  EXPECT_EQ(p.at(5, 64)[0], 0.0F);
  scene.lights[0].range_m = 2.0;
  EXPECT_EQ(trace(scene, camera(), at_origin, {.samples = 1, .pinhole = true}).colour.at(64, 64)[0],
            0.0F);
}

TEST(Trace, OneSeedIsOnePictureOnAnyNumberOfThreads) {
  Scene scene = lamp_at({0.02F, 0, -4.0F});
  add_node(scene, square(0.05F, -3.0F, 0.1F), {});
  scene.sky = {0.1F, 0.2F, 0.3F};
  const auto run = [&](std::uint32_t seed, int threads) {
    return trace(scene, camera(), at_origin,
                 {.samples = 8, .seed = seed, .execution = {.threads = threads}})
        .colour.pixels();
  };
  EXPECT_EQ(run(1, 1), run(1, 2));
  EXPECT_NE(run(1, 1), run(2, 1));
}

TEST(Trace, BoxIsThatPartOfTheWholePicture) {
  Scene scene = lamp_at({0.02F, 0, -4.0F});
  scene.sky = {0.1F, 0.2F, 0.3F};
  const Frame whole = trace(scene, camera(), at_origin, {.samples = 4});
  const Box box{40, 50, 30, 20};
  const Frame part = trace(scene, camera(), at_origin, {.samples = 4, .box = box});
  EXPECT_EQ(part.colour.pixels(), crop(whole, box).colour.pixels());
  EXPECT_TRUE(holds(message_of<UsageError>([&] {
                      (void)trace(scene, camera(), at_origin, {.box = Box{120, 0, 30, 20}});
                    }),
                    "128 x 128"));
  EXPECT_THROW((void)trace(scene, camera(), at_origin, {.samples = 0}), UsageError);
}

// Where the light of a picture is, and how far it is spread: twice √2 times the rms radius is the
// diameter of an even disc.
struct Spot {
  double x = 0.0;
  double y = 0.0;
  double width = 0.0;
  double height = 0.0;
};
Spot spot_in(const Picture& p) {
  double total = 0.0;
  Spot s;
  const auto each = [&](auto&& visit) {
    for (int y = 0; y < p.height(); ++y) {
      for (int x = 0; x < p.width(); ++x) {
        visit(x + 0.5, y + 0.5, static_cast<double>(p.at(x, y)[0]));
      }
    }
  };
  each([&](double x, double y, double v) {
    total += v;
    s.x += x * v;
    s.y += y * v;
  });
  s.x /= total;
  s.y /= total;
  each([&](double x, double y, double v) {
    s.width += (x - s.x) * (x - s.x) * v / total;
    s.height += (y - s.y) * (y - s.y) * v / total;
  });
  // An even disc has a variance of (d/4)² along each axis.
  s.width = 4.0 * std::sqrt(s.width);
  s.height = 4.0 * std::sqrt(s.height);
  return s;
}

// Somebody measured 4 m along the ray to a lamp 30° off the axis. Focusing a camera at 4 m would
// blur it; the axial 3.4641 m is right.
TEST(Trace, FocusIsAxialNotRadial) {
  const Length radial = 4_m;
  const Length axial = axial_from_radial(radial, 30_deg);
  EXPECT_NEAR(axial.m(), 3.4641, 5e-5);
  const Scene scene = lamp_at({2.0F, 0.0F, static_cast<float>(-axial.m())}, 0.0001);
  const Body body{.gate = {24_mm, 24_mm}, .pixels = {16384, 16384}};
  const auto diameter_px = [&](Length focus) {
    const VirtualCamera c = resolve(body, {.focal = 18_mm}, {.stop = f_number(1.0)}, focus);
    const auto at = pixel_of_direction(c, {2.0, 0.0, -axial.m()});
    TraceSettings settings;
    settings.samples = 64;
    settings.box = Box{static_cast<int>(at[0]) - 24, static_cast<int>(at[1]) - 24, 48, 48};
    const Spot s = spot_in(trace(scene, c, at_origin, settings).colour);
    EXPECT_NEAR(s.x, at[0] - settings.box->x, 0.3);
    return s.width;
  };
  const VirtualCamera wrong = resolve(body, {.focal = 18_mm}, {.stop = f_number(1.0)}, radial);
  const double predicted = -to_pixels(circle_of_confusion(wrong, axial), wrong);
  EXPECT_GT(predicted, 8.0);
  EXPECT_NEAR(diameter_px(radial), predicted, 0.4);
  EXPECT_LT(diameter_px(axial), 1.5);
}

TEST(Trace, ASqueezeOtherThanTheNominalShowsInDiscsAndCircles) {
  Lens lens{.focal = 80_mm, .squeeze = 2.0};
  lens.squeeze_now = 1.6;
  const Body body{.gate = {12_mm, 24_mm}, .pixels = {256, 256}};
  const VirtualCamera c = resolve(body, lens, {.stop = f_number(1.0)}, 2_m);
  TraceSettings settings;
  settings.samples = 32;
  const Spot s = spot_in(trace(lamp_at({0, 0, -3}, 0.0001), c, at_origin, settings).colour);
  EXPECT_NEAR(s.height, to_pixels(circle_of_confusion(c, 3_m), c), 0.02 * s.height);
  EXPECT_NEAR(s.height / s.width, 1.6 * 1.6 / 2.0, 0.02);
  // In focus, places lie S₀/S as far aside as they should: a circle comes out 1.25 times as wide.
  const Spot right = spot_in(trace(lamp_at({0.1F, 0, -2}, 0.0001), c, at_origin, settings).colour);
  const Spot up = spot_in(trace(lamp_at({0, 0.1F, -2}, 0.0001), c, at_origin, settings).colour);
  EXPECT_NEAR((right.x - 128.0) / (128.0 - up.y), 2.0 / 1.6, 0.02);
}

TEST(Trace, AShiftMovesThePictureAndNotTheBlur) {
  Lens lens{.focal = 80_mm, .shift_right = 3_mm, .shift_up = 6_mm};
  const Body body{.gate = {24_mm, 24_mm}, .pixels = {128, 128}};
  const VirtualCamera c = resolve(body, lens, {.stop = f_number(1.0)}, 2_m);
  TraceSettings settings;
  settings.samples = 32;
  const Spot s = spot_in(trace(lamp_at({0, 0, -3}), c, at_origin, settings).colour);
  EXPECT_NEAR(s.x, 64.0 - 16.0, 0.1);
  EXPECT_NEAR(s.y, 64.0 + 32.0, 0.1);
  EXPECT_NEAR(s.width, to_pixels(circle_of_confusion(c, 3_m), c), 0.5);
}

// ---- a level camera with its lens shifted
// --------------------------------------------------------

// A dark wall square to the view's heading, 10 m away, with upright bright strips from y = 0 to 9.
Scene striped_wall(const std::vector<float>& at) {
  Scene scene;
  for (const float x : at) {
    add_node(scene,
             {.positions = {{x - 0.06F, 0, -10},
                            {x + 0.06F, 0, -10},
                            {x + 0.06F, 9, -10},
                            {x - 0.06F, 9, -10}},
              .triangles = {{0, 1, 2}, {0, 2, 3}}},
             {.base = Vec3f{}, .emission = Vec3f::all(1.0F)});
  }
  return scene;
}

struct Strip {
  double lean_deg = 0.0;
  std::array<double, 2> foot{};
};

// The strip nearest to a column: how it leans, by the middles of its rows, and where it begins.
Strip strip_near(const Picture& p, double column) {
  Strip strip;
  std::vector<std::array<double, 2>> middles;
  double at = column;
  double lit = 0.0;  // rows of the foot's last 40, as parts of full ones
  for (int y = p.height() - 1; y >= 0; --y) {
    double weight = 0.0;
    double sum = 0.0;
    for (int x = std::max(0, static_cast<int>(at) - 24);
         x < std::min(p.width(), static_cast<int>(at) + 25); ++x) {
      const double v = static_cast<double>(p.at(x, y)[0]);
      weight += v;
      sum += v * (x + 0.5);
    }
    if (weight < 1.0) continue;
    at = sum / weight;
    if (middles.empty() || middles.size() < 12) lit = std::max(lit, weight);
    middles.push_back({at, y + 0.5});
  }
  const std::size_t ends = 3;  // rows that are partly covered
  double n = 0, sy = 0, sx = 0, syy = 0, sxy = 0;
  for (std::size_t i = ends; i + ends < middles.size(); ++i) {
    const auto& [x, y] = middles[i];
    n += 1;
    sy += y;
    sx += x;
    syy += y * y;
    sxy += x * y;
  }
  const double slope = (n * sxy - sx * sy) / (n * syy - sy * sy);
  strip.lean_deg = std::atan(slope) * 180.0 / pi;
  // The foot's row: where the strip, as bright as above, would have to end.
  double below = 0.0;
  const auto column_at = [&](double y) { return (sx - slope * sy) / n + slope * y; };
  const double first = middles[8][1];
  for (int y = static_cast<int>(first); y < p.height(); ++y) {
    double weight = 0.0;
    for (int x = std::max(0, static_cast<int>(column_at(y)) - 24);
         x < std::min(p.width(), static_cast<int>(column_at(y)) + 25); ++x) {
      weight += static_cast<double>(p.at(x, y)[0]);
    }
    below += weight / lit;
  }
  strip.foot = {column_at(first + below), static_cast<int>(first) + below};
  return strip;
}

TEST(Level, TracedVerticalsAreParallelAndTheWallsFootIsFramedTheSame) {
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {1280, 720}};
  const VirtualCamera pitched = resolve(body, {.focal = 15_mm}, {.stop = f_number(8.0)}, 10_m);
  const Lean lean{12_deg, 0_deg};
  Pose stand = Pose{};
  stand.translation.y = 1.5;
  const Pose level_stand = stand;
  stand = stand.turned(Quaternion::about(Vec3::unit_x(), lean.tilt.radians()));

  // The foot of the wall, in the middle, is kept.
  const Vec3 foot = stand.inverse() * Vec3(0.0, 0.0, -10.0);
  const auto kept = pixel_of_direction(pitched, {foot.x, foot.y, foot.z});
  const LevelCamera level = level_camera(pitched, lean, kept);

  const std::vector<float> strips{-3.6F, -1.8F, 0.0F, 1.8F, 3.6F};
  const Scene wall = striped_wall(strips);
  TraceSettings settings;
  settings.pinhole = true;
  settings.samples = 16;
  const Frame before = trace(wall, pitched, stand, settings);
  const Frame after = trace(wall, level.camera, level_stand, settings);
  double max_before = 0.0;
  for (const float x : strips) {
    const Vec3 p = stand.inverse() * Vec3(static_cast<double>(x), 0.0, -10.0);
    const double column = pixel_of_direction(pitched, {p.x, p.y, p.z})[0];
    const Strip leaning_strip = strip_near(before.colour, column);
    const Strip upright = strip_near(after.colour, column);
    EXPECT_LT(std::abs(upright.lean_deg), 0.02) << x;
    EXPECT_NEAR(upright.foot[0], leaning_strip.foot[0], 1.0) << x;
    EXPECT_NEAR(upright.foot[1], leaning_strip.foot[1], 1.0) << x;
    max_before = std::max(max_before, std::abs(leaning_strip.lean_deg));
  }
  EXPECT_GT(max_before, 3.0) << "they did converge before";
}

TEST(Survey, TellsDepthAndNameOfWhatAPinholeSees) {
  Scene scene;
  const auto card = add_node(scene, square(0.1F, -2.0F), {});
  scene.nodes[card].name = "card";
  const auto part = add_node(scene, square(4.0F, -5.0F), {});  // has no name; its parent has
  Node wall;
  wall.name = "wall";
  scene.nodes.insert(scene.nodes.begin(), wall);
  scene.nodes[part + 1].parent = 0;
  const VirtualCamera c = camera();
  const Survey found = survey(scene, c, at_origin, {16, 16});
  const auto at = [&](int x, int y) { return static_cast<std::size_t>(16 * y + x); };
  EXPECT_NEAR(found.depth[at(8, 8)], 2.0, 1e-5);
  EXPECT_EQ(found.names[static_cast<std::size_t>(found.thing[at(8, 8)])], "card");
  EXPECT_NEAR(found.depth[at(0, 0)], 5.0, 1e-5);
  EXPECT_EQ(found.names[static_cast<std::size_t>(found.thing[at(0, 0)])], "wall");
  EXPECT_TRUE(holds(message_of<UsageError>([&] {
                      (void)survey(scene, c, at_origin, {0, 4});
                    }),
                    "0 x 4"));
}

// Rays that the barrel stops say nothing of what is there: alpha is that of the others.
TEST(Trace, TheBarrelDarkensAndLeavesAlphaAlone) {
  const Body body{.gate = {24_mm, 24_mm}, .pixels = {64, 64}};
  const VirtualCamera c = resolve(body, {.focal = 80_mm, .vignetting = {{42_mm, 220_mm}}},
                                  {.stop = f_number(1.0)}, 2_m);
  Scene scene;
  add_node(scene, square(0.6F, -2.0F, 0.6F), {.emission = Vec3f::all(1.0F)});
  const Frame f = trace(scene, c, at_origin, {.samples = 64});
  EXPECT_NEAR(f.colour.at(62, 32)[3], 1.0F, 1e-4F);
  EXPECT_LT(f.colour.at(62, 32)[0], 0.95F);
  EXPECT_NEAR(f.colour.at(2, 32)[3], 0.0F, 1e-4F) << "nothing is there";
}

// Rays by noise: a pixel of a blurred bright square varies as predicted, and less with strata.
TEST(Trace, NoiseOfABlurredHighlightIsThePredictedOne) {
  const VirtualCamera c = camera({}, 0.5);
  Scene scene;
  add_node(scene, square(0.06F, -6.0F), {.emission = Vec3f::all(50.0F)});
  add_node(scene, square(20.0F, -6.01F), {.emission = Vec3f::all(1.0F)});
  const double side = 0.12 / 6.0 * c.focal.mm() / 24.0 * 128.0;
  ASSERT_GT(side, 8.0) << "smaller ones are not waited for";
  NoiseQuestion q;
  q.coc_px = to_pixels(circle_of_confusion(c, 6_m), c);
  ASSERT_GT(q.coc_px, 1.5 * side);
  q.highlight_px = side * std::sqrt(4.0 / pi);
  q.contrast = 50.0;
  const auto measured = [&](bool plain_random) {
    double sum = 0.0;
    double squares = 0.0;
    constexpr int seeds = 60;
    constexpr int across = 4;
    for (int seed = 1; seed <= seeds; ++seed) {
      const Frame f = trace(scene, c, at_origin,
                            {.samples = 64,
                             .seed = static_cast<std::uint32_t>(seed),
                             .plain_random = plain_random,
                             .box = Box{62, 62, across, across}});
      for (const Rgba& p : f.colour.pixels()) {
        sum += static_cast<double>(p[0]);
        squares += static_cast<double>(p[0] * p[0]);
      }
    }
    const double n = seeds * across * across;
    const double mean = sum / n;
    return std::sqrt(squares / n - mean * mean) / mean;
  };
  const double predicted = noise_of(q, 64.0);
  EXPECT_NEAR(measured(true) / predicted, 1.0, 0.12);
  EXPECT_LT(measured(false), predicted);
  q.noise = predicted;
  EXPECT_EQ(samples_needed(q), 64);
}

// The camera sees one node, or all but one; its shadow stays.
TEST(Trace, NodesCanBeLeftOutOfSight) {
  Scene scene;
  const std::size_t front = add_node(scene, square(0.05F, -1.0F), {.emission = Vec3f::all(2.0F)});
  const std::size_t back = add_node(scene, square(5.0F, -4.0F), {.emission = Vec3f::all(1.0F)});
  scene.nodes[front].name = "front";
  scene.nodes[back].name = "back";
  const auto middle = [&](TraceSettings settings) {
    settings.pinhole = true;
    settings.samples = 4;
    const Frame f = trace(scene, camera(), at_origin, settings);
    return std::pair{f.colour.at(64, 64), f.depth[64 * 128 + 64]};
  };
  EXPECT_FLOAT_EQ(middle({}).first[0], 2.0F);
  EXPECT_FLOAT_EQ(middle({.without = {"front"}}).first[0], 1.0F);
  EXPECT_FLOAT_EQ(middle({.without = {"front"}}).second, 4.0F);
  EXPECT_FLOAT_EQ(middle({.just = {"front"}}).first[0], 2.0F);
  const Frame alone =
      trace(scene, camera(), at_origin, {.samples = 4, .pinhole = true, .just = {"front"}});
  EXPECT_FLOAT_EQ(alone.colour.at(2, 2)[3], 0.0F) << "what is not seen is no sky either";
  EXPECT_TRUE(holds(message_of<UsageError>([&] { (void)middle({.just = {"frnt"}}); }),
                    "Did you mean 'front'?"));
}

// Points that do not glow are discs of their own colour and hide what is behind them.
TEST(Trace, PointsAreOpaqueDiscsOfTheirSizeAndColour) {
  Scene scene;
  add_node(scene,
           {.kind = Primitive::Kind::points,
            .positions = {{0, 0, -2}},
            .colours = {{0.5F, 0.25F, 0.125F}}},
           {.point_diameter_m = 0.2});
  add_node(scene, square(5.0F, -4.0F), {.emission = Vec3f::all(1.0F)});
  const Frame f =
      trace(scene, camera(), at_origin, {.samples = 64, .pinhole = true, .without = {}});
  EXPECT_FLOAT_EQ(f.colour.at(64, 64)[0], 0.5F);
  EXPECT_FLOAT_EQ(f.colour.at(64, 64)[2], 0.125F);
  EXPECT_NEAR(f.depth[64 * 128 + 64], 2.0F, 1e-4F);
  EXPECT_FLOAT_EQ(f.depth[0], 4.0F);
  double covered = 0.0;
  for (const Rgba& p : f.colour.pixels()) covered += (1.0 - static_cast<double>(p[0])) / 0.5;
  const VirtualCamera c = camera();
  const double across = 0.2 / 2.0 * c.focal.mm() / 24.0 * 128.0;  // px
  EXPECT_NEAR(covered / (pi / 4.0 * across * across), 1.0, 0.01);
  // In focus the lens shows the same.
  const Frame lens = trace(scene, camera(), at_origin, {.samples = 64});
  EXPECT_FLOAT_EQ(lens.colour.at(64, 64)[1], 0.25F);
}

TEST(Trace, PointsWithNormalsAreLitLikeWalls) {
  Scene scene;
  Primitive points{.kind = Primitive::Kind::points};
  for (int y = -20; y <= 20; ++y) {
    for (int x = -20; x <= 20; ++x) {
      points.positions.emplace_back(0.01F * static_cast<float>(x), 0.01F * static_cast<float>(y),
                                    -2.0F);
      points.normals.emplace_back(0.0F, 0.0F, 1.0F);
    }
  }
  add_node(scene, points, {.base = Vec3f::all(0.6F), .point_diameter_m = 0.02});
  Node sun;
  sun.light = 0;
  scene.lights.push_back({.kind = Light::Kind::directional, .intensity = Vec3f::all(10.0F)});
  scene.nodes.push_back(sun);
  const Frame f = trace(scene, camera(), at_origin, {.samples = 16, .pinhole = true});
  EXPECT_NEAR(f.colour.at(64, 64)[0], 0.6 * 10.0 / pi, 1e-3);
}

Scene cloud_of(std::size_t count, bool lamps) {
  Scene scene;
  Primitive points{.kind = Primitive::Kind::points};
  std::uint32_t state = 5;
  const auto roll = [&] {
    state = state * 1664525U + 1013904223U;
    return static_cast<float>(state >> 8) * 0x1p-24F - 0.5F;
  };
  for (std::size_t i = 0; i < count; ++i) {
    const float x = roll();
    points.positions.emplace_back(0.5F * x, 0.5F * roll(), -2.6F - 0.2F * roll());
  }
  const Vec3f glow = Vec3f::all(lamps ? 40.0F : 0.0F);
  add_node(scene, points, {.base = Vec3f::all(0.5F), .emission = glow, .point_diameter_m = 0.002});
  return scene;
}

// A draft of a twentieth of the points looks much the same from afar.
TEST(Trace, ADraftOfACloudBringsAsMuchLight) {
  for (const bool lamps : {false, true}) {
    const Scene scene = cloud_of(lamps ? 4000 : 40000, lamps);
    const double all = sum(trace(scene, camera(), at_origin, {.samples = 16}).colour);
    const double draft =
        sum(trace(scene, camera(), at_origin, {.samples = 16, .density = 0.05}).colour);
    EXPECT_GT(all, 0.0);
    EXPECT_NEAR(draft / all, 1.0, 0.08) << (lamps ? "lamps" : "surfaces");
  }
}

TEST(Trace, ADraftLeavesAFewLampsAlone) {
  const Scene scene = cloud_of(20, true);
  const Frame all = trace(scene, camera(), at_origin, {.samples = 4});
  const Frame draft = trace(scene, camera(), at_origin, {.samples = 4, .density = 0.01});
  EXPECT_EQ(all.colour.pixels(), draft.colour.pixels());
}

// Rays of lamps that lie on each other many times are shared out; their light is not.
TEST(Trace, ACrowdOfLampsBringsTheLightOfEach) {
  const VirtualCamera width = camera({}, 0.7);
  const TraceSettings few{.samples = 4, .size = PixelSize{32, 32}};
  const double one = sum(trace(cloud_of(400, true), width, at_origin, few).colour) / 400.0;
  const double many = sum(trace(cloud_of(12000, true), width, at_origin, few).colour) / 12000.0;
  EXPECT_GT(one, 0.0);
  EXPECT_NEAR(many / one, 1.0, 0.03);
}

TEST(Trace, ADensityIsAShare) {
  for (const double density : {0.0, -1.0, 1.5, std::nan("")}) {
    EXPECT_THROW(
        (void)trace(cloud_of(5, true), camera(), at_origin, {.samples = 1, .density = density}),
        UsageError);
  }
}

}  // namespace trace_test
}  // namespace jolly_iris
