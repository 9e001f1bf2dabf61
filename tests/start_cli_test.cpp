// A shot begun from what there is: complete at once, and honest of what nobody said.
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <limits>
#include <nlohmann/json.hpp>

#include "cli_support.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {
namespace start_cli_test {

using namespace testing;
using Json = nlohmann::json;

std::vector<std::string> guessed_keys(const Ran& r) {
  const Json said = Json::parse(r.out);
  std::vector<std::string> keys;
  for (const Json& g : said["guesses"]) keys.push_back(g["key"]);
  return keys;
}

// One camera of 40 degrees up and down; a small thing in the middle, a smaller one nearer but
// beside, and a wall behind all of it.
std::string scene_in(const TempFolder& folder, const std::string& more_cameras = "") {
  const std::string box = R"({"primitives":[{"attributes":{"POSITION":0}}]})";
  // A square of one metre as two triangles.
  const std::vector<float> square{-0.5F, -0.5F, 0, 0.5F, -0.5F, 0, 0.5F,  0.5F, 0,
                                  -0.5F, -0.5F, 0, 0.5F, 0.5F,  0, -0.5F, 0.5F, 0};
  folder.write("set.bin", std::string(reinterpret_cast<const char*>(square.data()),
                                      square.size() * sizeof(float)));
  return folder.write("set.gltf",
                      R"({"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0,1,2,3]}],
"cameras":[{"name":"eye","type":"perspective","perspective":{"yfov":0.698131700797732,"aspectRatio":2.0,"znear":0.1}}],
"nodes":[{"name":"eye","camera":0},
{"name":"kite","mesh":0,"scale":[0.4,0.4,0.4],"translation":[0.2,0.1,-4]},
{"name":"post","mesh":0,"scale":[0.1,0.5,0.1],"translation":[-0.9,0,-2]},
{"name":"wall","mesh":0,"scale":[40,40,1],"translation":[0,0,-9]})" +
                          more_cameras + R"(],
"meshes":[)" + box + R"(],
"buffers":[{"uri":"set.bin","byteLength":72}],
"bufferViews":[{"buffer":0,"byteLength":72}],
"accessors":[{"bufferView":0,"componentType":5126,"count":6,"type":"VEC3","min":[-0.5,-0.5,0],"max":[0.5,0.5,0]}]})");
}

TEST(Start, OfASceneAloneReportsAtOnceAndSeesAsItsCameraDoes) {
  const TempFolder folder;
  const std::string shot = folder / "set.shot.toml";
  const Ran r = run({"start", scene_in(folder), "-o", shot, "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(guessed_keys(r), (std::vector<std::string>{"body.pixels", "body.gate", "lens.focal",
                                                       "take.stop", "focus.on"}));
  const Json said = Json::parse(r.out);
  EXPECT_EQ(said["cameras"], Json::array({"eye"}));
  ASSERT_EQ(said["subjects"].size(), 3U) << r.out;
  EXPECT_EQ(said["subjects"][0]["name"], "post");
  EXPECT_NEAR(said["subjects"][1]["longest_m"].get<double>(), 0.4, 1e-6);
  const LoadedShot loaded = load_shot(shot);
  EXPECT_EQ(loaded.shot.body.pixels, (PixelSize{1920, 960}));
  // The wall is all there is, the post beside: the kite is what one means.
  EXPECT_EQ(loaded.shot.focus.on, "kite");
  EXPECT_NEAR(loaded.answer.camera.focus.m(), 4.0, 1e-9);
  // Focused there the view is the scene's: focal lengths are written with six digits.
  const double half = 0.5 * loaded.answer.camera.gate.width.mm() / 2.0;  // twice as wide as high
  const double up = 2.0 * std::atan(half / loaded.answer.camera.focal.mm());
  EXPECT_NEAR(up, 0.698131700797732, 1e-5);
}

TEST(Start, TellsItsGuessesInEveryReportUntilTheyAreTakenOff) {
  const TempFolder folder;
  const std::string shot = folder / "set.shot.toml";
  ASSERT_EQ(run({"start", scene_in(folder), "-o", shot}).code, 0);
  EXPECT_TRUE(holds(run({"report", shot}).out, "Guessed: take.stop = f/2.8. Nobody said a stop"));
  EXPECT_FALSE(holds(run({"report", shot, "--set", "take.stop=f/2"}).out, "Guessed: take.stop"));
  const Json j = Json::parse(run({"report", shot, "--json"}).out);
  EXPECT_EQ(j["origins"]["take.stop"]["from"], "guessed");
  EXPECT_TRUE(holds(j["origins"]["body.gate"]["why"].get<std::string>(), "super 35"));
  std::string text = slurp(shot);
  const auto at = text.find("take.stop = ");
  ASSERT_NE(at, std::string::npos) << text;
  text.erase(at, text.find('\n', at) - at + 1);
  EXPECT_FALSE(
      holds(run({"report", folder.write("set.shot.toml", text)}).out, "Guessed: take.stop"));
}

