#include "jolly_iris/files/handoff.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "jolly_iris/files/gltf.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace handoff_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::TempFolder;
using Json = nlohmann::json;

Answer hero(const std::vector<Override>& tried = {}) {
  const Shot shot = read_shot(demo("hero.shot.toml"), tried);
  const Scene scene = read_gltf(shot.scene->file);
  return answer(shot, &scene);
}

// The keys that programs rely on.
TEST(Handoff, JsonHasAllPromisedKeys) {
  const Json j = Json::parse(answer_json(hero()));
  for (const char* path : {"/camera/focal_mm",
                           "/camera/f_number",
                           "/camera/aperture_radius_mm",
                           "/camera/aperture_radius_units",
                           "/camera/gate_mm/1",
                           "/camera/fov_deg/1",
                           "/camera/focus_m",
                           "/camera/focus_units",
                           "/camera/magnification",
                           "/lens/focal_mm",
                           "/lens/f_number",
                           "/lens/t_number",
                           "/sharpness/coc_limit_mm",
                           "/sharpness/near_m",
                           "/sharpness/far_m",
                           "/sharpness/hyperfocal_m",
                           "/subjects/0/name",
                           "/subjects/0/axial_m",
                           "/subjects/0/radial_m",
                           "/subjects/0/coc_mm",
                           "/subjects/0/coc_px",
                           "/subjects/0/sharp",
                           "/exposure/ev100",
                           "/exposure/shutter_s",
                           "/exposure/shutter_deg",
                           "/notes/0"}) {
    EXPECT_TRUE(j.contains(Json::json_pointer(path))) << path;
  }
  EXPECT_EQ(j["subjects"].back()["name"], "infinity");
  EXPECT_TRUE(j["subjects"].back()["axial_m"].is_null());
  EXPECT_NEAR(j["camera"]["focus_units"].get<double>(), 235.0, 0.1);
  EXPECT_NEAR(j["camera"]["aperture_radius_units"].get<double>(), 5.3 / 4.4, 1e-12);
}

TEST(Handoff, SaysWhereEachValueCameFrom) {
  const Json j = Json::parse(answer_json(hero({{"take.stop", "f/4"}})));
  EXPECT_EQ(j["origins"]["take.stop"]["from"], "tried");
  EXPECT_EQ(j["origins"]["take.stop"]["value"], "f/4");
  EXPECT_TRUE(holds(j["origins"]["lens.focal"]["at"].get<std::string>(), "linden-53.lens.toml:3"));
}

TEST(Handoff, InfinityIsNull) {
  const Json j = Json::parse(answer_json(hero({{"focus.at", "infinity"}})));
  EXPECT_TRUE(j["camera"]["focus_m"].is_null());
  EXPECT_TRUE(j["sharpness"]["far_m"].is_null());
}

TEST(Handoff, OneValueByItsKey) {
  const Answer a = hero();
  EXPECT_NEAR(std::stod(answer_value(a, "camera.aperture_radius_mm")), 53 / 4.4, 1e-12);
  EXPECT_EQ(answer_value(a, "subjects.boat.sharp"), "true");
  EXPECT_EQ(answer_value(a, "subjects.second boat.name"), "second boat");
  EXPECT_EQ(answer_value(a, "subjects.infinity.axial_m"), "infinity");
  EXPECT_NEAR(std::stod(answer_value(a, "camera.gate_mm.0")), 25.9, 1e-9);
  EXPECT_TRUE(holds(message_of<UsageError>([&] { (void)answer_value(a, "camera.focal"); }),
                    "'camera.focal_mm'"));
  for (const char* key :
       {"", ".", "camera", "camera.", "nothing", "notes.99", "camera..f_number"}) {
    EXPECT_THROW((void)answer_value(a, key), UsageError) << key;
  }
}

// Read back by our own reader: the same place, and the field of view of the answer.
TEST(Handoff, GltfCameraReadsBackInItsPlace) {
  const TempFolder folder;
  const Shot shot = read_shot(demo("reeds.shot.toml"));
  const Scene scene = read_gltf(shot.scene->file);
  const Answer a = answer(shot, &scene);
  const Scene back = read_gltf(folder.write("c.gltf", camera_gltf({a}, "reeds camera")));
  const Pose place = camera_place(back, "reeds camera");
  const Pose wanted = camera_place(scene, "reeds camera");
  EXPECT_TRUE(nearly_equal(place.translation, wanted.translation, 1e-9));
  for (std::size_t i = 0; i < 3; ++i) {
    EXPECT_TRUE(nearly_equal(place.linear.column(i), wanted.linear.column(i), 1e-9));
  }
  const Json j = Json::parse(camera_gltf({a}, "reeds camera"));
  // Whatever the picture's shape, its width shows the gate's whole width.
  const double aspect = j["cameras"][0]["perspective"]["aspectRatio"].get<double>();
  EXPECT_NEAR(aspect, 16.0 / 9.0, 1e-12);
  EXPECT_NEAR(std::tan(back.cameras[0].yfov / 2.0) * aspect,
              std::tan(a.camera.horizontal_field_of_view().radians() / 2.0), 1e-12);
  EXPECT_NEAR(j["cameras"][0]["extras"]["f_number"].get<double>(), a.camera.f_number, 1e-12);
}

}  // namespace handoff_test
}  // namespace jolly_iris
