// The camera and its focus from the command line: frames, dialects, solving, handing over.
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "cli_support.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {
namespace camera_cli_test {

using testing::demo;
using testing::holds;
using testing::plain_shot;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

TEST(ReportFrames, TellsFocusAndBlurFrameByFrame) {
  const Ran r = run({"report", demo("drift.shot.toml"), "--frames", "all", "--step", "48"});
  EXPECT_EQ(r.code, 0) << r.err;
  for (const char* part :
       {"frame", "boat", "second boat", "footbridge", "blur px", "1001", "1049", "1097"}) {
    EXPECT_TRUE(holds(r.out, part));
  }
  const Ran of = run({"report", demo("drift.shot.toml"), "--frames", "1001-1003", "--of", "reeds"});
  EXPECT_TRUE(holds(of.out, "reeds"));
  EXPECT_EQ(of.out.find("footbridge"), std::string::npos);
}

TEST(ReportFrames, CsvAndJsonHaveEverySubject) {
  const Ran csv =
      run({"report", demo("drift.shot.toml"), "--frames", "1001-1097", "--step", "96", "--csv"});
  EXPECT_EQ(std::count(csv.out.begin(), csv.out.end(), '\n'), 3);
  EXPECT_TRUE(holds(csv.out, "buoy 9 coc_px"));
  const Ran json = run({"report", demo("drift.shot.toml"), "--frames", "1030-1030", "--json"});
  const Json j = Json::parse(json.out);
  EXPECT_NEAR(j["frames"][0]["subjects"]["boat"]["coc_px"].get<double>(), 0.0, 1e-9);
  const Ran one = run(
      {"report", demo("drift.shot.toml"), "--frames", "1030-1030", "--only", "frames.0.focus_m"});
  EXPECT_EQ(std::stod(one.out), j["frames"][0]["focus_m"].get<double>());
}

TEST(ReportFrames, OneFrameIsTheFullReportThere) {
  const Ran r = run({"report", demo("drift.shot.toml"), "--frame", "1040"});
  EXPECT_TRUE(holds(r.out, "focus from on boat to on second boat (50 % of the time, smooth)"));
  EXPECT_TRUE(holds(r.out, "frame 1040"));
}

TEST(ReportVariant, LaysItOver) {
  const Ran r = run({"report", demo("drift.shot.toml"), "--variant", "night"});
  EXPECT_TRUE(holds(r.out, "(variant night)"));
  EXPECT_TRUE(holds(r.out, "f/1.8"));
}

TEST(ReportFor, PrintsJustTheFieldsInTheirOrder) {
  const Ran r = run({"report", demo("hero.shot.toml"), "--for", "fixed-gate"});
  EXPECT_EQ(r.code, 0) << r.err;
  const auto f = r.out.find("Stop");
  const auto focus = r.out.find("Sharp at");
  const auto focal = r.out.find("Lens, for 20 mm");
  EXPECT_TRUE(f < focus && focus < focal && focal != std::string::npos) << r.out;
  const Ran json =
      run({"report", demo("hero.shot.toml"), "--for", "shares", "--only", "fields.Sharp at.value"});
  const Ran ray = run({"report", demo("hero.shot.toml"), "--only", "subjects.boat.radial_m"});
  EXPECT_NEAR(std::stod(json.out), std::stod(ray.out), 1e-6);
}

TEST(ReportAgainst, TypedNumbersAndHandedOverCameras) {
  const TempFolder folder;
  const auto typed =
      folder.write("a.typed.toml", "dialect = \"" JOLLY_IRIS_DIALECTS
                                   "/focal-and-gate.dialect.toml\"\n[typed]\n"
                                   "\"Focal length\" = 53\n\"Gate width\" = 25.9\n"
                                   "\"F-number\" = 0.68\n\"Focus distance\" = 239\n");
  const Ran r = run({"report", demo("hero.shot.toml"), "--against", typed});
  EXPECT_TRUE(holds(r.out, "without the adapter"));
  EXPECT_TRUE(holds(r.out, "opening 3.24 x too wide for f/2.2"));
  EXPECT_TRUE(holds(r.out, "focus 4 cm behind boat"));
  ASSERT_EQ(run({"handoff", demo("hero.shot.toml"), "--to", folder.path().string()}).code, 0);
  for (const char* file : {"hero.camera.gltf", "hero.camera.usda"}) {
    const Ran same = run({"report", demo("hero.shot.toml"), "--against", folder / file});
    EXPECT_TRUE(holds(same.out, "It equals the shot's camera")) << same.err;
  }
}

TEST(Solve, HoldsSubjectsByName) {
  const Ran r = run({"solve", demo("hero.shot.toml"), "--hold", "boat,second boat"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "both just sharp"));
  EXPECT_TRUE(holds(r.out, "Try it: jolly-iris report"));
  const Ran json =
      run({"solve", demo("hero.shot.toml"), "--hold", "2 m,3.5m", "--only", "focus_m"});
  EXPECT_NEAR(std::stod(json.out), 2.545455, 1e-6);
}

TEST(Solve, TellsWhereDiffractionIsAboveTheLimit) {
  const TempFolder folder;
  const auto shot = folder.write("a.shot.toml",
                                 "[body]\ngate = \"25.9 x 14.6 mm\"\npixels = \"3840 x 2160\"\n"
                                 "[lens]\nfocal = \"50 mm\"\n[take]\nstop = \"f/2.8\"\n"
                                 "mark = \"3 m\"\n");
  const Ran r = run({"solve", shot, "--hold", "2m,3.5m"});
  EXPECT_TRUE(holds(r.out, "focus 2.545455 m, f/20.2544 on the lens"));
  EXPECT_TRUE(holds(r.out, "Diffraction alone blurs by 4.1 px there"));
}

TEST(Solve, WhatItSaysToTryDoesIt) {
  for (const double wanted :
       {20.0, 40.0}) {  // more than the lens makes wide open: it is tried wider
    const Ran solved = run({"solve", demo("hero.shot.toml"), "--blur",
                            std::to_string(wanted) + " px", "--at", "footbridge", "--json"});
    ASSERT_EQ(solved.code, 0) << solved.err;
    EXPECT_EQ(solved.out.find("This lens opens to f/1.8 only") != std::string::npos, wanted > 34.0);
    std::vector<std::string> args{"report", demo("hero.shot.toml"), "--only",
                                  "subjects.footbridge.coc_px"};
    const Json found = Json::parse(solved.out);
    for (const Json& t : found["try"]) {
      args.push_back("--set");
      args.push_back(t.get<std::string>());
    }
    EXPECT_NEAR(std::stod(run(args).out), wanted, 1e-3);
  }
}

TEST(Solve, SaysWhereNoLensDoesIt) {
  const Ran f = run({"solve", demo("hero.shot.toml"), "--blur", "300 px"});
  EXPECT_EQ(f.code, 0);
  EXPECT_TRUE(holds(f.out, "the most any lens in air can have"));
  const Ran lens =
      run({"solve", demo("hero.shot.toml"), "--blur", "300 px", "--at", "2.4m", "--by", "lens"});
  EXPECT_EQ(lens.code, 1);
  EXPECT_TRUE(holds(lens.err, "ever longer ones tend to"));
}

TEST(Solve, TheSamePictureOnAnotherBody) {
  const TempFolder folder;
  const auto body = folder.write("willow.body.toml",
                                 "gate = \"full frame\"\n"
                                 "pixels = \"1920 x 1080\"\n");
  const Ran r = run({"solve", demo("hero.shot.toml"), "--body", body, "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  std::vector<std::string> args{"report", demo("hero.shot.toml"), "--json"};
  const Json before = Json::parse(run(args).out);
  const Json found = Json::parse(r.out);
  for (const Json& t : found["try"]) {
    args.push_back("--set");
    args.push_back(t.get<std::string>());
  }
  const Json after = Json::parse(run(args).out);
  for (std::size_t i = 0; i < before["subjects"].size(); ++i) {
    EXPECT_NEAR(after["subjects"][i]["coc_px"].get<double>(),
                before["subjects"][i]["coc_px"].get<double>(), 1e-3);
  }
}

TEST(Handoff, WritesMotionInEveryForm) {
  const TempFolder folder;
  const Ran r = run(
      {"handoff", demo("drift.shot.toml"), "--to", folder.path().string(), "--variant", "night"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json gltf = Json::parse(slurp(folder / "drift.night.camera.gltf"));
  EXPECT_EQ(gltf["animations"][0]["channels"].size(), 2U);
  EXPECT_EQ(gltf["accessors"][0]["count"], 97);
  EXPECT_TRUE(holds(slurp(folder / "drift.night.camera.usda"), "fStop.timeSamples"));
  const std::string csv = slurp(folder / "drift.night.camera.csv");
  EXPECT_EQ(std::count(csv.begin(), csv.end(), '\n'), 98);
  EXPECT_TRUE(holds(r.out, "glTF cannot change a focal length"));
}

TEST(Handoff, StampsAnExrAndLeavesItsPixelsAlone) {
  const TempFolder folder;
  const auto picture = folder / "plate.exr";
  std::filesystem::copy_file(demo("pinhole.exr"), picture);
  const Frame before = read_picture(picture);
  const Ran r =
      run({"handoff", demo("hero.shot.toml"), "--to", folder.path().string(), "--stamp", picture});
  ASSERT_EQ(r.code, 0) << r.err;
  const Frame after = read_picture(picture);
  EXPECT_EQ(before.colour.pixels(), after.colour.pixels());
  EXPECT_EQ(before.depth, after.depth);
  EXPECT_TRUE(holds(slurp(picture), "jolly_iris:f_number"));
  const Ran png = run({"handoff", demo("hero.shot.toml"), "--to", folder.path().string(), "--stamp",
                       demo("plate.jpg")});
  EXPECT_EQ(png.code, 2);
  EXPECT_TRUE(holds(png.err, "is not an EXR"));
}

// Focus picked in the demo's own depth picture: the hero boat is a little left of the middle.
TEST(FocusPick, SaysPixelDepthAndName) {
  const TempFolder folder;
  std::string shot = slurp(demo("hero.shot.toml"));
  const auto on = shot.find("on = \"boat\"");
  shot.replace(on, shot.find('\n', on) - on, "pixel = [862, 940]");
  for (const char* name : {"tansy.body.toml", "linden-53.lens.toml", "regatta.gltf"}) {
    const auto at = shot.find(std::string("\"") + name + "\"");
    shot.insert(at + 1, demo(""));
  }
  shot += "[depth]\nfile = \"" + demo("pinhole.exr") + "\"\n";
  const Ran r = run({"report", folder.write("a.shot.toml", shot)});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "focus pixel 862, 940 of pinhole.exr: 2."));
  EXPECT_TRUE(holds(r.out, "(boat)"));
}

struct WrongUse {
  const char* name;
  std::vector<std::string> args;
  int code;
  const char* part;
};
std::ostream& operator<<(std::ostream& out, const WrongUse& w) { return out << w.name; }
class WrongUses : public ::testing::TestWithParam<WrongUse> {};
TEST_P(WrongUses, AreTold) {
  const Ran r = run(GetParam().args);
  EXPECT_EQ(r.code, GetParam().code);
  EXPECT_TRUE(holds(r.err, GetParam().part));
  EXPECT_EQ(r.out, "");
}
const std::string hero = demo("hero.shot.toml");
INSTANTIATE_TEST_SUITE_P(
    Camera, WrongUses,
    ::testing::Values(
        WrongUse{"frames_text",
                 {"report", hero, "--frames", "first"},
                 2,
                 "--frames: 'first' names no frames; write 1001-1100"},
        WrongUse{"frames_turned", {"report", hero, "--frames", "9-1"}, 2, "are none"},
        WrongUse{"frames_of_nothing", {"report", hero, "--frames", "all"}, 2, "[frames] first"},
        WrongUse{"step_alone", {"report", hero, "--step", "4"}, 2, "--step needs --frames"},
        WrongUse{"csv_alone", {"report", hero, "--csv"}, 2, "belong to --frames"},
        WrongUse{"of_nobody",
                 {"report", hero, "--frames", "1-2", "--of", "baot"},
                 2,
                 "Did you mean 'boat'"},
        WrongUse{"two_reports",
                 {"report", hero, "--frames", "1-2", "--for", "shares"},
                 2,
                 "ask for one of them"},
        WrongUse{"dialect", {"report", hero, "--for", "nothing"}, 3, "focal-and-gate"},
        WrongUse{"against", {"report", hero, "--against", "nothing.usda"}, 3, "nothing.usda"},
        WrongUse{"frame", {"report", hero, "--frame", "late"}, 2, "--frame"},
        WrongUse{"aim", {"report", hero, "--set", "scene.aim=baot"}, 2, "Did you mean 'boat'"},
        WrongUse{"variant", {"report", hero, "--variant", "night"}, 2, "no such variant"},
        WrongUse{"solve_nothing", {"solve", hero}, 2, "say one thing that is wanted"},
        WrongUse{"solve_two", {"solve", hero, "--hold", "a,b", "--blur", "2 px"}, 2, "one thing"},
        WrongUse{"hold_one", {"solve", hero, "--hold", "boat"}, 2, "write two"},
        WrongUse{"hold_nobody", {"solve", hero, "--hold", "boat,brigde"}, 2, "Did you mean"},
        WrongUse{"hold_equal", {"solve", hero, "--hold", "2m,2m"}, 1, "two different distances"},
        WrongUse{"blur", {"solve", hero, "--blur", "much"}, 2, "12 px"},
        WrongUse{
            "at_alone", {"solve", hero, "--hold", "2m,3m", "--at", "boat"}, 2, "belong to --blur"},
        WrongUse{"by", {"solve", hero, "--blur", "2 px", "--by", "iso"}, 2, "stop, lens or all"},
        WrongUse{"blur_in_focus", {"solve", hero, "--blur", "2 px", "--at", "boat"}, 1, "no stop"},
        WrongUse{"body", {"solve", hero, "--body", "none.toml"}, 3, "none.toml"},
        WrongUse{"adapter", {"solve", hero, "--body", "x", "--adapter", "0"}, 2, "above zero"},
        WrongUse{"stamp", {"handoff", hero, "--to", "/tmp", "--stamp", "none.exr"}, 3, "none.exr"}),
    [](const auto& each) { return each.param.name; });

}  // namespace camera_cli_test
}  // namespace jolly_iris
