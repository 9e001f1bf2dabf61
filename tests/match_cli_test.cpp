// measure --discs and match, from the command line, on the demo's plate.
#include <gtest/gtest.h>

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
  EXPECT_TRUE(holds(r.err, "none whose distance is known"));
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
