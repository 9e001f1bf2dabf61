// Seeing the set, from the command line: measure, undistort and redistort, solve --level and
// --clip, plan, page.
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <ostream>

#include "cli_support.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {
namespace view_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

TEST(Measure, FindsWhatTheQuaysShotFileDoesNotTell) {
  // The plate was made looking 14 deg up, rolled 0.8 deg, with 3.9 % of barrel.
  const Ran r = run({"measure", demo("quay.shot.toml"), "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = Json::parse(r.out);
  const double tilt = j["tilt_deg"]["value"];
  EXPECT_NEAR(tilt, 14.0, j["tilt_deg"]["margin"].get<double>() + 0.02);
  EXPECT_NEAR(j["roll_deg"]["value"].get<double>(), 0.8, 0.05);
  const double corner = 0.039 * std::hypot(960.0, 540.0);
  EXPECT_NEAR(j["distortion"]["corner_px"]["value"].get<double>(), corner,
              1.5 * j["distortion"]["corner_px"]["margin"].get<double>());
  const Ran text = run({"measure", demo("quay.shot.toml")});
  for (const char* part : {"Distortion: barrel", "1.02 deg too far down", "window tops 2",
                           "[lens.distortion]\nk1 = "}) {
    EXPECT_TRUE(holds(text.out, part));
  }
}

TEST(Measure, GivesTheFocalLengthOrSaysWhyNot) {
  const Ran r = run({"measure", demo("quay.shot.toml"), "--focal", "--only", "focal_mm.value"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_NEAR(std::stod(r.out), 19.02, 0.19);
}

TEST(Measure, AStraightLensIsNotGivenCoefficients) {
  // The quay's edges, straightened by hand beforehand.
  const LoadedShot loaded = load_shot(demo("quay.shot.toml"), {{{"variant", "measured"}}, {}, {}});
  const DistortionMap map(loaded.answer.camera);
  std::string shot = testing::plain_shot;
  for (const DrawnLine& line : loaded.now.plate->marks.lines) {
    std::string points;
    for (const auto& p : line.points) {
      const auto u = map.undistorted(p);
      if (u[0] < 0 || u[1] < 0 || u[0] > 1920 || u[1] > 1080) continue;
      points +=
          (points.empty() ? "[" : ", [") + std::to_string(u[0]) + ", " + std::to_string(u[1]) + "]";
    }
    shot += "[[plate.line]]\npoints = [" + points + "]\n";
  }
  const TempFolder folder;
  const Ran r = run({"measure", folder.write("a.shot.toml", shot)});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "Distortion: none that these edges show"));
  EXPECT_EQ(r.out.find("[lens.distortion]"), std::string::npos);
}

TEST(Measure, WhatItSaysCanBePasted) {
  const Ran toml = run({"measure", demo("quay.shot.toml"), "--only", "toml"});
  const TempFolder folder;
  const std::string shot = folder.write("a.shot.toml", std::string(testing::plain_shot) + toml.out);
  EXPECT_EQ(run({"report", shot}).code, 0) << toml.out;
}

TEST(SolveLevel, TheTriedCameraIsTheProposedOne) {
  const Ran solved =
      run({"solve", demo("quay.shot.toml"), "--level", "--keep", "960,925", "--json"});
  ASSERT_EQ(solved.code, 0) << solved.err;
  const Json j = Json::parse(solved.out);
  EXPECT_NEAR(j["tilt_deg"].get<double>(), 13.0, 1e-9);
  std::vector<std::string> args{"report", demo("quay.shot.toml"), "--json"};
  for (const Json& t : j["try"]) {
    args.emplace_back("--set");
    args.push_back(t.get<std::string>());
  }
  const Ran tried = run(args);
  ASSERT_EQ(tried.code, 0) << tried.err;
  const Json camera = Json::parse(tried.out)["camera"];
  EXPECT_NEAR(camera["focal_mm"].get<double>(), j["focal_mm"].get<double>(), 1e-5);
  EXPECT_NEAR(camera["f_number"].get<double>(), j["f_number"].get<double>(), 1e-5);
  EXPECT_NEAR(camera["focus_m"].get<double>(), j["focus_m"].get<double>(), 1e-5);
  EXPECT_NEAR(camera["shift_mm"][1].get<double>(), j["shift_up_mm"].get<double>(), 1e-5);
}

TEST(SolveLevel, LinesOfThePlateMayKnowBetterThanTheScene) {
  const Ran camera = run({"solve", demo("quay.shot.toml"), "--level"});
  EXPECT_TRUE(holds(camera.out, "looks 13.00 deg up, as it stands in the scene"));
  EXPECT_TRUE(holds(camera.out, "The plate says otherwise: it looks 14.02 deg up"));
  EXPECT_TRUE(holds(camera.out, "mm up = "));
  const Ran lines = run({"solve", demo("quay.shot.toml"), "--level", "--by", "lines"});
  EXPECT_TRUE(holds(lines.out, "14.02 deg up"));
  const Ran quiet = run({"solve", demo("quay.shot.toml"), "--level", "--by", "camera"});
  EXPECT_EQ(quiet.out.find("otherwise"), std::string::npos);
  const Ran named = run({"solve", demo("hero.shot.toml"), "--level", "--keep", "boat"});
  EXPECT_EQ(named.code, 0) << named.err;
}

TEST(SolveClip, SaysFromWhereToWhere) {
  const Ran r = run({"solve", demo("reeds.shot.toml"), "--clip", "reeds", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = Json::parse(r.out);
  EXPECT_GT(j["near_m"].get<double>(), 1.0);
  EXPECT_TRUE(j["far_m"].is_null());
}

TEST(Bend, ThePlateGoesStraightAndBack) {
  const TempFolder folder;
  const std::string straight = folder / "straight.exr";
  const std::string back = folder / "back.exr";
  const std::string map = folder / "map.exr";
  const Ran un = run(
      {"undistort", demo("quay.shot.toml"), "--variant", "measured", "-o", straight, "--map", map});
  ASSERT_EQ(un.code, 0) << un.err;
  EXPECT_TRUE(holds(un.out, "CG to redistort: 2000 x 1126 px"));
  EXPECT_EQ(read_picture(map).colour.size(), (PixelSize{2000, 1126}));
  const Ran re = run({"redistort", demo("quay.shot.toml"), "--variant", "measured", straight, "-o",
                      back, "--json"});
  ASSERT_EQ(re.code, 0) << re.err;
  EXPECT_EQ(Json::parse(re.out)["width"], 1920);
  const Frame a = read_picture(demo("quay.jpg"));
  const Frame b = read_picture(back);
  double sum = 0.0;
  for (std::size_t i = 0; i < a.colour.pixels().size(); ++i) {
    sum += static_cast<double>(std::abs(a.colour.pixels()[i][0] - b.colour.pixels()[i][0]));
  }
  EXPECT_LT(sum / static_cast<double>(a.colour.pixels().size()), 0.002);
  const Ran cropped = run({"undistort", demo("quay.shot.toml"), "--variant", "measured",
                           "--same-size", "-o", folder / "crop.png", "--only", "width"});
  EXPECT_EQ(std::stoi(cropped.out), 1920);
}

TEST(PlanVerb, WritesPicturesAndDrawings) {
  const TempFolder folder;
  const Ran r = run(
      {"plan", demo("drift.shot.toml"), "-o", folder / "a.png", "-o", folder / "a.svg", "--side"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "1280 x 800, the set from the side"));
  EXPECT_EQ(read_picture(folder / "a.png").colour.size(), (PixelSize{1280, 800}));
  EXPECT_TRUE(holds(slurp(folder / "a.svg"), "</svg>"));
}

TEST(PageVerb, IsWholeWithoutPlateSceneOrPictures) {
  const TempFolder folder;
  const std::string shot = folder.write("a.shot.toml", testing::plain_shot);
  const Ran r = run({"page", shot, "-o", folder / "a.html"});
  EXPECT_EQ(r.code, 0) << r.err;
  const std::string html = slurp(folder / "a.html");
  EXPECT_TRUE(holds(html, "</html>"));
  for (const char* part : {"@DATA@", "@TITLE@", "@STYLE@", "@SCRIPT@", "http://", "https://"}) {
    const bool svg = std::string(part) == "http://";  // the drawing's name space is no address
    const std::string text = svg ? html.substr(0, html.find("application/json")) : html;
    EXPECT_EQ(text.find(part), std::string::npos) << part;
  }
}

TEST(PageVerb, NamesCannotBreakOutOfThePage) {
  const TempFolder folder;
  const std::string shot =
      folder.write("a.shot.toml", std::string(testing::plain_shot) +
                                      "[[subject]]\nname = \"</script><b>x\"\nat = \"3 m\"\n");
  ASSERT_EQ(run({"page", shot, "-o", folder / "a.html"}).code, 0);
  EXPECT_EQ(slurp(folder / "a.html").find("</script><b>"), std::string::npos);
}

struct Bad {
  const char* name;
  std::vector<std::string> args;
  int code;
  const char* says;
};
void PrintTo(const Bad& bad, std::ostream* out) { *out << bad.name; }

class BadViews : public ::testing::TestWithParam<Bad> {};

TEST_P(BadViews, AreRefusedAndLeaveNothingBehind) {
  const TempFolder folder;
  folder.write("plain.shot.toml", testing::plain_shot);
  folder.write("square.shot.toml",
               std::string(testing::plain_shot) + "[lens.distortion]\nk1 = 0.03\n");
  folder.write("two.shot.toml",
               std::string(testing::plain_shot) + "[[plate.line]]\npoints = [[1, 2], [3, 9]]\n");
  folder.write("shape.shot.toml", std::string(testing::plain_shot) + "[plate]\nfile = \"p.png\"\n");
  write_picture(folder / "p.png", Frame{Picture({64, 64}), {}});
  const std::size_t before = folder.count();
  const auto home = std::filesystem::current_path();
  std::filesystem::current_path(folder.path());
  const Ran r = run(GetParam().args);
  std::filesystem::current_path(home);
  EXPECT_EQ(r.code, GetParam().code) << r.err;
  EXPECT_TRUE(holds(r.err, GetParam().says));
  EXPECT_EQ(r.out, "");
  EXPECT_EQ(folder.count(), before);
}

const std::string hero = demo("hero.shot.toml");
const std::string quay = demo("quay.shot.toml");

INSTANTIATE_TEST_SUITE_P(
    All, BadViews,
    ::testing::Values(
        Bad{"measure_nothing", {"measure", "plain.shot.toml"}, 2, "no edges drawn in its plate"},
        Bad{"measure_too_little", {"measure", "two.shot.toml"}, 1, "the drawn edges tell nothing"},
        Bad{"measure_drawn", {"measure", quay, "--drawn", "0"}, 2, "--drawn"},
        Bad{"measure_focal", {"measure", "two.shot.toml", "--focal"}, 1, "two sets"},
        Bad{"level_unknown", {"solve", "plain.shot.toml", "--level"}, 1, "how the camera leans"},
        Bad{"level_by", {"solve", hero, "--level", "--by", "eye"}, 2, "--by eye: write"},
        Bad{"level_by_lines", {"solve", hero, "--level", "--by", "lines"}, 1, "vertical edges"},
        Bad{"level_keep", {"solve", hero, "--level", "--keep", "boot"}, 2, "Did you mean 'boat'?"},
        Bad{"level_keep_half", {"solve", hero, "--level", "--keep", "3,"}, 2, "write e.g. 960,540"},
        Bad{"keep_alone",
            {"solve", hero, "--clip", "boat", "--keep", "boat"},
            2,
            "belong to --level"},
        Bad{"by_lines_alone",
            {"solve", hero, "--blur", "3 px", "--by", "lines"},
            2,
            "belong to --level"},
        Bad{"two_wishes",
            {"solve", hero, "--level", "--clip", "boat"},
            2,
            "one thing that is wanted"},
        Bad{"clip_name",
            {"solve", hero, "--clip", "bridge lamp"},
            2,
            "Did you mean 'bridge lamps'?"},
        Bad{"clip_empty", {"solve", hero, "--clip", "boat,"}, 2, "a name is empty"},
        Bad{"clip_no_scene",
            {"solve", "plain.shot.toml", "--clip", "wall"},
            2,
            "has no scene to clip"},
        Bad{"clip_none", {"solve", hero, "--clip", "footbridge"}, 1, "no clip distance removes"},
        Bad{"undistort_unknown", {"undistort", hero}, 2, "says nothing of the lens's distortion"},
        Bad{"undistort_no_plate", {"undistort", "square.shot.toml"}, 2, "names no plate"},
        Bad{"undistort_shape",
            {"undistort", "square.shot.toml", "p.png"},
            3,
            "is 64 x 64 px; the shot's plate is 1920 x 1080"},
        Bad{"undistort_out",
            {"undistort", "square.shot.toml", "p.png", "-o", "a.gif"},
            2,
            ".exr, .png, .tif or .jpg"},
        Bad{"undistort_map",
            {"undistort", "square.shot.toml", "--map", "m.png"},
            2,
            "write it as .exr"},
        Bad{"undistort_transfer",
            {"undistort", "square.shot.toml", "p.png", "--transfer", "rgb"},
            2,
            "--transfer rgb"},
        Bad{"redistort_nothing", {"redistort", "square.shot.toml"}, 2, "name the CG picture"},
        Bad{"redistort_shape",
            {"redistort", "square.shot.toml", "p.png"},
            3,
            "with the margin that fills the frame"},
        Bad{"redistort_missing", {"redistort", "square.shot.toml", "none.exr"}, 3, "none.exr"},
        Bad{"plan_ending", {"plan", hero, "-o", "a.gif"}, 2, "ends in .png or .svg"},
        Bad{"plan_folder", {"plan", hero, "-o", "none/a.png"}, 3, "none/a.png"},
        Bad{"page_ending", {"page", hero, "-o", "a.txt"}, 2, "ends in .html"},
        Bad{"page_with", {"page", "plain.shot.toml", "--with", "none.png"}, 3, "none.png"},
        Bad{"page_shape", {"page", "shape.shot.toml"}, 2, "another shape"},
        Bad{"steps_one", {"page", hero, "--steps", "take.stop=f/2"}, 2, "two or more values"},
        Bad{"steps_blank",
            {"page", hero, "--steps", "take.stop=f/2,,f/4"},
            2,
            "two or more values"},
        Bad{"steps_no_key", {"page", hero, "--steps", "=f/2,f/4"}, 2, "write a key"},
        Bad{"steps_many",
            {"page", hero, "--steps", "a=1,2,3,4,5,6,7,8,9,0,1,2,3,4,5,6,7,8,9,0,1,2,3,4,5"},
            2,
            "24 are the most"},
        Bad{"steps_key",
            {"page", hero, "--sharp", demo("pinhole.exr"), "--steps", "take.stoop=f/2,f/4"},
            2,
            "take.stop"},
        Bad{"steps_value",
            {"page", hero, "--sharp", demo("pinhole.exr"), "--steps", "take.stop=2,4"},
            2,
            "take.stop"},
        Bad{"steps_framing",
            {"page", hero, "--sharp", demo("pinhole.exr"), "--steps", "lens.focal=53 mm,85 mm"},
            2,
            "changes the framing"},
        Bad{"steps_no_scene",
            {"page", "plain.shot.toml", "--steps", "take.stop=f/2,f/4"},
            2,
            "--sharp FILE.exr"},
        Bad{"steps_no_depth",
            {"page", hero, "--sharp", demo("quay.jpg"), "--steps", "take.stop=f/2,f/4"},
            3,
            "has no depth"},
        Bad{"sharp_alone", {"page", hero, "--sharp", demo("pinhole.exr")}, 2, "give both"}),
    [](const auto& each) { return std::string(each.param.name); });

}  // namespace view_cli_test
}  // namespace jolly_iris
