// A scene's camera that is moved: back, aside, up, and around something.
#include <gtest/gtest.h>

#include <cmath>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace camera_stand_test {

using testing::demo;
using testing::holds;
using testing::message_of;

LoadedShot hero(const std::vector<Override>& tried) {
  return load_shot(demo("hero.shot.toml"), {.tried = tried});
}

Vec3 boat_of(const LoadedShot& l) {
  for (const SubjectPlace& s :
       subjects_of(l.now, &*l.scene, l.answer.place, l.answer.camera.focus)) {
    if (s.name == "boat") return *s.middle;
  }
  throw UsageError("no boat");
}

TEST(CameraStand, AsideAndUpAreAsTheCameraLooks) {
  const Vec3 before = boat_of(hero({}));
  const Vec3 after =
      boat_of(hero({{"scene.right", "10 cm"}, {"scene.up", "5 cm"}, {"scene.back", "20 cm"}}));
  EXPECT_NEAR(after.x, before.x - 0.10, 1e-9);
  EXPECT_NEAR(after.y, before.y - 0.05, 1e-9);
  EXPECT_NEAR(after.z, before.z - 0.20, 1e-9);
}

TEST(CameraStand, AnOrbitKeepsItsCentreWhereItWasInThePicture) {
  const Vec3 before = boat_of(hero({}));
  for (const char* angle : {"30 deg", "-75 deg", "180 deg"}) {
    const LoadedShot l = hero({{"scene.around", "boat"}, {"scene.orbit", angle}});
    const Vec3 after = boat_of(l);
    EXPECT_NEAR((after - before).length(), 0.0, 0.02) << angle;  // its bounds turn with the view
    EXPECT_NEAR(l.answer.camera.focus.m(), 2.35, 0.02);
    // About the upright: as high above the water as before.
    EXPECT_NEAR(l.answer.place.translation.y, hero({}).answer.place.translation.y, 1e-9);
  }
}

TEST(CameraStand, ToTheRightIsToTheRight) {
  const LoadedShot now = hero({});
  const LoadedShot moved = hero({{"scene.around", "2.35 m"}, {"scene.orbit", "10 deg"}});
  const Vec3 way = moved.answer.place.translation - now.answer.place.translation;
  EXPECT_GT(way.dot(now.answer.place.linear.column(0)), 0.1);
  // It still looks at the same point of its view, from as far.
  const auto point = [](const LoadedShot& l) {
    return l.answer.place.translation - l.answer.place.linear.column(2) * 2.35;
  };
  EXPECT_NEAR((point(now) - point(moved)).length(), 0.0, 1e-9);
  const LoadedShot up = hero({{"scene.around", "2.35 m"}, {"scene.orbit_up", "20 deg"}});
  EXPECT_NEAR((point(now) - point(up)).length(), 0.0, 1e-9);
  EXPECT_GT(up.answer.place.translation.y, now.answer.place.translation.y + 0.3);
}

TEST(CameraStand, RefusesAnOrbitAroundNothing) {
  EXPECT_TRUE(holds(message_of<UsageError>([] {
                      (void)hero({{"scene.orbit", "5 deg"}});
                    }),
                    "goes around something: write scene.around"));
  EXPECT_TRUE(holds(message_of<UsageError>([] {
                      (void)hero({{"scene.around", "swan"}, {"scene.orbit", "5 deg"}});
                    }),
                    "nothing called 'swan' with a place to go around"));
  EXPECT_THROW((void)hero({{"scene.around", "-2 m"}, {"scene.orbit", "5 deg"}}), Error);
  EXPECT_THROW((void)hero({{"scene.right", "1e300 m"}}), Error);
}

}  // namespace camera_stand_test
}  // namespace jolly_iris
