// Defocus against the traced truth on the demo's hero shot, at a size that tests can afford.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "jolly_iris/jolly_iris.hpp"
#include "made_scene.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace truth_test {

using testing::add_node;
using testing::demo;

// How near the boat comes to the taking camera, which stands at z = 0.
float nearest_of_boat(const Scene& scene) {
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    if (scene.nodes[i].name == "boat") return static_cast<float>(-bounds_of(scene, i).max.z);
  }
  return 0.0F;
}

struct Truths {
  double defocused = 0.0;
  double noise = 0.0;
  double nothing = 0.0;
};

Truths truths_of(const LoadedShot& loaded, int samples) {
  const Scene& scene = loaded.scene.value();
  const Answer& a = loaded.answer;
  TraceSettings settings{.samples = samples, .size = PixelSize{240, 135}};
  const Frame truth = trace(scene, a.camera, a.place, settings);
  settings.seed = 2;
  const Frame other = trace(scene, a.camera, a.place, settings);
  settings.pinhole = true;
  const Frame sharp = trace(scene, a.camera, a.place, settings);
  return {psnr(defocus(sharp, a.camera), truth.colour), psnr(other.colour, truth.colour),
          psnr(sharp.colour, truth.colour)};
}

TEST(Truth, DefocusComesNearTheTracedHero) {
  const LoadedShot loaded = load_shot(demo("hero.shot.toml"));
  const Truths t = truths_of(loaded, 128);
  EXPECT_GE(t.defocused, 34.0);
  EXPECT_GE(t.noise, 34.0 + 10.0) << "the truth is too noisy to be one";
  EXPECT_LT(t.nothing, 30.0) << "the bound would be met by doing nothing";
}

TEST(Truth, DepthBeginsWithTheBoat) {
  const LoadedShot loaded = load_shot(demo("hero.shot.toml"));
  const Frame sharp = trace(loaded.scene.value(), loaded.answer.camera, loaded.answer.place,
                            {.samples = 4, .pinhole = true, .size = PixelSize{240, 135}});
  EXPECT_GE(*std::min_element(sharp.depth.begin(), sharp.depth.end()),
            nearest_of_boat(loaded.scene.value()));
}

TEST(Truth, DefocusComesNearTheTracedOval) {
  const Truths t = truths_of(load_shot(demo("oval.shot.toml")), 128);
  EXPECT_GE(t.defocused, 36.0);
  EXPECT_GE(t.noise, 36.0 + 10.0);
  EXPECT_LT(t.nothing, 30.0);
}

// Lamps that the reeds hide are in no pixel of one layer; a second one has them.
// A card's corner in or near the focus, a lamp of any size beside it behind, a wall behind both.
struct CornerAndLamp {
  Scene scene{};
  VirtualCamera camera{};
};

