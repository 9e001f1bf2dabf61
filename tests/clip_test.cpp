#include "jolly_iris/scene/clip.hpp"

#include <gtest/gtest.h>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace clip_test {

using testing::holds;
using testing::message_of;

const Pose at_origin = Pose{};

VirtualCamera camera() {
  const Body body{.gate = {24_mm, 13.5_mm}, .pixels = {1920, 1080}};
  return resolve(body, {.focal = 24_mm}, {.stop = f_number(4.0)}, 3_m);
}

// A card square to the view, from depth `near` to `far`, `x` aside.
std::size_t add(Scene& scene, const char* name, double near, double far, double x = 0.0) {
  const auto n = static_cast<float>(-near);
  const auto f = static_cast<float>(-far);
  const auto c = static_cast<float>(x);
  Primitive p{.positions = {{c - 0.2F, -0.2F, n}, {c + 0.2F, -0.2F, n}, {c, 0.2F, f}},
              .triangles = {{0, 1, 2}}};
  Mesh mesh;
  for (const auto& v : p.positions) mesh.bounds.extend(Vec3(v));
  mesh.primitives.push_back(p);
  Node node;
  node.name = name;
  node.mesh = scene.meshes.size();
  scene.meshes.push_back(mesh);
  scene.nodes.push_back(node);
  return scene.nodes.size() - 1;
}

Scene room() {
  Scene scene;
  add(scene, "front wall", 0.8, 1.0);
  add(scene, "table", 2.0, 3.0);
  add(scene, "lamp", 3.5, 3.6);
  add(scene, "back wall", 6.0, 6.5);
  return scene;
}

TEST(Clip, TheNearPlaneGoesBetweenWhatGoesAndWhatStays) {
  const Clip clip = clip_away(room(), at_origin, camera(), {"front wall"});
  ASSERT_TRUE(clip.near);
  EXPECT_FALSE(clip.far);
  EXPECT_NEAR(clip.near->from.m(), 1.0, 1e-6);
  EXPECT_NEAR(clip.near->to.m(), 2.0, 1e-6);
  EXPECT_NEAR(clip.near->distance.m(), 1.5, 1e-6);
}

TEST(Clip, FrontAndBackTogetherGiveBothPlanes) {
  const Clip clip = clip_away(room(), at_origin, camera(), {"back wall", "front wall"});
  ASSERT_TRUE(clip.near && clip.far);
  EXPECT_NEAR(clip.far->from.m(), 3.6, 1e-6);
  EXPECT_NEAR(clip.far->to.m(), 6.0, 1e-6);
}

TEST(Clip, WhatTheCameraDoesNotSeeIsNoObstacle) {
  Scene scene = room();
  add(scene, "beside", 0.5, 0.6, 5.0);
  EXPECT_TRUE(clip_away(scene, at_origin, camera(), {"front wall"}).near);
}

TEST(Clip, AParentTakesItsChildrenAlong) {
  Scene scene = room();
  Node group;
  group.name = "house front";
  scene.nodes.insert(scene.nodes.begin(), group);
  scene.nodes[1].parent = 0;  // the front wall
  scene.nodes[0].children = {1};
  const Clip clip = clip_away(scene, at_origin, camera(), {"house front"});
  ASSERT_TRUE(clip.near);
  EXPECT_NEAR(clip.near->from.m(), 1.0, 1e-6);
}

TEST(Clip, ThereMayBeNoSuchDistance) {
  const std::string message =
      message_of<OpticsError>([] { (void)clip_away(room(), at_origin, camera(), {"table"}); });
  EXPECT_TRUE(holds(message, "'front wall' stands at 0.8 m already")) << message;
  EXPECT_TRUE(holds(message, "'back wall' at 6.5 m still"));
  Scene scene = room();
  add(scene, "rope", 0.9, 2.5);
  EXPECT_TRUE(holds(
      message_of<OpticsError>([&] { (void)clip_away(scene, at_origin, camera(), {"front wall"}); }),
      "'rope' stands at 0.9 m"));
}

TEST(Clip, NamesThatAreNotThereOrNotSeenAreTold) {
  EXPECT_TRUE(holds(
      message_of<UsageError>([] { (void)clip_away(room(), at_origin, camera(), {"frontwall"}); }),
      "Did you mean 'front wall'?"));
  Scene scene = room();
  add(scene, "beside", 0.5, 0.6, 5.0);
  EXPECT_TRUE(holds(
      message_of<OpticsError>([&] { (void)clip_away(scene, at_origin, camera(), {"beside"}); }),
      "not in the picture"));
}

}  // namespace clip_test
}  // namespace jolly_iris
