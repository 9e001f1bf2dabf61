// Smear through the command line: the scene's motion, a renderer's vectors, a camera that moves.
#include <gtest/gtest.h>

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <limits>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"
#include "plates/smeared.hpp"

namespace jolly_iris {
namespace smear_cli_test {

using testing::demo;
using testing::holds_all;
using testing::Ran;
using testing::run;
using testing::TempFolder;

const std::string small = "body.pixels=320 x 180";
const std::string passing = demo("passing.shot.toml");

// The boat as a renderer hands it over: sharp, with depth and vectors.
std::string rendered(const TempFolder& folder, const std::string& frame = "1013") {
  const std::string out = folder / ("cg." + frame + ".exr");
  const Ran r = run({"trace", passing, "--frame", frame, "--set", small, "--pinhole", "--motion",
                     "--samples", "4", "-o", out});
  EXPECT_EQ(r.code, 0) << r.err;
  return out;
}

std::vector<std::string> with(std::vector<std::string> args,
                              const std::vector<std::string>& tried) {
  for (const std::string& t : tried) args.insert(args.end(), {"--set", t});
  return args;
}

const std::vector<std::string> by_vectors{small, "finish.smear.from=vectors",
                                          "finish.smear.means=to the next frame",
                                          "finish.smear.up=false"};

TEST(SmearCommand, VectorsSayWhatTheSceneSays) {
  const TempFolder folder;
  const std::string cg = rendered(folder);
  const std::string a = folder / "scene.exr";
  const std::string b = folder / "vectors.exr";
  const Ran scene =
      run({"defocus", passing, cg, "--frame", "1013", "--finish", "--set", small, "-o", a});
  ASSERT_EQ(scene.code, 0) << scene.err;
  EXPECT_TRUE(holds_all(scene.err, {"smear: up to 6.6 px", "0.48 of a frame"}));
  EXPECT_EQ(read_header(a).at("jolly_iris:finish"), "smear");
  const Ran vectors =
      run(with({"defocus", passing, cg, "--frame", "1013", "--finish", "-o", b}, by_vectors));
  ASSERT_EQ(vectors.code, 0) << vectors.err;
  EXPECT_GT(psnr(read_picture(a).colour, read_picture(b).colour), 50.0);
  // Of a picture by itself, and told as a layer.
  const std::string layers = folder / "layers.exr";
  const Ran alone =
      run(with({"finish", passing, cg, "--frame", "1013", "--layers", layers}, {small}));
  ASSERT_EQ(alone.code, 0) << alone.err;
  const Picture added = read_picture(layers, {Transfer::linear, {}, "smear", true}).colour;
  float most = 0.0F;
  for (const Rgba& p : added.pixels()) most = std::max(most, std::abs(p[0]));
  EXPECT_GT(most, 0.05F);
}

TEST(SmearCommand, VectorsHaveToBeExplained) {
  const TempFolder folder;
  const std::string cg = rendered(folder);
  const Ran r = run(with({"finish", passing, cg, "--frame", "1013", "-o", folder / "a.exr"},
                         {small, "finish.smear.from=vectors"}));
  EXPECT_NE(r.code, 0);
  EXPECT_TRUE(holds_all(r.err, {"finish.smear.means", "to the next frame", "finish.smear.up"}));
  const Ran none = run(with({"finish", passing, folder / "b.exr", "--frame", "1013"}, by_vectors));
  EXPECT_EQ(none.code, 3);
  const Ran without =
      run(with({"finish", passing, demo("pinhole.exr"), "--frame", "1013", "-o", folder / "c.exr"},
               by_vectors));
  EXPECT_EQ(without.code, 2) << without.err;
  EXPECT_TRUE(holds_all(without.err, {"pinhole.exr", "'motion'"}));
}

TEST(SmearCommand, ASequenceWithAMissingVectorPictureDoesNotBegin) {
  const TempFolder folder;
  const std::string cg = rendered(folder);
  for (const char* frame : {"1012", "1014"}) {
    std::filesystem::copy_file(cg, folder / ("cg." + std::string(frame) + ".exr"));
  }
  for (const char* frame : {"1012", "1013"}) {
    std::filesystem::copy_file(cg, folder / ("v." + std::string(frame) + ".exr"));
  }
  auto tried = by_vectors;
  tried.push_back("finish.smear.vectors=" + (folder / "v.####.exr"));
  const Ran r = run(with({"defocus", passing, folder / "cg.####.exr", "--frames", "1012-1014",
                          "--finish", "-o", folder / "out.####.exr"},
                         tried));
  EXPECT_EQ(r.code, 3) << r.err;
  EXPECT_TRUE(holds_all(r.err, {"v.1014.exr"}));
  EXPECT_FALSE(std::filesystem::exists(folder / "out.1012.exr"));
  std::filesystem::copy_file(cg, folder / "v.1014.exr");
  const Ran good = run(with({"finish", passing, folder / "cg.####.exr", "--frames", "1012-1014",
                             "-o", folder / "out.####.exr"},
                            tried));
  ASSERT_EQ(good.code, 0) << good.err;
  EXPECT_TRUE(std::filesystem::exists(folder / "out.1014.exr"));
}

TEST(SmearCommand, OddVectorsAreTold) {
  const TempFolder folder;
  const PixelSize size{320, 180};
  Frame frame{Picture(size, {0.1F, 0.1F, 0.1F, 1.0F}), {}, {}};
  frame.depth.assign(frame.colour.pixels().size(), 3.0F);
  Picture vectors(size, {5.0F, 0.0F, 0.0F, 1.0F});
  vectors.at(7, 8) = {1e9F, 0.0F, 0.0F, 1.0F};
  write_layers(folder / "odd.exr", frame, {{"motion", vectors}});
  const Ran r =
      run(with({"finish", passing, folder / "odd.exr", "--frame", "1013", "-o", folder / "a.exr"},
               by_vectors));
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds_all(r.err, {"1 px have a vector", "taken as still"}));
}

TEST(SmearCommand, ACameraThatMovesNeedsDepth) {
  const TempFolder folder;
  const std::string shot = demo("drift.shot.toml");
  const std::string cg = folder / "drift.exr";
  ASSERT_EQ(run({"trace", shot, "--frame", "1049", "--set", small, "--pinhole", "--samples", "2",
                 "-o", cg})
                .code,
            0);
  const std::vector<std::string> tried{small, "finish.smear.from=camera", "finish.smear.times=8"};
  const Ran r = run(with({"finish", shot, cg, "--frame", "1049", "-o", folder / "a.exr"}, tried));
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds_all(r.err, {"smear: up to", "3.84 of a frame"}));
  Frame flat = read_picture(cg);
  flat.depth.clear();
  write_picture(folder / "flat.exr", flat);
  const Ran none = run(with(
      {"finish", shot, folder / "flat.exr", "--frame", "1049", "-o", folder / "b.exr"}, tried));
  EXPECT_NE(none.code, 0);
  EXPECT_TRUE(holds_all(none.err, {"flat.exr", "depth", "from = \"scene\""}));
}

