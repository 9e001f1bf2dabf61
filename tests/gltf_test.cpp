#include "jolly_iris/files/gltf.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <numbers>
#include <ostream>

#include "jolly_iris/optics/errors.hpp"
#include "small_gltf.hpp"

namespace jolly_iris {
namespace gltf_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::small_gltf;
using testing::TempFolder;
using testing::write_gltf;

TEST(Gltf, ReadsTheTreeWithItsWorldMatrices) {
  const TempFolder folder;
  const Scene scene = read_gltf(write_gltf(folder, small_gltf()));
  ASSERT_EQ(scene.nodes.size(), 3U);
  const Node& flag = scene.nodes[2];
  EXPECT_EQ(flag.name, "flag");
  EXPECT_EQ(scene.nodes[*flag.parent].name, "float");
  EXPECT_TRUE(nearly_equal(flag.world.translation, Vec3(0, 1, -4), 1e-12));
  const Box3<double> box = bounds_of(scene, 1);  // with all below it
  EXPECT_TRUE(nearly_equal(box.min, Vec3(0, 1, -4), 1e-12));
  EXPECT_TRUE(nearly_equal(box.max, Vec3(2, 3, -4), 1e-12));
  EXPECT_EQ(scene.files.size(), 2U);
}

TEST(Gltf, RotationIsAQuaternionAndMatricesAreColumnMajor) {
  const TempFolder folder;
  auto json = small_gltf();
  const double h = std::numbers::sqrt2 / 2.0;
  json["nodes"][1] = {{"name", "turned"}, {"rotation", {0, h, 0, h}}, {"children", {2}}};
  const Scene scene = read_gltf(write_gltf(folder, json));
  // A quarter turn about +Y takes −z to −x.
  EXPECT_TRUE(nearly_equal(scene.nodes[2].world.translation, Vec3(-1, 1, 0), 1e-12));
  json["nodes"][1] = {{"matrix", {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 5, 6, 7, 1}},
                      {"children", {2}}};
  const Scene moved = read_gltf(write_gltf(folder, json));
  EXPECT_TRUE(nearly_equal(moved.nodes[2].world.translation, Vec3(5, 7, 6), 1e-12));
}

TEST(Gltf, DemoHasItsCameraItsLampsAndItsLights) {
  const Scene scene = read_gltf(demo("regatta.gltf"));
  EXPECT_NEAR(camera_place(scene, "taking camera").translation.y, 0.41, 1e-6);
  EXPECT_EQ(scene.lights.size(), 5U);
  EXPECT_GT(scene.sky.length(), 0.0F);
  std::size_t lamps = 0;
  for (const Mesh& mesh : scene.meshes) {
    for (const Primitive& p : mesh.primitives) {
      if (p.kind == Primitive::Kind::points) lamps += p.positions.size();
    }
  }
  EXPECT_EQ(lamps, 18U + 8U + 11U);
}

TEST(Gltf, StrengthMayBeAWholeNumberAndMultipliesTheColour) {
  const TempFolder folder;
  auto json = small_gltf();
  json["materials"] = {
      {{"emissiveFactor", {1.0, 0.5, 0.25}},
       {"extensions", {{"KHR_materials_emissive_strength", {{"emissiveStrength", 300}}}}}}};
  const Scene scene = read_gltf(write_gltf(folder, json));
  EXPECT_FLOAT_EQ(scene.materials[0].emission[0], 300.0F);
  EXPECT_FLOAT_EQ(scene.materials[0].emission[2], 75.0F);
}

TEST(Gltf, MissingPicturesDoNotMatter) {
  const TempFolder folder;
  auto json = small_gltf();
  json["images"] = {{{"uri", "not there.png"}}};
  json["textures"] = {{{"source", 0}}};
  EXPECT_NO_THROW((void)read_gltf(write_gltf(folder, json)));
}

TEST(Gltf, NodesOutsideTheShownSceneAreNoPartOfIt) {
  const TempFolder folder;
  auto json = small_gltf();
  json["scenes"][0]["nodes"] = {0};
  EXPECT_EQ(read_gltf(write_gltf(folder, json)).nodes.size(), 1U);
}

struct Broken {
  const char* name;
  void (*change)(nlohmann::json&);
  const char* says;
};
void PrintTo(const Broken& broken, std::ostream* out) { *out << broken.name; }

class BrokenGltf : public ::testing::TestWithParam<Broken> {};

TEST_P(BrokenGltf, IsRefusedWithTheElement) {
  const TempFolder folder;
  auto json = small_gltf();
  GetParam().change(json);
  const std::string path = write_gltf(folder, json);
  const auto message = message_of<FileError>([&] { (void)read_gltf(path); });
  EXPECT_TRUE(holds(message, GetParam().says));
  EXPECT_TRUE(holds(message, "small.gltf"));
}

using J = nlohmann::json;
INSTANTIATE_TEST_SUITE_P(
    All, BrokenGltf,
    ::testing::Values(
        Broken{"cycle",
               [](J& j) {
                 j["nodes"][2]["children"] = {1};
                 j["scenes"][0]["nodes"] = {0};
               },
               "cycle"},
        Broken{"self", [](J& j) { j["nodes"][0]["children"] = {0}; }, "cycle"},
        Broken{"shared_parent", [](J& j) { j["nodes"][0]["children"] = {2}; }, "two parents"},
        Broken{"child_out_of_range", [](J& j) { j["nodes"][1]["children"] = {99}; }, "node 99"},
        Broken{"negative_child", [](J& j) { j["nodes"][1]["children"] = {-2}; }, "node -2"},
        Broken{"mesh_out_of_range", [](J& j) { j["nodes"][2]["mesh"] = 7; }, "mesh 7"},
        Broken{"camera_out_of_range", [](J& j) { j["nodes"][0]["camera"] = 3; }, "camera 3"},
        Broken{"accessor_out_of_range",
               [](J& j) { j["meshes"][0]["primitives"][0]["attributes"]["POSITION"] = 12; },
               "accessor 12"},
        Broken{"view_out_of_range", [](J& j) { j["accessors"][0]["bufferView"] = 5; },
               "buffer view 5"},
        Broken{"accessor_too_long", [](J& j) { j["accessors"][0]["count"] = 400; }, "400 elements"},
        Broken{"view_too_long", [](J& j) { j["bufferViews"][1]["byteLength"] = 4000; },
               "buffer view 1"},
        Broken{"matrix_of_15",
               [](J& j) {
                 j["nodes"][1] = {{"matrix", {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0}}};
               },
               "15 numbers"},
        Broken{"scene_root_out_of_range",
               [](J& j) {
                 j["scenes"][0]["nodes"] = {0, 44};
               },
               "node 44"},
        Broken{"required_extension", [](J& j) { j["extensionsRequired"] = {"KHR_something_new"}; },
               "KHR_something_new"},
        Broken{"no_yfov", [](J& j) { j["cameras"][0]["perspective"]["yfov"] = 0; }, "yfov"},
        Broken{"strength_is_text",
               [](J& j) {
                 j["materials"] = {
                     {{"emissiveFactor", {1, 1, 1}},
                      {"extensions",
                       {{"KHR_materials_emissive_strength", {{"emissiveStrength", "much"}}}}}}};
               },
               "emissiveStrength"},
        Broken{"light_out_of_range",
               [](J& j) {
                 j["nodes"][1]["extensions"] = {{"KHR_lights_punctual", {{"light", 2}}}};
               },
               "light 2"},
        Broken{"normals_of_another_count",
               [](J& j) {
                 j["accessors"].push_back(
                     {{"bufferView", 0}, {"componentType", 5126}, {"count", 2}, {"type", "VEC3"}});
                 j["meshes"][0]["primitives"][0]["attributes"]["NORMAL"] = 2;
               },
               "NORMAL"}),
    [](const auto& broken) { return std::string(broken.param.name); });

TEST(Gltf, BrokenBytesAreRefused) {
  const TempFolder folder;
  EXPECT_THROW((void)read_gltf(folder / "nowhere.gltf"), FileError);
  EXPECT_THROW((void)read_gltf(folder.write("a.gltf", "not JSON")), FileError);
  EXPECT_THROW((void)read_gltf(folder.write("b.gltf", "[]")), FileError);
  EXPECT_THROW((void)read_gltf(folder.write("c.glb", std::string("glTF\2\0\0\0", 8))), FileError);
  const std::string path = write_gltf(folder, small_gltf());
  std::filesystem::remove(folder / "small.bin");
  EXPECT_THROW((void)read_gltf(path), FileError);
  folder.write("small.bin", "short");
  EXPECT_THROW((void)read_gltf(path), FileError);
}

TEST(Gltf, PositionsMustBeNumbersAndIndicesInRange) {
  const TempFolder folder;
  const float nan = std::numeric_limits<float>::quiet_NaN();
  EXPECT_TRUE(
      holds(message_of<FileError>([&] {
              (void)read_gltf(write_gltf(folder, small_gltf(), {0, 0, 0, nan, 0, 0, 0, 2, 0}));
            }),
            "not a number"));
  EXPECT_TRUE(holds(
      message_of<FileError>([&] {
        (void)read_gltf(write_gltf(folder, small_gltf(), {0, 0, 0, 2, 0, 0, 0, 2, 0}, {0, 1, 3}));
      }),
      "vertex 3"));
}

// A chain so deep that a reader which recursed would run out of stack.
TEST(Gltf, DeepTreesAreWalked) {
  const TempFolder folder;
  auto json = small_gltf();
  json["scenes"][0]["nodes"] = {0};
  json["nodes"] = J::array();
  constexpr int depth = 20000;
  for (int i = 0; i < depth; ++i) {
    json["nodes"].push_back({{"name", "n" + std::to_string(i)}, {"translation", {0, 0, -0.001}}});
    if (i > 0) json["nodes"][static_cast<std::size_t>(i - 1)]["children"] = {i};
  }
  const Scene scene = read_gltf(write_gltf(folder, json));
  ASSERT_EQ(scene.nodes.size(), static_cast<std::size_t>(depth));
  EXPECT_NEAR(scene.nodes.back().world.translation.z, -0.001 * depth, 1e-9);
  (void)bounds_of(scene, 0);
}

TEST(SceneCamera, IsFoundByNameAndSaidWhenNot) {
  const TempFolder folder;
  auto json = small_gltf();
  const Scene one = read_gltf(write_gltf(folder, json));
  EXPECT_NO_THROW((void)camera_place(one, std::nullopt));
  EXPECT_TRUE(holds(message_of<UsageError>([&] { (void)camera_place(one, "veiw"); }), "'view'"));
  json["nodes"].push_back({{"name", "second view"}, {"camera", 0}});
  json["scenes"][0]["nodes"].push_back(3);
  const Scene two = read_gltf(write_gltf(folder, json));
  EXPECT_TRUE(
      holds(message_of<UsageError>([&] { (void)camera_place(two, std::nullopt); }), "2 cameras"));
}

TEST(SceneCamera, OrthographicIsOutOfScope) {
  const TempFolder folder;
  auto json = small_gltf();
  json["cameras"][0] = {{"type", "orthographic"},
                        {"orthographic", {{"xmag", 1}, {"ymag", 1}, {"znear", 0.1}, {"zfar", 10}}}};
  const Scene scene = read_gltf(write_gltf(folder, json));
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)camera_place(scene, std::nullopt); }), "scope"));
}

TEST(SceneCamera, KindsBeyondGltfAreOutOfScope) {
  const TempFolder folder;
  auto json = small_gltf();
  for (const char* kind : {"panorama", "fisheye", "stereo"}) {
    json["cameras"][0]["type"] = kind;
    const std::string path = write_gltf(folder, json);
    EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)read_gltf(path); }), "out of scope"));
  }
}

TEST(SceneCamera, ScaleAndMirroringOfParentsDoNotMoveItsView) {
  const TempFolder folder;
  auto json = small_gltf();
  json["nodes"][0] = {{"name", "view"}, {"camera", 0}, {"scale", {-2, 3, 0.5}}};
  const Pose place = camera_place(read_gltf(write_gltf(folder, json)), std::nullopt);
  for (std::size_t i = 0; i < 3; ++i) {
    EXPECT_TRUE(nearly_equal(place.linear.column(i), Matrix3{}.column(i), 1e-12));
  }
  json["nodes"][0]["scale"] = {0, 0, 0};
  EXPECT_THROW((void)camera_place(read_gltf(write_gltf(folder, json)), std::nullopt), OpticsError);
}

}  // namespace gltf_test
}  // namespace jolly_iris
