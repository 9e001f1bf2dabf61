// Defocus against the traced truth on the demo's hero shot, at a size that tests can afford.
#include <gtest/gtest.h>

#include <algorithm>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace truth_test {

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