TEST(SmearCommand, SaysWhatIsNotKnown) {
  const TempFolder folder;
  const std::string cg = rendered(folder);
  const Ran no_rate =
      run(with({"finish", demo("hero.shot.toml"), demo("pinhole.exr"), "-o", folder / "a.exr"},
               {"finish.smear.from=scene"}));
  ASSERT_EQ(no_rate.code, 0) << no_rate.err;
  EXPECT_TRUE(holds_all(no_rate.err, {"nothing moves in this shot"}));
  const Ran layers =
      run(with({"defocus", passing, cg, cg, "--frame", "1013", "--finish", "-o", folder / "b.exr"},
               {small}));
  EXPECT_EQ(layers.code, 2);
  EXPECT_TRUE(holds_all(layers.err, {"one picture with depth"}));
  const Ran both = run({"trace", passing, "--motion"});
  EXPECT_EQ(both.code, 2);
  EXPECT_TRUE(holds_all(both.err, {"--motion belongs to --pinhole"}));
}

TEST(SmearCommand, AMarginThatLeavesNothingIsRefusedBeforeAnythingIsTraced) {
  const TempFolder folder;
  const std::string cg = rendered(folder);
  for (const std::string verb : {"finish", "defocus"}) {
    std::vector<std::string> args{verb,     passing, cg,    "--frame", "1013",          "--margin",
                                  "160,10", "--set", small, "-o",      folder / "a.exr"};
    if (verb == "defocus") args.push_back("--finish");
    const Ran r = run(args);
    EXPECT_EQ(r.code, 3) << r.err;
    EXPECT_TRUE(holds_all(r.err, {"a margin of 160 and 10 px leaves nothing"}));
  }
}

TEST(SmearCommand, DepthCountsAsTheShotSaysAlsoForACameraThatMoves) {
  const TempFolder folder;
  const std::string shot = demo("drift.shot.toml");  // its depth pictures are normalised
  const std::string cg = folder / "drift.exr";
  ASSERT_EQ(run({"trace", shot, "--frame", "1049", "--set", small, "--pinhole", "--samples", "2",
                 "-o", cg})
                .code,
            0);
  Frame coded = read_picture(cg);
  for (float& z : coded.depth) {  // 0.5 to 50 m, white near
    const float t = (std::min(z, 50.0F) - 0.5F) / 49.5F;
    z = 1.0F - t;
  }
  write_picture(folder / "coded.exr", coded);
  const auto longest = [&](const std::string& picture) {
    const Ran r = run(with({"finish", shot, picture, "--frame", "1049", "-o", folder / "a.exr"},
                           {small, "finish.smear.from=camera", "finish.smear.times=8"}));
    EXPECT_EQ(r.code, 0) << r.err;
    const auto at = r.err.find("smear: up to ");
    return at == std::string::npos ? -1.0 : std::stod(r.err.substr(at + 13));
  };
  const double axial = longest(cg);
  EXPECT_GT(axial, 1.0);
  EXPECT_NEAR(longest(folder / "coded.exr"), axial, 0.11);
}

