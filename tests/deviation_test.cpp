#include "jolly_iris/scene/deviation.hpp"

#include <gtest/gtest.h>

#include "jolly_iris/files/handoff.hpp"
#include "jolly_iris/files/load.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace deviation_test {

using testing::demo;
using testing::holds;
using testing::TempFolder;

LoadedShot hero() { return load_shot(demo("hero.shot.toml")); }

// What is said of the hero camera with one thing changed.
std::string message(const std::function<void(PlacedCamera&, const LoadedShot&)>& change) {
  const LoadedShot l = hero();
  PlacedCamera found{as_cg_camera(l.answer.camera), l.answer.place};
  change(found, l);
  std::string all;
  for (const Deviation& d : deviations(found, l.now, l.answer)) {
    all += d.message + " | " + d.reason + "\n";
  }
  return all;
}

TEST(Deviation, NoneForTheCameraItself) {
  EXPECT_EQ(message([](PlacedCamera&, const LoadedShot&) {}), "");
}

TEST(Deviation, OpeningIsSaidAgainstTheStop) {
  const std::string text = message([](PlacedCamera& c, const LoadedShot&) {
    c.camera.aperture_radius = *c.camera.aperture_radius * 3.4;
  });
  EXPECT_TRUE(holds(text, "opening 3.4 x too wide for f/2.2: like f/0.647 on the lens"));
}

TEST(Deviation, NamesTheLikelyMistake) {
  using C = PlacedCamera;
  using L = LoadedShot;
  EXPECT_TRUE(holds(
      message([](C& c, const L&) { c.camera.aperture_radius = *c.camera.aperture_radius * 2.0; }),
      "the diameter where the radius belongs"));
  EXPECT_TRUE(holds(
      message([](C& c, const L&) { c.camera.aperture_radius = *c.camera.aperture_radius / 100.0; }),
      "in another unit: 100 x too little"));
  EXPECT_TRUE(
      holds(message([](C& c, const L&) { c.camera.focal = 53_mm; }), "without the adapter"));
  EXPECT_TRUE(holds(message([](C& c, const L& l) { c.camera.focal = l.answer.camera.lens_focal; }),
                    "the breathing at this focus is missing"));
  EXPECT_TRUE(holds(message([](C& c, const L&) { c.camera.focus = 2.39_m; }), "4 cm behind boat"));
  EXPECT_TRUE(holds(message([](C& c, const L&) { c.camera.focus = 2.4_m; }), "mark"));
  EXPECT_TRUE(holds(message([](C& c, const L&) { c.camera.focus = 235_m; }), "another unit"));
  EXPECT_TRUE(holds(message([](C& c, const L&) { c.camera.focus = Length::infinity(); }),
                    "focus at infinity"));
  EXPECT_TRUE(holds(message([](C& c, const L&) { c.camera.blades = 6; }), "6 blades instead of 7"));
  EXPECT_TRUE(
      holds(message([](C& c, const L&) { c.camera.width_to_height = 0.5; }), "0.5 times as wide"));
  EXPECT_TRUE(holds(message([](C& c, const L&) { c.camera.shift_up = 2_mm; }), "+2 mm up"));
  EXPECT_TRUE(holds(message([](C& c, const L& l) {
                      c.place = c.place->moved(Vec3(0, 0, l.answer.camera.pupil_to_sensor.m()));
                    }),
                    "that is the sensor plane"));
  EXPECT_TRUE(holds(message([](C& c, const L&) {
                      c.place = c.place->turned(Quaternion::about(Vec3::unit_y(), 0.01));
                    }),
                    "0.57 deg elsewhere"));
}

TEST(Deviation, AHandedOverGltfEqualsTheShot) {
  const TempFolder folder;
  const LoadedShot l = hero();
  const Scene back = read_scene(folder.write("c.gltf", camera_gltf({l.answer}, "c")));
  const PlacedCamera found = camera_in(back, std::nullopt, l.answer.camera.picture);
  EXPECT_TRUE(found.camera.focus && found.camera.aperture_radius);
  for (const Deviation& d : deviations(found, l.now, l.answer)) ADD_FAILURE() << d.message;
}

TEST(RealLens, IsTheLensTheCameraWasMadeFrom) {
  const LoadedShot l = hero();
  const CgCamera cg = as_cg_camera(l.answer.camera);
  const RealLens real = real_lens_of(cg, l.answer.camera, l.now.lens, l.answer.camera.focus);
  EXPECT_NEAR(real.focal.mm(), 53.0, 1e-9);
  EXPECT_NEAR(*real.stop, 2.2, 1e-9);
}

}  // namespace deviation_test
}  // namespace jolly_iris
