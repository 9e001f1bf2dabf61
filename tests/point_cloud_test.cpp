#include "jolly_iris/files/point_cloud.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <vector>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace point_cloud_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::plain_shot;
using testing::TempFolder;

const std::string head_of_colours =
    "element vertex 2\nproperty float x\nproperty float y\nproperty double z\n"
    "property uchar red\nproperty uchar green\nproperty uchar blue\nend_header\n";

template <class T>
void append(std::string& bytes, T value, bool swap) {
  std::array<char, sizeof(T)> b{};
  std::memcpy(b.data(), &value, sizeof(T));
  if (swap) std::reverse(b.begin(), b.end());
  bytes.append(b.data(), b.size());
}

std::string binary(bool big) {
  std::string bytes = std::string("ply\nformat binary_") + (big ? "big" : "little") +
                      "_endian 1.0\ncomment made by hand\n" + head_of_colours;
  for (const float k : {1.0F, -2.5F}) {
    append(bytes, k, big);
    append(bytes, 2.0F * k, big);
    append(bytes, 3.0 * static_cast<double>(k), big);
    bytes += '\xff';
    bytes += '\x80';
    bytes += '\0';
  }
  return bytes;
}

TEST(Ply, SaysTheSameInAllThreeForms) {
  const std::string text =
      "ply\r\nformat ascii 1.0\n" + head_of_colours + "1 2 3 255 128 0\n-2.5 -5 -7.5 255 128 0\n";
  for (const std::string& bytes : {text, binary(false), binary(true)}) {
    const Primitive p = points_of_ply(bytes, "a.ply");
    ASSERT_EQ(p.positions.size(), 2U);
    EXPECT_EQ(p.kind, Primitive::Kind::points);
    EXPECT_EQ(p.positions[0], Vec3f(1, 2, 3));
    EXPECT_EQ(p.positions[1], Vec3f(-2.5F, -5, -7.5F));
    ASSERT_EQ(p.colours.size(), 2U);
    EXPECT_FLOAT_EQ(p.colours[0][0], 1.0F);
    EXPECT_NEAR(p.colours[0][1], 0.2158605, 1e-6) << "128 of sRGB, by IEC 61966-2-1";
    EXPECT_FLOAT_EQ(p.colours[0][2], 0.0F);
    EXPECT_TRUE(p.normals.empty());
  }
}

TEST(Ply, FractionsAreLinearLightAndNormalsAreOfLengthOne) {
  const Primitive p = points_of_ply(
      "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float "
      "z\nproperty float nx\nproperty float ny\nproperty float nz\nproperty float red\nproperty "
      "float green\nproperty float blue\nend_header\n0 0 -1 0 3 4 0.5 0.25 7\n",
      "a.ply");
  EXPECT_EQ(p.colours[0], Vec3f(0.5F, 0.25F, 7.0F));
  EXPECT_TRUE(nearly_equal(p.normals[0], Vec3f(0, 0.6F, 0.8F), 1e-5F));
}

TEST(Ply, WhatStandsBeforeAndAfterThePointsIsPassedOver) {
  const std::string head =
      "element face 2\nproperty list uchar int vertex_indices\nproperty uchar flags\nelement "
      "vertex 1\nproperty uchar confidence\nproperty float x\nproperty float y\nproperty float "
      "z\nelement edge 1\nproperty int v\nend_header\n";
  std::string little = "ply\nformat binary_little_endian 1.0\n" + head;
  for (const int corners : {3, 1}) {
    little += static_cast<char>(corners);
    for (int i = 0; i < corners; ++i) append(little, i, false);
    little += '\7';
  }
  little += '\1';
  for (const float v : {4.0F, 5.0F, 6.0F}) append(little, v, false);
  const std::string text = "ply\nformat ascii 1.0\n" + head + "3 0 1 2 7\n1 0 7\n1 4 5 6\n9\n";
  for (const std::string& bytes : {text, little}) {
    const Primitive p = points_of_ply(bytes, "a.ply");
    ASSERT_EQ(p.positions.size(), 1U);
    EXPECT_EQ(p.positions[0], Vec3f(4, 5, 6));
  }
}

TEST(Ply, ACutOffFileIsNeverHalfRead) {
  const std::string bytes = binary(false);
  for (std::size_t n = 0; n < bytes.size(); ++n) {
    EXPECT_THROW((void)points_of_ply(bytes.substr(0, n), "a.ply"), FileError) << n;
  }
}

struct Broken {
  const char* name;
  std::string text;
  const char* says;
};
void PrintTo(const Broken& b, std::ostream* out) { *out << b.name; }
class BrokenPly : public ::testing::TestWithParam<Broken> {};

TEST_P(BrokenPly, IsToldWithItsPlace) {
  const std::string told =
      message_of<FileError>([&] { (void)points_of_ply(GetParam().text, "a.ply"); });
  EXPECT_TRUE(holds(told, GetParam().says));
}

const std::string plain_head =
    "element vertex 2\nproperty float x\nproperty float y\nproperty float z\nend_header\n";

