// measure --discs and match, from the command line, on the demo's plate.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "cli_support.hpp"
#include "jolly_iris/picture_file.hpp"

namespace jolly_iris {
namespace {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

TEST(MeasureDiscsCli, TellsTheDemosIrisAndDrawsWhatItFound) {
  const TempFolder folder;
  const Ran r = run(
      {"measure", demo("hero.shot.toml"), "--discs", "--json", "--overlay", folder / "discs.png"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = Json::parse(r.out);
  EXPECT_GE(j["discs"].size(), 15U);
  // The plate was traced through eight blades, 1.6 times the opening's radius, turned by 11°.
  EXPECT_EQ(j["iris"]["blades"], 8);
  EXPECT_TRUE(j["iris"]["sure"].get<bool>());
  EXPECT_NEAR(j["iris"]["rotation_deg"]["value"].get<double>(), 11.0, 1.5);
  // Its discs are 20 px at most, clipped and from a JPEG: curvature is known to a sixth, not
  // closer.
  EXPECT_NEAR(j["iris"]["curvature"]["value"].get<double>(), 1.0 / 1.6, 0.1);
  EXPECT_NEAR(j["iris"]["high_over_wide"]["value"].get<double>(), 1.0, 0.01);
  EXPECT_TRUE(holds(j["toml"].get<std::string>(), "blades       = 8"));
  EXPECT_EQ(read_picture(folder / "discs.png").colour.width(), 1280);
}

TEST(MatchCli, FindsTheMistakePlantedInTheNotes) {
  const Ran r = run({"match", demo("notes.shot.toml")});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "1. adapter 0.71 left out of the stop: explains"));
}

TEST(MatchCli, AgreesWithTheTrueNotesOfTheSamePlate) {
  const Ran r = run({"match", demo("hero.shot.toml"), "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = Json::parse(r.out);
  EXPECT_TRUE(j["notes_agree"].get<bool>());
  for (const Json& u : j["match"]["unknowns"]) {
    if (u["name"] != "stop") continue;
    EXPECT_NEAR(u["value"].get<double>(), 2.0, u["margin"].get<double>());
  }
}

std::string shot_with_plate(const TempFolder& folder, const std::string& plate) {
  return folder.write("a.shot.toml",
                      "[body]\ngate = \"6 x 3.375 mm\"\npixels = \"192 x 108\"\n[lens]\nfocal = "
                      "\"50 mm\"\n[take]\nstop = \"f/2\"\nmark = \"2 m\"\n" +
                          plate);
}

// A copy of the demo, so that what is solved has a place of its own.
std::string copied_notes(const TempFolder& folder) {
  for (const char* name : {"notes.shot.toml", "tansy.body.toml", "linden-58.lens.toml",
                           "regatta.gltf", "regatta.bin", "plate.jpg", "pinhole.exr"}) {
    std::filesystem::copy_file(demo(name), folder / name);
  }
  return folder / "notes.shot.toml";
}

// The artist's whole way: plate → match → report → defocus → compare, once with the notes and once
// with what was solved.
TEST(MatchCli, SolvedNotesMakeCgThatIsLikeThePlate) {
  const TempFolder folder;
  const std::string shot = copied_notes(folder);
  Ran r = run({"match", shot, "--accept"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "focal length     58 mm, noted 41.2 mm: a reducer of 0.71"));
  const std::string solved = slurp(folder / "notes.solved.toml");
  EXPECT_TRUE(holds(solved, "lens.adapter = 0.71"));
  EXPECT_EQ(slurp(shot), slurp(demo("notes.shot.toml")));  // notes are never written to
  r = run({"report", shot});
  EXPECT_TRUE(holds(r.out, "solved from the plate (notes.solved.toml), not noted: "));
  const auto larger = [&](const std::vector<std::string>& more, const std::string& name) {
    std::vector<std::string> blur{"defocus", shot, folder / "pinhole.exr", "-o", folder / name};
    blur.insert(blur.end(), more.begin(), more.end());
    EXPECT_EQ(run(blur).code, 0);
    std::vector<std::string> compare{"compare", shot, folder / name, "--json"};
    compare.insert(compare.end(), more.begin(), more.end());
    const Ran c = run(compare);
    EXPECT_EQ(c.code, 0) << c.err;
    return Json::parse(c.out);
  };
  const Json noted = larger({"--as-noted"}, "noted.exr");
  EXPECT_LT(noted["discs"]["larger"]["value"].get<double>(), -0.2);
  EXPECT_EQ(noted["moves"][0]["key"], "take.stop");
  const Json again = larger({}, "solved.exr");
  const double left = again["discs"]["larger"]["value"].get<double>();
  EXPECT_LT(std::abs(left), again["discs"]["larger"]["margin"].get<double>());
  EXPECT_GT(again["psnr_db"].get<double>(), noted["psnr_db"].get<double>() + 8.0);
  for (const Json& m : again["moves"]) EXPECT_NE(m["key"], "take.stop");
}

TEST(MatchCli, AcceptsOnlyNotesAsTheyStand) {
  Ran r = run({"match", demo("notes.shot.toml"), "--accept", "--set", "take.stop=f/4"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "Write what was tried into the file first"));
  r = run({"match", demo("notes.shot.toml"), "--doubt", "take.stpo"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "take.stop"));
  r = run({"match", demo("notes.shot.toml"), "--least", "-3"});
  EXPECT_EQ(r.code, 2);
}

TEST(CompareCli, WritesPicturesASheetAndBlinks) {
  const TempFolder folder;
  const std::string shot = demo("hero.shot.toml");
  ASSERT_EQ(run({"defocus", shot, demo("pinhole.exr"), "--half", "-o", folder / "a.png"}).code, 0);
  ASSERT_EQ(run({"defocus", shot, demo("pinhole.exr"), "--half", "--set", "take.stop=f/4", "-o",
                 folder / "b.jpg"})
                .code,
            0);
  Ran r = run({"compare", shot, folder / "a.png", "--side", folder / "side.png", "--split",
               folder / "split.jpg", "--difference", folder / "difference.exr", "--blink",
               folder / "blink.gif"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "made with 42.2"));
  EXPECT_EQ(read_picture(folder / "side.png").colour.width(), 2 * 480 + 4);
  EXPECT_EQ(read_picture(folder / "split.jpg").colour.width(), 480);
  EXPECT_EQ(read_picture(folder / "difference.exr").colour.width(), 480);
  EXPECT_EQ(slurp(folder / "blink.gif").substr(0, 6), "GIF89a");
  r = run({"compare", shot, folder / "a.png", folder / "b.jpg", "--sheet", folder / "tries.png"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "take.stop = f/4"));
  EXPECT_TRUE(holds(r.out, "number 1 is nearest"));
  EXPECT_EQ(read_picture(folder / "tries.png").colour.width(), 1280);
  r = run({"compare", shot, folder / "a.png", folder / "b.jpg", "--no-plate"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "b.jpg against a.png"));
}

TEST(CompareCli, TellsWhatCannotBeCompared) {
  const TempFolder folder;
  write_picture(folder / "a.exr", {Picture({960, 540}, {0.2F, 0.2F, 0.2F, 1.0F}), {}});
  write_picture(folder / "wide.exr", {Picture({960, 400}, {0.2F, 0.2F, 0.2F, 1.0F}), {}});
  const std::string shot = demo("hero.shot.toml");
  const auto said = [&](const std::vector<std::string>& args) {
    const Ran r = run(args);
    EXPECT_NE(r.code, 0);
    return r.err;
  };
  EXPECT_TRUE(holds(said({"compare", shot, folder / "wide.exr"}), "one shape"));
  EXPECT_TRUE(holds(said({"compare", shot, folder / "a.exr", "--no-plate"}), "two pictures"));
  EXPECT_TRUE(
      holds(said({"compare", shot, folder / "a.exr", "--blink", folder / "b.mov"}), ".gif"));
  EXPECT_TRUE(
      holds(said({"compare", shot, folder / "a.exr", folder / "a.exr", "--side", folder / "s.png"}),
            "--sheet"));
  EXPECT_TRUE(
      holds(said({"compare", demo("willow.shot.toml"), folder / "a.exr"}), "names no plate"));
  EXPECT_TRUE(holds(said({"compare", shot, folder / "none.exr"}), "none.exr"));
  EXPECT_FALSE(std::filesystem::exists(folder / "s.png"));
}

// One colour, all clipped, and a camera that was held upside down.
TEST(MatchCli, OddPlatesAreToldOrTurned) {
  const TempFolder folder;
  write_picture(folder / "white.png", {Picture({96, 54}, {1, 1, 1, 1}), {}});
  const Ran r =
      run({"measure", shot_with_plate(folder, "[plate]\nfile = \"white.png\"\n"), "--discs"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "No discs in white.png"));
  // Turned by 180° in the file, with the header saying so: read upright, the lamps are found where
  // they were.
  const Frame plate = read_picture(demo("plate.jpg"));
  Frame turned = plate;
  std::reverse(turned.colour.pixels().begin(), turned.colour.pixels().end());
  write_picture(folder / "turned.jpg", turned, {{"Orientation", "3"}});
  const Frame read = read_picture(folder / "turned.jpg");
  EXPECT_NEAR(read.colour.at(190, 70)[1], plate.colour.at(190, 70)[1], 0.05);
  EXPECT_NEAR(read.colour.at(500, 500)[1], plate.colour.at(500, 500)[1], 0.05);
}

TEST(MatchCli, TellsWhatItIsMissing) {
  const TempFolder folder;
  Ran r = run({"match", shot_with_plate(folder, "")});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "names no plate to match"));
  r = run({"measure", shot_with_plate(folder, ""), "--discs"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "names no plate to find discs in"));
  write_picture(folder / "grey.exr", {Picture({96, 54}, {0.2F, 0.2F, 0.2F, 1.0F}), {}});
  const std::string grey = shot_with_plate(folder, "[plate]\nfile = \"grey.exr\"\n");
  r = run({"measure", grey});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "No discs in grey.exr"));
  r = run({"match", grey});
  EXPECT_EQ(r.code, 1);
  EXPECT_TRUE(holds(r.err, "no disc was found in the plate"));
  EXPECT_TRUE(holds(r.err, "[[plate.lamp]]"));
  write_picture(folder / "small.exr", {Picture({16, 54}, {0.2F, 0.2F, 0.2F, 1.0F}), {}});
  r = run({"match", shot_with_plate(folder, "[plate]\nfile = \"small.exr\"\n")});
  EXPECT_EQ(r.code, 3);
  EXPECT_TRUE(holds(r.err, "16 x 54"));
  r = run({"measure", grey, "--discs", "--overlay", folder / "a.bmp"});
  EXPECT_EQ(r.code, 2);
  r = run({"measure", demo("quay.shot.toml"), "--overlay", folder / "a.png"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "--discs"));
}

}  // namespace
}  // namespace jolly_iris
