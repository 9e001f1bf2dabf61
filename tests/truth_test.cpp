// Defocus against the traced truth on the demo's hero shot, at a size that tests can afford.
#include <gtest/gtest.h>

#include <algorithm>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace {

using testing::demo;

// How near the boat comes to the taking camera, which stands at z = 0.
float nearest_of_boat(const Scene& scene) {
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    if (scene.nodes[i].name == "boat") return static_cast<float>(-bounds_of(scene, i).max().z());
  }
  return 0.0F;
}

TEST(Truth, DefocusComesNearTheTracedHero) {
  const LoadedShot loaded = load_shot(demo("hero.shot.toml"));
  const Scene& scene = loaded.scene.value();
  const Answer& a = loaded.answer;
  TraceSettings settings{.samples = 128, .size = PixelSize{240, 135}};
  const Frame truth = trace(scene, a.camera, a.place, settings);
  settings.seed = 2;
  const Frame other = trace(scene, a.camera, a.place, settings);
  settings.pinhole = true;
  const Frame sharp = trace(scene, a.camera, a.place, settings);
  EXPECT_GE(*std::min_element(sharp.depth.begin(), sharp.depth.end()), nearest_of_boat(scene));
  const double defocused = psnr(defocus(sharp, a.camera), truth.colour);
  const double noise = psnr(other.colour, truth.colour);
  const double nothing = psnr(sharp.colour, truth.colour);
  RecordProperty("defocus_db", std::to_string(defocused));
  RecordProperty("noise_db", std::to_string(noise));
  EXPECT_GE(defocused, 34.0);
  EXPECT_GE(noise, 34.0 + 10.0) << "the truth is too noisy to be one";
  EXPECT_LT(nothing, 30.0) << "the bound would be met by doing nothing";
}

}  // namespace
}  // namespace jolly_iris
