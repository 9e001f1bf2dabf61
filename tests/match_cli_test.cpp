// measure --discs and match, from the command line, on the demo's plate.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <stdexcept>

#include "cli_support.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "small_dusk.hpp"

namespace jolly_iris {
namespace match_cli_test {

using testing::demo;
using testing::holds;
using testing::parameter;
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
  // The plate was traced through seven blades, 1.5 times the opening's radius, turned by 11°.
  EXPECT_EQ(j["iris"]["blades"], 7);
  EXPECT_TRUE(j["iris"]["sure"].get<bool>());
  EXPECT_NEAR(j["iris"]["rotation_deg"]["value"].get<double>(), 11.0, 1.5);
  // Its discs are 20 px at most, clipped and from a JPEG: curvature is known to a sixth, not
  // closer.
  EXPECT_NEAR(j["iris"]["curvature"]["value"].get<double>(), 1.0 / 1.5, 0.1);
  EXPECT_NEAR(j["iris"]["high_over_wide"]["value"].get<double>(), 1.0, 0.01);
  EXPECT_TRUE(holds(j["toml"].get<std::string>(), "blades       = 7"));
  EXPECT_EQ(read_picture(folder / "discs.png").colour.width(), 1280);
}

std::string shot_with_plate(const TempFolder& folder, const std::string& plate) {
  return folder.write("a.shot.toml",
                      "[body]\ngate = \"6 x 3.375 mm\"\npixels = \"192 x 108\"\n[lens]\nfocal = "
                      "\"50 mm\"\n[take]\nstop = \"f/2\"\nmark = \"2 m\"\n" +
                          plate);
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
  const auto [shot, cg] = testing::small_dusk(folder);
  ASSERT_EQ(run({"defocus", shot, cg, "-o", folder / "a.png"}).code, 0);
  ASSERT_EQ(run({"defocus", shot, cg, "--set", "take.stop=f/4", "-o", folder / "b.jpg"}).code, 0);
  Ran r = run({"compare", shot, folder / "a.png", "--no-finish", "--side", folder / "side.png",
               "--split", folder / "split.jpg", "--difference", folder / "difference.exr",
               "--blink", folder / "blink.gif"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "made with 41.2"));
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
  const auto message = [&](const std::vector<std::string>& args) {
    const Ran r = run(args);
    EXPECT_NE(r.code, 0);
    return r.err;
  };
  EXPECT_TRUE(holds(message({"compare", shot, folder / "wide.exr"}), "one shape"));
  EXPECT_TRUE(holds(message({"compare", shot, folder / "a.exr", "--no-plate"}), "two pictures"));
  EXPECT_TRUE(
      holds(message({"compare", shot, folder / "a.exr", "--blink", folder / "b.mov"}), ".gif"));
  EXPECT_TRUE(holds(
      message({"compare", shot, folder / "a.exr", folder / "a.exr", "--side", folder / "s.png"}),
      "--sheet"));
  EXPECT_TRUE(
      holds(message({"compare", demo("willow.shot.toml"), folder / "a.exr"}), "names no plate"));
  EXPECT_TRUE(holds(message({"compare", shot, folder / "none.exr"}), "none.exr"));
  EXPECT_FALSE(std::filesystem::exists(folder / "s.png"));
}

// A wall with soft edges at a known distance, sharp ones before it, and a grey card.
void write_wall(const std::string& file, double edge_sigma_px) {
  Picture p({384, 216}, {0.05F, 0.05F, 0.05F, 1.0F});
  const auto step = [](double t) { return 0.5 * std::erfc(-t / std::sqrt(2.0)); };
  for (int y = 0; y < 216; ++y) {
    for (int x = 0; x < 384; ++x) {
      // Three soft stripes on the right, three sharp ones on the left.
      double v = 0.05;
      for (const double at : {230.0, 280.0, 330.0}) {
        const double d = x + 0.1 * (y - 108) - at;
        v += 0.3 * (step(d / edge_sigma_px) - step((d - 24.0) / edge_sigma_px));
      }
      for (const double at : {60.0, 100.0, 140.0}) {
        const double d = x + 0.1 * (y - 108) - at;
        v += 0.3 * (step(d / 0.45) - step((d - 20.0) / 0.45));
      }
      if (x < 40 && y < 40) v = 0.36;
      for (std::size_t c = 0; c < 3; ++c) p.at(x, y)[c] = static_cast<float>(v);
    }
  }
  write_picture(file, {p, {}});
}

TEST(MatchCli, SoftEdgesAndAGreyCardTellStopExposureAndWhite) {
  const TempFolder folder;
  write_wall(folder / "wall.exr", 3.0);
  const std::string shot = folder.write(
      "wall.shot.toml",
      "[body]\ngate = \"6 x 3.375 mm\"\npixels = \"384 x 216\"\n[lens]\nfocal = \"50 "
      "mm\"\n[take]\nstop = \"f/2\"\niso = 800\nshutter = \"1/48 s\"\nwhite = \"5600 "
      "K\"\n[focus]\nat = \"2 m\"\n[[subject]]\nname = \"wall\"\nat = \"5 m\"\n[plate]\nfile = "
      "\"wall.exr\"\n[[plate.box]]\nname = \"wall\"\nbox = [210, 10, 160, "
      "196]\n[[plate.grey]]\nbox = [4, 4, 30, 30]\nluminance = \"3 cd/m2\"\nlight = \"5200 K\"\n");
  Ran r = run({"match", shot, "--doubt", "take.stop", "--doubt", "take.ev=1 stops", "--doubt",
               "take.white", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json m = Json::parse(r.out)["match"];
  // A disc of 25.9 px at f/2 would soften edges by 6.15 px; they are softer by 3 px only.
  EXPECT_NEAR(parameter(m, "stop")["value"].get<double>(), 4.1, 0.4);
  EXPECT_NEAR(parameter(m, "white")["value"].get<double>(), 5200.0, 250.0);
  // The card is a stop brighter than metered, and four times less light came in than noted.
  EXPECT_NEAR(parameter(m, "exposure")["value"].get<double>(), 3.1, 0.3);
  r = run({"match", shot});
  EXPECT_TRUE(holds(r.out, "edges of wall"));
  EXPECT_TRUE(holds(r.out, "red/blue of grey card"));
  // What is drawn and tells nothing is said.
  write_wall(folder / "wall.exr", 0.45);
  r = run({"match", shot});
  EXPECT_TRUE(holds(r.out, "edges of wall: as sharp as the plate can show"));
  r = run({"match", shot, "--set", "plate.grey[0].luminance=95 lx"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "write 95 cd/m2, or what a spot meter says: 9.5 EV"));
}

TEST(MeasureDiscsCli, LooksOnlyWithinABox) {
  const Ran r =
      run({"measure", demo("hero.shot.toml"), "--discs", "--box", "0,0,960,540", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = Json::parse(r.out);
  ASSERT_GE(j["discs"].size(), 2U);
  for (const Json& d : j["discs"]) EXPECT_LT(d["at_px"][0].get<double>(), 645.0);
  const Ran out = run({"measure", demo("hero.shot.toml"), "--discs", "--box", "0,0,9600,540"});
  EXPECT_EQ(out.code, 2);
  EXPECT_TRUE(holds(out.err, "--box: the box 0,0,9600,540"));
  const Ran empty = run({"measure", demo("hero.shot.toml"), "--discs", "--box", "0,0,0,540"});
  EXPECT_EQ(empty.code, 2);
  EXPECT_TRUE(holds(empty.err, "--box: the box 0,0,0,540 has no area"));
  const Ran alone = run({"measure", demo("quay.shot.toml"), "--box", "0,0,96,54"});
  EXPECT_EQ(alone.code, 2);
  EXPECT_TRUE(holds(alone.err, "it belongs to --discs"));
}

TEST(MatchCli, ACameraFartherBackIsFartherFromEverything) {
  const auto boat = [](const std::vector<std::string>& more) {
    std::vector<std::string> args{"report", demo("hero.shot.toml"), "--json"};
    args.insert(args.end(), more.begin(), more.end());
    const Json j = Json::parse(run(args).out);
    for (const Json& s : j["subjects"]) {
      if (s["name"] == "boat") return s["axial_m"].get<double>();
    }
    return 0.0;
  };
  EXPECT_NEAR(boat({"--set", "scene.back=50 cm"}), boat({}) + 0.5, 1e-6);
  EXPECT_NEAR(boat({"--set", "scene.back=-20 cm"}), boat({}) - 0.2, 1e-6);
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
  // A card that the notes have no exposure for is no help, and that is said.
  r = run({"match", shot_with_plate(folder,
                                    "[plate]\nfile = \"grey.exr\"\n[[plate.grey]]\nbox = [4, 4, "
                                    "20, 20]\nluminance = \"95 cd/m2\"\n")});
  EXPECT_EQ(r.code, 1);
  EXPECT_TRUE(holds(r.err, "that needs take.iso and take.shutter"));
  write_picture(folder / "small.exr", {Picture({16, 54}, {0.2F, 0.2F, 0.2F, 1.0F}), {}});
  r = run({"match", shot_with_plate(folder, "[plate]\nfile = \"small.exr\"\n")});
  EXPECT_EQ(r.code, 3);
  EXPECT_TRUE(holds(r.err, "16 x 54"));
  r = run({"measure", grey, "--discs", "--overlay", folder / "a.bmp"});
  EXPECT_EQ(r.code, 2);
  // Edges that were drawn are drawn over the plate.
  r = run({"measure", demo("quay.shot.toml"), "--overlay", folder / "a.png"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(read_picture(folder / "a.png").colour.width(), 1280);
}

}  // namespace match_cli_test
}  // namespace jolly_iris