TEST(Start, ListsCamerasAndTakesTheOneThatIsNamed) {
  const TempFolder folder;
  const std::string scene =
      scene_in(folder, R"(,{"name":"second eye","camera":0,"translation":[0,0,1]})");
  std::string text = slurp(scene);
  text.replace(text.find("[0,1,2,3]"), 9, "[0,1,2,3,4]");
  text.replace(text.find(R"("name":"eye","type")"), 19, R"("type")");
  (void)folder.write("set.gltf", text);
  Ran r = run({"start", scene, "-o", folder / "a.shot.toml", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(Json::parse(r.out)["cameras"], Json::array({"eye", "second eye"}));
  EXPECT_EQ(guessed_keys(r).front(), "scene.camera");
  r = run({"start", scene, "--camera", "second eye", "-o", folder / "b.shot.toml", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(guessed_keys(r).front(), "body.pixels");
  EXPECT_EQ(run({"report", folder / "b.shot.toml", "--only", "subjects.kite.axial_m"}).out,
            "5.0\n");
  r = run({"start", scene, "--camera", "secnd eye", "-o", folder / "c.shot.toml"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "second eye")) << r.err;
  EXPECT_FALSE(std::filesystem::exists(folder / "c.shot.toml"));
}

TEST(Start, OfAPlateFillsInWhatItKnows) {
  const TempFolder folder;
  const std::string out = folder / "first.shot.toml";
  Ran r = run({"start", demo("plate.jpg"), "-o", out});
  ASSERT_EQ(r.code, 0) << r.err;
  const std::string text = slurp(out);
  EXPECT_TRUE(holds(text, "focal = \"53 mm\""));
  EXPECT_TRUE(holds(text, "stop = \"f/2.2\""));
  EXPECT_TRUE(holds(text, "iso = 800"));
  EXPECT_TRUE(holds(text, "shutter = \"1/50 s\""));
  EXPECT_TRUE(holds(text, "pixels = \"1280 x 720\""));
  EXPECT_EQ(run({"report", out}).code, 0);
  r = run({"start", demo("plate.jpg"), "-o", out});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "is there already"));
  r = run({"start", demo("plate.jpg"), "-o", out, "--replace", "--json"});
  EXPECT_EQ(Json::parse(r.out)["iso"], 800.0);
  EXPECT_EQ(guessed_keys(r), std::vector<std::string>{"body.gate"});
}

TEST(Start, OfABarePictureGuessesAllOfIt) {
  const TempFolder folder;
  write_picture(folder / "bare.exr", Frame{Picture({64, 36}), {}});
  const Ran r = run({"start", folder / "bare.exr", "-o", folder / "a.shot.toml", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(guessed_keys(r),
            (std::vector<std::string>{"body.gate", "lens.focal", "take.stop", "focus.at"}));
  EXPECT_TRUE(holds(slurp(folder / "a.shot.toml"), "file = \"bare.exr\""));
  EXPECT_EQ(run({"report", folder / "a.shot.toml"}).code, 0);
}

TEST(Start, TakesAPlateASceneAndADepthPictureTogether) {
  const TempFolder folder;
  const std::string scene = scene_in(folder);
  Frame cg{Picture({192, 96}, {0.2F, 0.2F, 0.2F, 1}), std::vector<float>(192 * 96, 4.0F)};
  write_picture(folder / "cg.exr", cg);
  write_picture(folder / "plate.png", Frame{Picture({384, 192}, {0.2F, 0.2F, 0.2F, 1}), {}});
  const Ran r = run({"start", folder / "cg.exr", scene, folder / "plate.png", "-o",
                     folder / "a.shot.toml", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const LoadedShot loaded = load_shot(folder / "a.shot.toml");
  EXPECT_EQ(loaded.shot.body.pixels, (PixelSize{384, 192}));
  EXPECT_EQ(std::filesystem::path(loaded.shot.plate->file).filename(), "plate.png");
  EXPECT_EQ(std::filesystem::path(loaded.shot.depth->file).filename(), "cg.exr");
  EXPECT_EQ(guessed_keys(r), (std::vector<std::string>{"body.gate", "lens.focal", "take.stop",
                                                       "focus.on", "depth.kind"}));
  EXPECT_EQ(run({"start", scene, scene, "-o", folder / "b.shot.toml"}).code, 2);
  EXPECT_EQ(
      run({"start", folder / "plate.png", "--camera", "eye", "-o", folder / "b.shot.toml"}).code,
      2);
}

TEST(Start, OfADepthPictureFocusesOnItsMiddleAndDoubtsSharesOfOne) {
  const TempFolder folder;
  Frame cg{Picture({96, 54}, {0.2F, 0.2F, 0.2F, 1}), std::vector<float>(96 * 54, 0.75F)};
  write_picture(folder / "z.exr", cg);
  const Ran r = run({"start", folder / "z.exr", "-o", folder / "a.shot.toml", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json said = Json::parse(r.out);
  ASSERT_EQ(said["notes"].size(), 1U) << r.out;
  EXPECT_TRUE(holds(said["notes"][0].get<std::string>(), "it may be normalised"));
  EXPECT_EQ(run({"report", folder / "a.shot.toml", "--only", "camera.focus_m"}).out, "0.75\n");
}

TEST(Start, CountsAsAUsdaDoesAndDoubtsAbsurdSizes) {
  const TempFolder folder;
  const std::string usda = folder.write("set.usda", R"(#usda 1.0
(
    metersPerUnit = 0.01
    upAxis = "Y"
)
def Camera "eye"
{
    float focalLength = 35
    float horizontalAperture = 24
    float verticalAperture = 13.5
    float fStop = 2
    float focusDistance = 250
}
)");
  const Ran r = run({"start", usda, "-o", folder / "a.shot.toml", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(guessed_keys(r), std::vector<std::string>{"body.pixels"})
      << slurp(folder / "a.shot.toml");
  EXPECT_TRUE(holds(slurp(folder / "a.shot.toml"), "unit = \"cm\""));
  const LoadedShot loaded = load_shot(folder / "a.shot.toml");
  EXPECT_NEAR(loaded.answer.camera.focus.m(), 2.5, 1e-6);
  EXPECT_NEAR(loaded.answer.camera.focal.mm(), 35.0, 0.01);
  // Centimetres written as if they were metres.
  std::string text = slurp(scene_in(folder));
  for (const auto& [from, to] : {std::pair("0.2,0.1,-4", "20,10,-400000"),
                                 {"-0.9,0,-2", "0,0,-300000"},
                                 {"0,0,-9]", "0,0,-900000]"}}) {
    text.replace(text.find(from), std::string(from).size(), to);
  }
  const Ran far = run({"start", folder.write("set.gltf", text), "-o", folder / "b.shot.toml"});
  ASSERT_EQ(far.code, 0) << far.err;
  EXPECT_TRUE(holds(far.err, "half of what the camera sees is farther than 2000 m")) << far.err;
  EXPECT_TRUE(holds(far.err, "scale = 0.01"));
}

// What was noted leads over what could be guessed; sky is nothing to focus on.
TEST(Start, GuessesNoFocusWhereOneIsNotedAndNoneInTheSky) {
  const TempFolder folder;
  const Ran noted = run({"start", demo("plate.jpg"), demo("regatta.gltf"), "--camera",
                         "taking camera", "-o", folder / "a.shot.toml", "--json"});
  ASSERT_EQ(noted.code, 0) << noted.err;
  EXPECT_EQ(guessed_keys(noted), std::vector<std::string>{"body.gate"});
  EXPECT_GE(Json::parse(noted.out)["subjects"].size(), 20U);
  EXPECT_EQ(load_shot(folder / "a.shot.toml").answer.focus_description, "mark 2.4 m");
  const float sky = std::numeric_limits<float>::infinity();
  write_picture(folder / "sky.exr",
                Frame{Picture({96, 54}, {0.2F, 0.2F, 0.2F, 1}), std::vector<float>(96 * 54, sky)});
  const Ran r = run({"start", folder / "sky.exr", "-o", folder / "b.shot.toml", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(guessed_keys(r), (std::vector<std::string>{"body.gate", "lens.focal", "take.stop",
                                                       "focus.at", "depth.kind"}));
  EXPECT_EQ(run({"report", folder / "b.shot.toml"}).code, 0);
}

TEST(Start, IsNotUpsetByOddCamerasAndOtherFiles) {
  const TempFolder folder;
  std::string text = slurp(scene_in(folder));
  const std::string good = "\"aspectRatio\":2.0";
  text.replace(text.find(good), good.size(), "\"aspectRatio\":1e-6");
  Ran r = run({"start", folder.write("set.gltf", text), "-o", folder / "a.shot.toml"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(load_shot(folder / "a.shot.toml").shot.body.pixels, (PixelSize{1920, 1080}));
  const std::string view = "\"yfov\":0.698131700797732";
  text.replace(text.find(view), view.size(), "\"yfov\":1e-5");
  r = run({"start", folder.write("set.gltf", text), "-o", folder / "b.shot.toml"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(run({"report", folder / "b.shot.toml"}).code, 0);
  r = run({"start", folder.write("set.usdc", "PXR-USDC"), "-o", folder / "c.shot.toml"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "is no scene of a kind that is read: .gltf, .glb or .usda")) << r.err;
}

TEST(Start, RefusesASceneWithoutACamera) {
  const TempFolder folder;
  const std::string scene = folder.write(
      "set.gltf", R"({"asset":{"version":"2.0"},"scenes":[{"nodes":[0]}],"nodes":[{"name":"a"}]})");
  const Ran r = run({"start", scene, "-o", folder / "a.shot.toml"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "has no camera; place one in it")) << r.err;
  EXPECT_FALSE(std::filesystem::exists(folder / "a.shot.toml"));
}

}  // namespace start_cli_test
}  // namespace jolly_iris