CornerAndLamp corner_and_lamp(std::uint32_t seed, int px) {
  std::mt19937 random(seed * 77U + 1U);
  const auto uniform = [&](double low, double high) {
    return low + (high - low) * (static_cast<double>(random()) / 4294967296.0);
  };
  CornerAndLamp out;
  out.camera = resolve({.gate = {24_mm, 24_mm}, .pixels = {px, px}}, {.focal = 80_mm},
                       {.stop = f_number(2.0)}, 2_m);
  const double wall = uniform(3.0, 6.0);
  const double lamp = uniform(2.6, 0.95 * wall);
  const double card = std::min(uniform(1.5, 2.4), 0.9 * lamp);
  const double a_px = 0.024 / px / out.camera.focal.m();  // of a metre, a metre away
  const auto rectangle = [](double x0, double y0, double x1, double y1, double z) {
    const auto at = [z](double x, double y) {
      return Vec3f{static_cast<float>(x), static_cast<float>(y), static_cast<float>(-z)};
    };
    return Primitive{.positions = {at(x0, y0), at(x1, y0), at(x1, y1), at(x0, y1)},
                     .triangles = {{0, 1, 2}, {0, 2, 3}}};
  };
  add_node(out.scene, rectangle(-5, -5, 5, 5, wall), {.emission = Vec3f{0.05F, 0.06F, 0.08F}});
  const double corner_x = uniform(-6.0, 6.0);
  const double corner_y = uniform(-6.0, 6.0);
  add_node(out.scene,
           rectangle(-60 * card * a_px, -60 * card * a_px, corner_x * card * a_px,
                     corner_y * card * a_px, card),
           {.emission = Vec3f{0.3F, 0.15F, 0.05F}});
  const double own = uniform(0.3, 8.0);
  const double gap = uniform(0.0, 2.0);
  const double beside = uniform(-2.0, 6.0);
  const int where = static_cast<int>(random() % 3U);
  const double reach = 0.5 * own + gap;
  const double x = where == 0   ? corner_x + reach
                   : where == 1 ? corner_x - beside
                                : corner_x + 0.71 * reach;
  const double y = where == 0   ? corner_y - beside
                   : where == 1 ? corner_y + reach
                                : corner_y + 0.71 * reach;
  const double disc =
      std::abs(to_pixels(circle_of_confusion(out.camera, Length::from_m(lamp)), out.camera));
  const auto level =
      static_cast<float>(uniform(0.5, 1.5) * (disc * disc / std::max(1.0, own * own) + 1.0));
  add_node(out.scene,
           {.kind = Primitive::Kind::points,
            .positions = {{static_cast<float>(x * lamp * a_px), static_cast<float>(y * lamp * a_px),
                           static_cast<float>(-lamp)}}},
           {.emission = Vec3f{level, 0.8F * level, 0.6F * level},
            .point_diameter_m = own * lamp * a_px});
  return out;
}

// No pixel stays sharp where the lens blurs it: a dark notch in a lamp's disc beside the corner is
// off by most of the disc's light.
TEST(Truth, NoNotchStaysWhereALampsDiscMeetsANearerCorner) {
  constexpr int px = 96;
  int off = 0;
  double sum_db = 0.0;
  const int cases = testing::cases(24, 3);
  for (int seed = 0; seed < cases; ++seed) {
    const CornerAndLamp c = corner_and_lamp(static_cast<std::uint32_t>(seed), px);
    TraceSettings settings{.samples = testing::cases(128, 64), .size = PixelSize{px, px}};
    const Frame truth = trace(c.scene, c.camera, Pose{}, settings);
    settings.pinhole = true;
    settings.samples = 64;
    const Picture made = defocus(trace(c.scene, c.camera, Pose{}, settings), c.camera);
    float worst = 0.0F;
    const auto shown = [](float v) { return encode(std::clamp(v, 0.0F, 1.0F), Transfer::srgb); };
    for (int y = 1; y < px - 1; ++y) {
      for (int x = 1; x < px - 1; ++x) {
        worst =
            std::max(worst, std::abs(shown(made.at(x, y)[1]) - shown(truth.colour.at(x, y)[1])));
      }
    }
    // What the card hides of lamp and wall is not known; it brightens or darkens what it borders.
    EXPECT_LT(worst, 0.4F) << seed;
    off += worst > 0.3F ? 1 : 0;
    sum_db += psnr(made, truth.colour);
  }
  EXPECT_LE(off, cases / 30 + 1);
  EXPECT_GE(sum_db / cases, testing::cases(52, 48));
}

TEST(Truth, ReedsNeedASecondLayer) {
  const LoadedShot loaded = load_shot(demo("reeds.shot.toml"));
  const Scene& scene = loaded.scene.value();
  const Answer& a = loaded.answer;
  const Truths one = truths_of(loaded, 64);
  EXPECT_GE(one.defocused, 29.5);
  TraceSettings settings{.samples = 64, .size = PixelSize{240, 135}};
  const Frame truth = trace(scene, a.camera, a.place, settings);
  settings.seed = 3;
  settings.pinhole = true;
  settings.just = {"reeds"};
  const Frame front = trace(scene, a.camera, a.place, settings);
  settings.just.clear();
  settings.without = {"reeds"};
  const Frame back = trace(scene, a.camera, a.place, settings);
  const double two = psnr(defocus_layers({{front}, {back}}, a.camera), truth.colour);
  EXPECT_GE(two, 34.0);
  EXPECT_GE(one.noise, 34.0 + 8.0);
}

}  // namespace truth_test
}  // namespace jolly_iris
