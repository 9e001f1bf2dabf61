// Bad input of every kind: a clear message, the right exit code, and no output file.
#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <ostream>

#include "cli_support.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "small_gltf.hpp"

namespace jolly_iris {
namespace bad_input_test {

using testing::demo;
using testing::holds;
using testing::plain_shot;
using testing::Ran;
using testing::replaced;
using testing::run;
using testing::slurp;
using testing::small_gltf;
using testing::TempFolder;
using testing::write_gltf;

struct BadShot {
  const char* name;
  const char* what;  // a part of the plain shot …
  const char* with;  // … and what stands there instead
  int code;
  const char* says;
};
void PrintTo(const BadShot& bad, std::ostream* out) { *out << bad.name; }

class BadShots : public ::testing::TestWithParam<BadShot> {};

TEST_P(BadShots, AreRefusedByEveryVerb) {
  const TempFolder folder;
  const std::string shot =
      folder.write("a.shot.toml", replaced(plain_shot, GetParam().what, GetParam().with));
  const std::size_t before = folder.count();
  for (const std::vector<std::string>& args :
       {std::vector<std::string>{"report", shot},
        {"trace", shot, "-o", folder / "o.exr"},
        {"defocus", shot, demo("pinhole.exr"), "-o", folder / "o.exr"},
        {"handoff", shot, "--to", folder.path().string()}}) {
    const Ran r = run(args);
    EXPECT_EQ(r.code, GetParam().code) << args[0] << ": " << r.err;
    EXPECT_TRUE(holds(r.err, GetParam().says));
    EXPECT_TRUE(holds(r.err, "a.shot.toml:"));
    EXPECT_EQ(r.out, "");
  }
  EXPECT_EQ(folder.count(), before);
}

INSTANTIATE_TEST_SUITE_P(
    All, BadShots,
    ::testing::Values(
        BadShot{"unknown_key", "stop =", "stpo =", 2, "Did you mean 'take.stop'?"},
        BadShot{"missing_unit", "\"53 mm\"", "\"58\"", 2, "a number and its unit"},
        BadShot{"bare_number", "\"53 mm\"", "58", 2, "a bare number"},
        BadShot{"negative_stop", "f/2", "f/-2", 2, "above zero"},
        BadShot{"mark_too_close", "2.6 m", "0.2 m", 1, "four focal lengths"},
        BadShot{"gate_of_zero", "19.1 x 10.7 mm", "19.1 x 0 mm", 2, "above zero"},
        BadShot{"crossing_blades", "[take]",
                "iris.blades = 3\niris.blade_radius = \"-1 x\"\n[take]", 1, "cross each other"},
        BadShot{"fisheye", "adapter", "projection = \"fisheye\"\nadapter", 1, "out of scope"},
        BadShot{"unknown_subject", "[take]", "[focus]\non = \"nobody\"\n[take]", 2,
                "no subject 'nobody'"},
        BadShot{"behind_the_camera", "[take]",
                "[focus]\non = \"post\"\n[[subject]]\nname = \"post\"\nplace = [0, 0, 1]\n[take]",
                1, "behind the camera"},
        BadShot{"missing_scene", "[take]", "[scene]\nfile = \"gone.gltf\"\n[take]", 3,
                "gone.gltf"}),
    [](const auto& broken) { return std::string(broken.param.name); });

TEST(BadInput, MissingShotFile) {
  const Ran r = run({"report", "nowhere.shot.toml"});
  EXPECT_EQ(r.code, 3);
  EXPECT_TRUE(holds(r.err, "nowhere.shot.toml: cannot read it: No such file"));
}

TEST(BadInput, BrokenScenesStopEveryVerbThatNeedsThem) {
  const TempFolder folder;
  const std::string shot =
      folder.write("a.shot.toml", std::string(plain_shot) + "[scene]\nfile = \"small.gltf\"\n");
  const auto rejected = [&](const char* says) {
    for (const char* verb : {"report", "trace"}) {
      const Ran r = run({verb, shot});
      EXPECT_EQ(r.code, 3) << verb;
      EXPECT_TRUE(holds(r.err, says));
      EXPECT_TRUE(holds(r.err, "a.shot.toml:14:8: scene.file: "));
    }
  };
  auto json = small_gltf();
  json["nodes"][1]["children"] = {77};
  write_gltf(folder, json);
  rejected("node 77");
  json = small_gltf();
  json["nodes"][2]["children"] = {1};
  write_gltf(folder, json);
  rejected("cycle");
  json = small_gltf();
  json["nodes"][0]["children"] = {2};
  write_gltf(folder, json);
  rejected("two parents");
  write_gltf(folder, small_gltf());
  std::filesystem::remove(folder / "small.bin");
  rejected("small.bin");
}

TEST(BadInput, OrthographicCameraIsOutOfScope) {
  const TempFolder folder;
  auto json = small_gltf();
  json["cameras"][0] = {{"type", "orthographic"},
                        {"orthographic", {{"xmag", 1}, {"ymag", 1}, {"znear", 0.1}, {"zfar", 10}}}};
  write_gltf(folder, json);
  const Ran r =
      run({"report", folder.write("a.shot.toml",
                                  std::string(plain_shot) + "[scene]\nfile = \"small.gltf\"\n")});
  EXPECT_EQ(r.code, 1);
  EXPECT_TRUE(holds(r.err, "out of scope"));
}

class BadPictures : public ::testing::Test {
 protected:
  void refuse(const std::string& picture, const char* says) {
    const std::size_t before = folder.count();
    const Ran r = run({"defocus", demo("hero.shot.toml"), picture, "-o", folder / "out.exr", "-o",
                       folder / "out.png"});
    EXPECT_EQ(r.code, 3) << r.err;
    EXPECT_TRUE(holds(r.err, says));
    EXPECT_EQ(folder.count(), before) << "no output file, whole or half";
  }
  TempFolder folder;
};

TEST_F(BadPictures, MissingTruncatedOrOfNoKind) {
  refuse(folder / "none.exr", "No such file");
  const std::string bytes = slurp(demo("pinhole.exr"));
  refuse(folder.write("cut.exr", bytes.substr(0, bytes.size() / 2)), "cut.exr");
  refuse(folder.write("text.exr", "hello"), "text.exr");
}

TEST_F(BadPictures, WithoutDepth) {
  write_picture(folder / "flat.exr", Frame{Picture({8, 8}, {1, 1, 1, 1}), {}});
  refuse(folder / "flat.exr", "no depth");
}

TEST_F(BadPictures, DepthThatIsNoNumberAndInfinityThatIsLegal) {
  Frame f{Picture({8, 8}, {1, 1, 1, 1}),
          std::vector<float>(64, std::numeric_limits<float>::infinity())};
  write_picture(folder / "sky.exr", f);
  EXPECT_EQ(
      run({"defocus", demo("hero.shot.toml"), folder / "sky.exr", "-o", folder / "fine.exr"}).code,
      0);
  for (std::size_t i = 10; i < 20; ++i) f.depth[i] = std::nanf("");
  write_whole_file(folder / "nan.exr", picture_bytes(".exr", f));
  refuse(folder / "nan.exr",
         "16 % of its pixels are no numbers (NaN or infinity), the first at 2, 1");
}

TEST_F(BadPictures, OfNoPixels) {
  // A PNG whose header says 0 × 0.
  const std::string png(
      "\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\0\0\0\0\0\0\x08\x02\0\0\0\xc9\x82\xb2\x52", 33);
  refuse(folder.write("zero.png", png), "zero.png");
}

TEST(BadInput, OutputThatCannotBeWritten) {
  const TempFolder folder;
  const Ran ending =
      run({"defocus", demo("hero.shot.toml"), demo("pinhole.exr"), "-o", folder / "a.bmp"});
  EXPECT_EQ(ending.code, 2);
  // Told before the work, not after it: this trace would take hours.
  const Ran late = run(
      {"trace", demo("hero.shot.toml"), "--samples", "1000000", "-o", folder / "not/there.exr"});
  EXPECT_EQ(late.code, 3);
  EXPECT_TRUE(holds(late.err, "there is no folder"));
  const Ran nowhere = run({"handoff", demo("hero.shot.toml"), "--to", folder / "not/there"});
  EXPECT_EQ(nowhere.code, 3);
  EXPECT_TRUE(holds(nowhere.err, "is no folder that is there"));
  EXPECT_EQ(folder.count(), 0U);
}

}  // namespace bad_input_test
}  // namespace jolly_iris