TEST(SmearCommand, MotionIsWrittenWithTheSamePixelsAsAnyPicture) {
  const TempFolder folder;
  const std::string out = folder / "m.exr";
  ASSERT_EQ(run({"trace", demo("oval.shot.toml"), "--pinhole", "--motion", "--squeezed",
                 "--samples", "1", "--set", small, "-o", out})
                .code,
            0);
  EXPECT_NEAR(read_plate_facts(out).pixel_aspect.value_or(1.0), 2.0, 1e-6);
  const Ran r = run({"trace", passing, "--pinhole", "--motion", "-o", folder / "m.png"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds_all(r.err, {"only an EXR keeps motion"}));
}

TEST(SmearCommand, TheTruthSharesItsRaysAmongMoments) {
  const TempFolder folder;
  const std::string out = folder / "t.exr";
  const Ran r = run({"trace", passing, "--frame", "1013", "--set", small, "--shutter", "--samples",
                     "4", "-o", out});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds_all(r.out, {"8 rays a pixel over 8 moments"}));
  EXPECT_TRUE(holds_all(r.err, {"each of 8 moments needs a ray: 8 a pixel instead of 4"}));
  EXPECT_EQ(run({"trace", passing, "--frame", "1013", "--moments", "4"}).code, 2);
}

// A plate whose smear is known, taken by a camera that turns by a known angle a frame.
TEST(MeasureFinish, TellsTheShutterByTheSmear) {
  const TempFolder folder;
  for (const char* name :
       {"tansy.body.toml", "linden-53.lens.toml", "regatta.gltf", "regatta.bin"}) {
    std::filesystem::copy_file(demo(name), folder / name);
  }
  std::string track = "frame,x,y,z,pan,tilt,roll\n";
  for (int f = 1; f <= 4; ++f) track += fmt::format("{},0,120,0,{},0,0\n", f, -0.6 * f);
  folder.write("pan.track.csv", track);
  std::uint32_t seed = 9951;
  plates::SmearedPlate p = plates::smeared_plate(seed, false);
  while (p.lamps < 6 || p.texture > 0.1 || p.length_px < 6.0)
    p = plates::smeared_plate(++seed, false);
  write_picture(folder / "plate.exr", {p.picture, {}, {}});
  const std::string shot = folder.write("pan.shot.toml", R"(
unit = "cm"
[body]
file = "tansy.body.toml"
[lens]
file = "linden-53.lens.toml"
[take]
stop = "f/8"
mark = "20 m"
iso = 800
shutter = "180 deg"
fps = 24
[scene]
file = "regatta.gltf"
track = "pan.track.csv"
[plate]
file = "plate.exr"
transfer = "linear"
)");
  const std::string found = folder / "found.png";
  const Ran r = run({"measure", shot, "--finish", "--json", "--overlay", found});
  ASSERT_EQ(r.code, 0) << r.err;
  const auto smear = nlohmann::json::parse(r.out)["smear"];
  EXPECT_NEAR(smear["length_px"]["value"].get<double>(), p.length_px, 0.5);
  // Half of 0.6 degrees at 53 mm on 25.9 mm, 720 px wide; a little more away from the middle.
  const double px = 720.0 * 53.0 / 25.9 * std::tan(0.3 * std::numbers::pi / 180.0);
  EXPECT_NEAR(smear["expected_px"].get<double>(), px, 0.08 * px);
  EXPECT_NEAR(smear["noted_shutter_s"].get<double>(), 1.0 / 48.0, 1e-6);
  EXPECT_NEAR(smear["shutter_s"]["value"].get<double>(), p.length_px / px / 48.0,
              0.1 * p.length_px / px / 48.0);
  EXPECT_TRUE(std::filesystem::exists(found));
  const Ran text = run({"measure", shot, "--finish"});
  EXPECT_TRUE(holds_all(text.out, {"HALO", "SPIKES", "STREAK", "SMEAR: ", "CORNERS", "GRAIN",
                                   "the plate's was open for", "which say the same"}))
      << text.out;
}

}  // namespace smear_cli_test
}  // namespace jolly_iris