INSTANTIATE_TEST_SUITE_P(
    , BrokenPly,
    ::testing::Values(
        Broken{"empty", "", "a.ply: does not begin with 'ply'"},
        Broken{"picture", "\x89PNG\r\n", "a.ply: does not begin with 'ply'"},
        Broken{"form", "ply\nformat middle_endian 1.0\n", "a.ply:2: format 'middle_endian 1.0'"},
        Broken{"version", "ply\nformat ascii 2.0\n", "'ascii 2.0' is not known"},
        Broken{"no_form", "ply\n" + plain_head, "ends without a format line"},
        Broken{"word", "ply\nformat ascii 1.0\nelements vertex 2\n",
               "a.ply:3: 'elements' is no word"},
        Broken{"count", "ply\nformat ascii 1.0\nelement vertex two\n",
               "should be a name and a count"},
        Broken{"minus", "ply\nformat ascii 1.0\nelement vertex -2\n",
               "should be a name and a count"},
        Broken{"kind", "ply\nformat ascii 1.0\nelement vertex 2\nproperty real x\n",
               "a.ply:4: 'real' is no kind of number"},
        Broken{"orphan", "ply\nformat ascii 1.0\nproperty float x\n", "before any element"},
        Broken{"nameless", "ply\nformat ascii 1.0\nelement vertex 2\nproperty float\n",
               "has no name"},
        Broken{"list_length",
               "ply\nformat ascii 1.0\nelement face 1\nproperty list float int v\nend_header\n",
               "a whole number, not a fraction"},
        Broken{"endless", "ply\nformat ascii 1.0\n", "ends within its header"},
        Broken{"flat",
               "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float "
               "y\nend_header\n1 2\n",
               "have no x, y and z"},
        Broken{"faces", "ply\nformat ascii 1.0\nelement face 0\nproperty int v\nend_header\n",
               "no element vertex"},
        Broken{"none",
               "ply\nformat ascii 1.0\nelement vertex 0\nproperty float x\nproperty float "
               "y\nproperty float z\nend_header\n",
               "holds no points"},
        Broken{"number", "ply\nformat ascii 1.0\n" + plain_head + "1 2 3\n1 two 3\n",
               "a.ply:9: 'two' is no number"},
        Broken{"short_row", "ply\nformat ascii 1.0\n" + plain_head + "1 2 3\n1 2     \n",
               "a.ply:9: this row ends too early"},
        Broken{"infinite", "ply\nformat ascii 1.0\n" + plain_head + "1 2 3\n1 inf 3\n",
               "vertex 1 has y = inf, which is no place"},
        Broken{"too_many",
               "ply\nformat binary_little_endian 1.0\nelement vertex 99999999999\nproperty float "
               "x\nproperty float y\nproperty float z\nend_header\n123456789012",
               "should hold 99999999999 of vertex"},
        Broken{"dark",
               "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float "
               "y\nproperty float z\nproperty float red\nproperty float green\nproperty float "
               "blue\nend_header\n0 0 0 1 -1 0\n",
               "vertex 0 has a negative colour, -1"}),
    [](const auto& each) { return std::string(each.param.name); });

// Found by fuzzing: a red of eight bits says nothing of a blue that is a float.
TEST(Ply, TakesEachColourByItsOwnKindAndLongNormalsToo) {
  const Primitive p = points_of_ply(
      "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty float "
      "z\nproperty uchar red\nproperty uchar green\nproperty float blue\nproperty float "
      "nx\nproperty "
      "float ny\nproperty float nz\nend_header\n0 0 0 255 0 3e38 0 3e38 4e37\n",
      "a.ply");
  EXPECT_NEAR(p.colours[0].x, 1.0F, 1e-6F);
  EXPECT_EQ(p.colours[0].z, 3e38F);
  EXPECT_NEAR(p.normals[0].length(), 1.0F, 1e-5F);
}

TEST(Ply, StandsInTheSceneInItsUnitAndUpright) {
  const TempFolder folder;
  const std::string file = folder.write(
      "meadow.ply", "ply\nformat ascii 1.0\n" + plain_head + "10 20 30\n-10 -20 -30\n");
  Scene scene;
  add_points(scene, file, {.metres = 0.01, .diameter_m = 0.02, .z_is_up = true});
  pose(scene, 0.0);
  ASSERT_EQ(scene.nodes.size(), 1U);
  EXPECT_EQ(scene.nodes[0].name, "meadow");
  EXPECT_EQ(scene.files, std::vector{file});
  const Vec3 corner = bounds_of(scene, 0).max;
  EXPECT_TRUE(nearly_equal(corner, Vec3(0.1, 0.3, 0.2), 1e-6));
  EXPECT_DOUBLE_EQ(scene.materials[0].point_diameter_m, 0.02);
}

TEST(Ply, AShotsPointsStandAmongItsScene) {
  const LoadedShot loaded = load_shot(demo("willow.shot.toml"));
  const auto willow = std::find_if(loaded.answer.subjects.begin(), loaded.answer.subjects.end(),
                                   [](const SubjectBlur& s) { return s.name == "willow"; });
  ASSERT_NE(willow, loaded.answer.subjects.end());
  EXPECT_NEAR(willow->axial.m(), 7.2, 0.1);  // made around z = -7.2 m, in centimetres
  EXPECT_TRUE(willow->in_picture);
}

TEST(Ply, AShotSaysWhatItsPointsLack) {
  const TempFolder folder;
  const auto told = [&](const std::string& more) {
    const std::string shot = folder.write("a.shot.toml", plain_shot + ("\n[scene]\n" + more));
    return message_of<std::runtime_error>([&] { (void)load_shot(shot); });
  };
  EXPECT_TRUE(holds(told("points = \"a.ply\"\n"), "seen by a camera, but none is given"));
  EXPECT_TRUE(holds(told("point_size = \"1 cm\"\n"), "write scene.points = \"scan.ply\""));
  EXPECT_TRUE(holds(told("points = \"a.ply\"\npoints_up = \"x\"\n"), "scene.points_up"));
  EXPECT_TRUE(holds(told("file = \"" + demo("regatta.gltf") + "\"\npoints = \"no.ply\"\n"),
                    "scene.points: "));
}

}  // namespace point_cloud_test
}  // namespace jolly_iris
