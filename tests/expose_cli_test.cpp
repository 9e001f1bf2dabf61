// expose, from the command line: trades, metering, against the plate, white, sequences.
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <limits>
#include <nlohmann/json.hpp>
#include <ostream>

#include "cli_support.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/region_light.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {
namespace expose_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

constexpr float nan = std::numeric_limits<float>::quiet_NaN();
constexpr float inf = std::numeric_limits<float>::infinity();

std::string shot_in(const TempFolder& folder, const std::string& more = "") {
  return folder.write("a.shot.toml",
                      "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"192 x 108\"\n[lens]\nfocal = "
                      "\"18 mm\"\n[take]\nstop = \"f/4\"\nmark = \"3 m\"\niso = 400\nshutter = "
                      "\"180 deg\"\nfps = 24\n" +
                          more);
}

std::string picture_in(const TempFolder& folder, const std::string& name, const Rgba& fill,
                       PixelSize size = {192, 108}) {
  write_picture(folder / name, Frame{Picture(size, fill), {}});
  return folder / name;
}

std::string fmt_name(const std::string& stem, int frame) {
  const std::string number = std::to_string(10000 + frame).substr(1);
  return stem + number + ".exr";
}

Json json_of(std::vector<std::string> args) {
  args.insert(args.begin(), "expose");
  args.emplace_back("--json");
  const Ran r = run(args);
  EXPECT_EQ(r.code, 0) << r.err;
  return r.code == 0 ? Json::parse(r.out) : Json();
}

// ---- the take ----------------------------------------------------------------------------------

TEST(ExposeTake, SaysWhatTheNumbersMeanAndWhatOneStopCosts) {
  const Ran r = run({"expose", demo("hero.shot.toml")});
  ASSERT_EQ(r.code, 0) << r.err;
  for (const char* part : {"EXPOSURE: EV100 4.34", "T2.319: the lens passes 0.9",
                           "focused this close", "a reflected-light meter calls it correct",
                           "0.48 of a frame", "cos^4 alone", "f/1.8   115.7 deg", "a filter"}) {
    EXPECT_TRUE(holds(r.out, part));
  }
  const Json j = json_of({demo("hero.shot.toml")});
  EXPECT_NEAR(j["exposure"]["value_per_cd_m2"].get<double>(),
              0.18 / (0.125 * std::exp2(j["exposure"]["ev100"].get<double>())), 1e-12);
  EXPECT_EQ(j["trades"].size(), 6U);
}

TEST(ExposeTake, WhereNoStopIsLeftNoneIsOffered) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  for (const auto& [stop, beside] :
       {std::pair{"f/0.7", "f/1"}, {"f/0.72", "f/1"}, {"f/128", "f/90"}}) {
    const Json trades = json_of({shot, "--set", std::string("take.stop=") + stop})["trades"];
    ASSERT_EQ(trades.size(), 3U) << stop;
    for (const Json& t : trades) EXPECT_EQ(t["change"], beside);
  }
}

TEST(ExposeTake, HoldsAChangeWhoeverPays) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  const Json was = json_of({shot});
  const auto held = [&](const char* partner, const std::string& key) {
    const Json j = json_of({shot, "--set", "take.stop=f/2", "--pay", partner});
    EXPECT_NEAR(j["trade"]["light_stops"].get<double>(), 2.0, 1e-9);
    const Json now = json_of({shot, "--set", "take.stop=f/2", "--set", key});
    EXPECT_NEAR(now["exposure"]["ev100"].get<double>(), was["exposure"]["ev100"].get<double>(),
                1e-9)
        << partner;
  };
  held("iso", "take.iso=100");
  held("shutter", "take.shutter=45 deg");
  held("nd", "take.nd=2 stops");
  const Ran r = run({"expose", shot, "--set", "take.stop=f/2", "--pay", "shutter"});
  EXPECT_TRUE(holds(r.out, "shutter = \"45 deg\""));
  EXPECT_TRUE(holds(r.out, "discs are 2.00 x as large; motion smears 0.25 x as far"));
}

TEST(ExposeTake, TellsTheSmearOfASubject) {
  const TempFolder folder;
  // 2 m/s at 4 m, 18 mm and a little breathing, 8 px a mm, for 1/48 s.
  const std::string shot = shot_in(folder, "[[subject]]\nname = \"swan\"\nat = \"4 m\"\n");
  const Json j = json_of({shot, "--of", "swan", "--speed", "2 m/s"});
  const double v = 18.0 * 1.0061;
  EXPECT_NEAR(j["smear"]["px"].get<double>(), 2.0 / 4.0 * v * 8.0 / 48.0, 0.01);
  EXPECT_NEAR(json_of({shot, "--of", "swan", "--speed", "7.2 km/h"})["smear"]["px"].get<double>(),
              j["smear"]["px"].get<double>(), 1e-9);
  EXPECT_TRUE(holds(run({"expose", shot, "--of", "swan"}).out, "does not move here"));
  EXPECT_TRUE(holds(run({"expose", shot, "--of", "swam"}).err, "swan"));
  // The dolly of the drift moves what stands still.
  const Json drift = json_of({demo("drift.shot.toml"), "--of", "footbridge"});
  EXPECT_GT(drift["smear"]["px_per_second"].get<double>(), 1.0);
}

TEST(ExposeTake, AGivenEvHoldsByItself) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  const Ran r = run({"expose", shot, "--set", "take.ev=7.5"});
  EXPECT_TRUE(holds(r.out, "EV100 7.50"));
  EXPECT_TRUE(holds(r.out, "stop, shutter and ISO change only blur"));
  EXPECT_TRUE(
      holds(run({"report", shot, "--set", "take.ev=7.5"}).out, "The take's ev of 7.5 leads"));
  const Ran pay =
      run({"expose", shot, "--set", "take.ev=7.5", "--set", "take.stop=f/2", "--pay", "iso"});
  EXPECT_EQ(pay.code, 2);
  EXPECT_TRUE(holds(pay.err, "holds by itself"));
}

TEST(ExposeTake, SaysWhatIsMissing) {
  const Ran r = run({"expose", demo("triangles.shot.toml")});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "EXPOSURE: not known"));
  EXPECT_TRUE(holds(r.out, "take.iso is not known"));
}

TEST(ExposeTake, TellsTheLightThatGainsBelongTo) {
  const Rgb gains = white_gains({4300_K, 0.003}, Primaries::rec709);
  const Json j = json_of({demo("hero.shot.toml"), "--gains",
                          std::to_string(gains[0]) + ",1," + std::to_string(gains[2])});
  EXPECT_NEAR(j["white_of_gains"]["kelvin"].get<double>(), 4300.0, 1.0);
  EXPECT_NEAR(j["white_of_gains"]["tint"].get<double>(), 0.003, 1e-4);
  const Ran wild = run({"expose", demo("hero.shot.toml"), "--gains", "9,1,0.1"});
  EXPECT_EQ(wild.code, 1);
  EXPECT_TRUE(holds(wild.err, "is no white light"));
}

// ---- a picture ---------------------------------------------------------------------------------

TEST(ExposePicture, SaysHowFarFromGreyAndWhatWouldBringItThere) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  const std::string grey = picture_in(folder, "grey.exr", {0.045F, 0.045F, 0.045F, 1.0F});
  const Ran r = run({"expose", shot, grey});
  ASSERT_EQ(r.code, 0) << r.err;
  for (const char* part : {"2.00 stops below mid-grey", "times 3.999", "f/2", "ISO 1600",
                           "cannot: the shutter would have", "a filter only takes light"}) {
    EXPECT_TRUE(holds(r.out, part));
  }
  const std::string out = folder / "right.exr";
  ASSERT_EQ(run({"expose", shot, grey, "--meter", "average", "--apply", "-o", out}).code, 0);
  EXPECT_NEAR(read_picture(out).colour.at(5, 5)[1], 0.18F, 2e-4F);
}

TEST(ExposePicture, MendsWhatIsNoNumberAndMeters) {
  const TempFolder folder;
  Picture p({192, 108}, {0.18F, 0.18F, 0.18F, 1.0F});
  for (int x = 0; x < 192; ++x) {
    p.at(x, 0) = {nan, 0.1F, 0.1F, 1.0F};
    p.at(x, 1) = {inf, 0.1F, 0.1F, 1.0F};
    p.at(x, 2) = {-0.3F, -0.1F, -0.1F, 1.0F};
  }
  write_whole_file(folder / "odd.exr", picture_bytes(".exr", Frame{p, {}}));
  const std::string shot = shot_in(folder);
  const Json j = json_of({shot, folder / "odd.exr", "--sheet", folder / "odd.png"});
  EXPECT_TRUE(
      holds(j["warnings"][0], "384 pixels are no numbers (NaN or infinity), the first at 0, 0"));
  EXPECT_EQ(j["metered"]["non_finite"].get<double>(), 0.0);
  EXPECT_NEAR(j["metered"]["black"].get<double>(), 3.0 / 108, 1e-9) << "mended by a black row";
  EXPECT_NEAR(j["metered"]["stops"].get<double>(), 0.0, 1e-3);
  EXPECT_GT(std::filesystem::file_size(folder / "odd.png"), 1000U);
  ASSERT_EQ(run({"expose", shot, folder / "odd.exr", "--stops", "1", "--apply", "-o",
                 folder / "more.exr"})
                .code,
            0);
  const Picture more = read_picture(folder / "more.exr").colour;
  EXPECT_NEAR(more.at(3, 0)[0], -0.6F, 1e-3F);
  EXPECT_NEAR(more.at(3, 2)[0], -0.6F, 1e-3F);
}

TEST(ExposePicture, SceneLightInAUnitIsExposed) {
  const TempFolder folder;
  const std::string lit = picture_in(folder, "lit.exr", {100.0F, 100.0F, 100.0F, 1.0F});
  const std::string out = folder / "o.exr";
  const auto value = [&](const std::string& light, const std::string& anchor) {
    const std::string shot = shot_in(folder, "[scene]\nlight = \"" + light + "\"\n");
    EXPECT_EQ(run({"expose", shot, lit, "--set", "body.anchor=" + anchor, "--set", "take.ev=8",
                   "--apply", "-o", out})
                  .code,
              0);
    return static_cast<double>(read_picture(out).colour.at(9, 9)[1]);
  };
  EXPECT_NEAR(value("cd/m2", "grey"), 100.0 * 0.18 / (0.125 * 256.0), 1e-3);
  EXPECT_NEAR(value("cd/m2", "saturation"), 100.0 * 0.65 / (0.78 * 256.0), 1e-3);
  EXPECT_EQ(value("unscaled", "grey"), 100.0) << "left alone until metered";
}

TEST(ExposePicture, ToldWarmInDaylightTurnsBlue) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  const std::string grey = picture_in(folder, "grey.exr", {0.2F, 0.2F, 0.2F, 1.0F});
  const std::string out = folder / "o.exr";
  for (const std::vector<std::string>& how : {std::vector<std::string>{},
                                              {"--light", "6504 K", "--adapt", "CAT16"},
                                              {"--light", "6504 K", "--adapt", "Bradford"}}) {
    std::vector<std::string> args{"expose", shot, grey, "--told", "3200 K", "--apply", "-o", out};
    args.insert(args.end(), how.begin(), how.end());
    const Ran r = run(args);
    ASSERT_EQ(r.code, 0) << r.err;
    EXPECT_TRUE(holds(r.out, "a grey card turns bluer"));
    const Rgba p = read_picture(out).colour.at(3, 3);
    EXPECT_GT(p[2], 1.8F * p[0]);
  }
}

TEST(ExposePicture, FindsTheWhiteOfAPatchAndTakesItOut) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  const Rgb w = white_rgb({4300_K, 0.004}, Primaries::rec709);
  const auto channel = [&](std::size_t c) { return static_cast<float>(0.3 * w[c]); };
  const std::string warm =
      picture_in(folder, "warm.exr", {channel(0), channel(1), channel(2), 1.0F});
  const std::string out = folder / "o.exr";
  const Json j = json_of({shot, warm, "--neutral", "10,10,50,40", "--apply", "-o", out});
  EXPECT_NEAR(j["white"]["kelvin"].get<double>(), 4300.0, 6.0);  // half floats
  EXPECT_NEAR(j["white"]["tint"].get<double>(), 0.004, 2e-4);
  const Rgba p = read_picture(out).colour.at(3, 3);
  EXPECT_NEAR(p[0], p[1], 4e-4);
  EXPECT_NEAR(p[2], p[1], 4e-4);
  const std::string red = picture_in(folder, "red.exr", {0.9F, 0.06F, 0.03F, 1.0F});
  EXPECT_TRUE(holds(run({"expose", shot, red, "--neutral", "1,1,9,9"}).out, "is that patch grey?"));
  for (const char* by : {"mean", "brightest"}) {
    EXPECT_NEAR(json_of({shot, warm, "--neutral", by})["white"]["mired"].get<double>(),
                1e6 / 4300.0, 0.4);
  }
}

TEST(ExposePicture, FallOffGoesInAndComesOut) {
  const TempFolder folder;
  const std::string shot =
      shot_in(folder,
              "[[lens.loss]]\nheight = \"7 mm\"\nstops = 0.3\n[[lens.loss]]\nheight = \"14 "
              "mm\"\nstops = 1.5\n");
  const std::string grey = picture_in(folder, "grey.exr", {0.5F, 0.5F, 0.5F, 1.0F});
  ASSERT_EQ(
      run({"expose", shot, grey, "--fall-off", "add", "--apply", "-o", folder / "dark.exr"}).code,
      0);
  const Picture dark = read_picture(folder / "dark.exr").colour;
  EXPECT_NEAR(dark.at(96, 54)[1], 0.5F, 1e-3F);
  EXPECT_NEAR(std::log2(0.5 / static_cast<double>(dark.at(0, 0)[1])), 1.46, 0.06);
  ASSERT_EQ(run({"expose", shot, folder / "dark.exr", "--fall-off", "remove", "--apply", "-o",
                 folder / "even.exr"})
                .code,
            0);
  EXPECT_NEAR(read_picture(folder / "even.exr").colour.at(0, 0)[1], 0.5F, 1e-3F);
}

TEST(ExposePicture, DecodesALogCurveFirst) {
  const TempFolder folder;
  // Written as numbers 0.4 (a linear TIFF would do as well): by the table they are mid-grey.
  folder.write("log.csv", "number,light\n0.1,0\n0.4,0.18\n0.9,6\n");
  const std::string p = picture_in(folder, "log.exr", {0.4F, 0.4F, 0.4F, 1.0F});
  const std::string shot = shot_in(folder);
  const Json by_table = json_of({shot, p, "--transfer", folder / "log.csv"});
  EXPECT_NEAR(by_table["metered"]["level"].get<double>(), 0.18, 2e-4);
  EXPECT_EQ(by_table["transfer"], "table");
  const std::string plate =
      shot_in(folder, "[plate]\nfile = \"log.exr\"\ntransfer = \"log.csv\"\n");
  EXPECT_NEAR(json_of({plate, p})["metered"]["level"].get<double>(), 0.18, 2e-4);
  const std::string cct = picture_in(folder, "cct.exr", {0.4135884F, 0.4135884F, 0.4135884F, 1});
  EXPECT_NEAR(json_of({shot, cct, "--transfer", "ACEScct"})["metered"]["level"].get<double>(), 0.18,
              5e-4);
}

// ---- as the plate ------------------------------------------------------------------------------

// The dusk's plate was made with all lights two stops brighter and 4200 K instead of 5600 K.
TEST(ExposeAsPlate, FindsTheDusksLightFromTwoRegions) {
  const TempFolder folder;
  const std::string cg = folder / "cg.exr";
  ASSERT_EQ(run({"defocus", demo("dusk.shot.toml"), demo("pinhole.exr"), "-o", cg}).code, 0);
  const double apart = 1e6 / 4200.0 - 1e6 / 5600.0;
  for (const auto& two : {std::pair("1024,420,84,46", "1090,620,150,40"),
                          std::pair("1024,420,84,46", "1378,54,102,40")}) {
    const Json j = json_of({demo("dusk.shot.toml"), cg, "--as-plate", "--light", "5600 K",
                            "--region", two.first, "--region", two.second});
    EXPECT_NEAR(j["match"]["stops"].get<double>(), 2.0, 0.02);
    EXPECT_NEAR(j["match"]["plate_white"]["mired"].get<double>() - 1e6 / 5600.0, apart, 1.5);
  }
  // All that are drawn: the water under the lamp that was turned down shows, and pulls nothing.
  const std::string out = folder / "like.exr";
  const Json all = json_of(
      {demo("dusk.shot.toml"), cg, "--as-plate", "--light", "5600 K", "--apply", "-o", out});
  EXPECT_NEAR(all["match"]["stops"].get<double>(), 2.0, 0.02);
  for (const Json& region : all["match"]["regions"]) {
    EXPECT_EQ(region["apart"].get<bool>(), region["name"] == "near water") << region.dump();
  }
  const Frame like = read_picture(out);
  const Frame plate = read_picture(demo("dusk.jpg"));
  const Box house = box_in_picture({1024, 420, 84, 46}, {1920, 1080}, {1280, 720});
  const RegionLight a = light_of_region(like.colour, house, Primaries::rec709);
  const RegionLight b = light_of_region(plate.colour, house, Primaries::rec709);
  for (std::size_t c = 0; c < 3; ++c) EXPECT_NEAR(std::log2(a.mean[c] / b.mean[c]), 0.0, 0.02);
}

TEST(ExposeAsPlate, ComparesACardThatCgHoldsElsewhere) {
  const TempFolder folder;
  Picture plate({192, 108}, {0.02F, 0.02F, 0.02F, 1.0F});
  Picture cg = plate;
  for (int y = 0; y < 10; ++y) {
    for (int x = 0; x < 10; ++x) {
      plate.at(20 + x, 30 + y) = {0.5F, 0.4F, 0.3F, 1.0F};
      cg.at(120 + x, 60 + y) = {0.1F, 0.1F, 0.1F, 1.0F};
    }
  }
  write_picture(folder / "plate.exr", Frame{plate, {}});
  write_picture(folder / "cg.exr", Frame{cg, {}});
  const std::string shot =
      shot_in(folder,
              "[plate]\nfile = \"plate.exr\"\n[[plate.grey]]\nname = \"card\"\nbox = [20, 30, "
              "10, 10]\n");
  const Json j = json_of({shot, folder / "cg.exr", "--as-plate", "--card", "120,60,10,10"});
  EXPECT_NEAR(j["match"]["stops"].get<double>(), 2.0, 2e-3);
  EXPECT_NEAR(j["match"]["gains"][0].get<double>(), 1.25, 2e-3);
  EXPECT_NEAR(j["match"]["gains"][2].get<double>(), 0.75, 2e-3);
  // The card alone tells the light, without any CG.
  const Ran r = run({"expose", shot, folder / "plate.exr"});
  EXPECT_TRUE(holds(r.out, "if it is grey, the light is"));
  EXPECT_TRUE(holds(r.out, "+1.20"));  // of its luminance, 0.414
  EXPECT_EQ(run({"expose", shot, folder / "cg.exr", "--card", "1,1,2,2"}).code, 2);
}

TEST(ExposeAsPlate, WarnsOfRegionsThatTellTooLittle) {
  const Ran r = run({"expose", demo("dusk.shot.toml"), demo("pinhole.exr"), "--as-plate",
                     "--region", "840,860,40,60", "--region", "0,0,1900,1000"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "of 'region 1' is clipped in the plate"));
  EXPECT_TRUE(holds(r.out, "'region 2' is uneven"));
}

TEST(ExposeAsPlate, SaysWherePlacesWouldBeWrong) {
  const TempFolder folder;
  const std::string grey = picture_in(folder, "plate.exr", {0.2F, 0.2F, 0.2F, 1.0F});
  const std::string width = picture_in(folder, "wide.exr", {0.2F, 0.2F, 0.2F, 1.0F}, {220, 108});
  const std::string shot =
      shot_in(folder,
              "[plate]\nfile = \"plate.exr\"\n[[plate.box]]\nbox = [2, 2, 12, 9]\n"
              "[lens.distortion]\nk1 = 0.08\n");
  EXPECT_TRUE(holds(run({"expose", shot, grey, "--as-plate"}).out, "redistort CG first"));
  const Ran r = run({"expose", shot, width, "--as-plate"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "another shape than the delivered picture of 192 x 108"));
  EXPECT_EQ(run({"expose", shot, width}).code, 0) << "all of it can be metered";
}

// ---- sequences ---------------------------------------------------------------------------------

TEST(ExposeFrames, MetersAndExposesEachAndFollowsARamp) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  for (int f = 1; f <= 24; ++f) {
    const float v = f < 5 ? 0.18F : 0.72F;
    picture_in(folder, fmt_name("in.", f), {v, v, v, 1.0F}, {32, 18});
  }
  const std::string in = folder / "in.####.exr";
  const std::string out = folder / "out.####.exr";
  const Json each =
      json_of({shot, in, "--frames", "1-24", "--meter", "average", "--apply", "-o", out});
  ASSERT_EQ(each["frames"].size(), 24U);
  EXPECT_EQ(each["written"][23], folder / "out.0024.exr");
  for (const int f : {1, 4, 5, 24}) {
    EXPECT_NEAR(read_picture(folder / fmt_name("out.", f)).colour.at(3, 3)[1], 0.18F, 2e-4F) << f;
  }
  const Json ramp = json_of({shot, in, "--frames", "1-24", "--meter", "average", "--ramp",
                             "2 stops/s", "--delay", "0.25 s", "--apply", "-o", out});
  const auto stops = [&](int f) {
    return ramp["frames"][static_cast<std::size_t>(f - 1)]["applied_stops"].get<double>();
  };
  EXPECT_NEAR(stops(10), 0.0, 1e-3) << "six frames late";
  EXPECT_NEAR(stops(22), -1.0, 0.01) << "half a second at two stops a second";
  EXPECT_NEAR(read_picture(folder / fmt_name("out.", 22)).colour.at(3, 3)[1], 0.36F, 4e-3F);
  // Only the last run of # is a number.
  std::filesystem::copy_file(folder / fmt_name("in.", 3), folder / "shot #2.03.exr");
  EXPECT_EQ(run({"expose", shot, folder / "shot #2.##.exr", "--frames", "3-3"}).code, 0);
  const Ran text = run({"expose", shot, in, "--frames", "1-24", "--threads", "1"});
  EXPECT_TRUE(holds(text.out, "24 frames, metered by average"));
}

TEST(ExposeFrames, AMissingFrameIsToldBeforeAnyWork) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  picture_in(folder, "in.0001.exr", {0.1F, 0.1F, 0.1F, 1.0F}, {32, 18});
  const Ran r = run({"expose", shot, folder / "in.####.exr", "--frames", "1-2", "--apply", "-o",
                     folder / "out.####.exr"});
  EXPECT_EQ(r.code, 3);
  EXPECT_TRUE(holds(r.err, "in.0002.exr: cannot read it"));
  EXPECT_FALSE(std::filesystem::exists(folder / "out.0001.exr"));
}

// ---- what cannot be meant ----------------------------------------------------------------------

struct BadExpose {
  const char* name;
  std::vector<std::string>
      args;  // behind expose SHOT; PICTURE stands for one, BLACK for a black one
  int code;
  const char* says;
};
void PrintTo(const BadExpose& bad, std::ostream* out) { *out << bad.name; }

class BadExposes : public ::testing::TestWithParam<BadExpose> {};

TEST_P(BadExposes, AreToldAndLeaveNothingBehind) {
  const TempFolder folder;
  std::vector<std::string> args{"expose", shot_in(folder)};
  const std::string grey = picture_in(folder, "grey.exr", {0.2F, 0.2F, 0.2F, 1.0F});
  const std::string black = picture_in(folder, "black.exr", {0.0F, 0.0F, 0.0F, 1.0F});
  for (const std::string& a : GetParam().args) {
    args.push_back(a == "PICTURE" ? grey
                   : a == "BLACK" ? black
                   : a == "OUT"   ? folder / "o.exr"
                                  : a);
  }
  const std::size_t before = folder.count();
  const Ran r = run(args);
  EXPECT_EQ(r.code, GetParam().code) << r.out << r.err;
  EXPECT_TRUE(holds(r.err, GetParam().says));
  EXPECT_EQ(r.out, "");
  EXPECT_EQ(folder.count(), before);
}

using Args = std::vector<std::string>;
INSTANTIATE_TEST_SUITE_P(
    All, BadExposes,
    ::testing::Values(
        BadExpose{"no_picture", Args{"--meter", "average"}, 2, "name the PICTURE"},
        BadExpose{"apply_nothing", Args{"--apply"}, 2, "name the PICTURE"},
        BadExpose{"out_alone", Args{"PICTURE", "-o", "OUT"}, 2, "give both"},
        BadExpose{"way", Args{"PICTURE", "--meter", "matrix"}, 2, "write one of average, centre"},
        BadExpose{"spot_alone", Args{"PICTURE", "--meter", "spot"}, 2, "--at X,Y together"},
        BadExpose{"at_alone", Args{"PICTURE", "--at", "3,4"}, 2, "--at X,Y together"},
        BadExpose{"at", Args{"PICTURE", "--meter", "spot", "--at", "3"}, 2, "commas between"},
        BadExpose{"radius", Args{"PICTURE", "--meter", "spot", "--at", "3,4,0"}, 2, "above zero"},
        BadExpose{"outside", Args{"PICTURE", "--meter", "spot", "--at", "500,4"}, 2, "outside"},
        BadExpose{"no_region", Args{"PICTURE", "--meter", "region"}, 2, "draw a grey card"},
        BadExpose{"region", Args{"PICTURE", "--region", "1,2,3"}, 2, "left, top, width"},
        BadExpose{"region_off", Args{"PICTURE", "--meter", "region", "--region", "180,2,30,3"}, 2,
                  "does not lie within"},
        BadExpose{"share", Args{"PICTURE", "--meter", "highlights", "--may-clip", "120 %"}, 2,
                  "under 100 %"},
        BadExpose{"share_alone", Args{"PICTURE", "--may-clip", "1 %"}, 2, "--meter highlights"},
        BadExpose{"grey", Args{"PICTURE", "--grey", "0"}, 2, "above zero"},
        BadExpose{"stops", Args{"PICTURE", "--stops", "61"}, 2, "within ±60"},
        BadExpose{"stops_nan", Args{"PICTURE", "--stops", "nan"}, 2, "not a number"},
        BadExpose{"stops_many", Args{"PICTURE", "--stops", "1e9"}, 2, "within ±60"},
        BadExpose{"black", Args{"BLACK"}, 3, "nothing but black"},
        BadExpose{"black_patch", Args{"BLACK", "--neutral", "1,1,9,9"}, 3, "nothing but black"},
        BadExpose{"told", Args{"PICTURE", "--told", "3200"}, 2, "write e.g. 5600 K"},
        BadExpose{"told_cold", Args{"PICTURE", "--told", "50000 K"}, 2, "1000 to 25000 K"},
        BadExpose{"light_red", Args{"PICTURE", "--light", "1200 K"}, 1, "lies outside Rec.709"},
        BadExpose{"neutral", Args{"PICTURE", "--neutral", "grey"}, 2, "mean, brightest"},
        BadExpose{"neutral_told", Args{"PICTURE", "--neutral", "mean", "--told", "3200 K"}, 2,
                  "leave --light and --told out"},
        BadExpose{"adapt", Args{"PICTURE", "--adapt", "CAT16"}, 2, "say what the light is"},
        BadExpose{"adapt_name", Args{"PICTURE", "--light", "3200 K", "--adapt", "CAT02"}, 2,
                  "CAT16, Bradford"},
        BadExpose{"no_plate", Args{"PICTURE", "--as-plate"}, 2, "names no plate"},
        BadExpose{"plate_and_meter", Args{"PICTURE", "--as-plate", "--meter", "average"}, 2,
                  "by itself"},
        BadExpose{"fall_off", Args{"PICTURE", "--fall-off", "more"}, 2, "add, remove"},
        BadExpose{"sheet", Args{"PICTURE", "--sheet", "sheet.gif"}, 2, "ends in .png or .svg"},
        BadExpose{"ending", Args{"PICTURE", "--apply", "-o", "o.bmp"}, 2, ".exr, .png"},
        BadExpose{"frames", Args{"PICTURE", "--frames", "1-2"}, 2, "has no #"},
        BadExpose{"frames_out", Args{"a.##.exr", "--frames", "1-2", "--apply", "-o", "o.exr"}, 2,
                  "written over the last"},
        BadExpose{"ramp_alone", Args{"PICTURE", "--ramp", "2 stops/s"}, 2, "goes over --frames"},
        BadExpose{"ramp", Args{"a.#.exr", "--frames", "1-2", "--ramp", "2"}, 2, "2 stops/s"},
        BadExpose{"delay", Args{"a.#.exr", "--frames", "1-2", "--delay", "1 s"}, 2, "--ramp"},
        BadExpose{"half_frame", Args{"a.#.exr", "--frames", "1-2", "--step", "0.5"}, 2,
                  "not whole"},
        BadExpose{"transfer", Args{"PICTURE", "--transfer", "log"}, 2, "FILE.csv"},
        BadExpose{"no_table", Args{"PICTURE", "--transfer", "none.csv"}, 3, "none.csv"},
        BadExpose{"pay", Args{"--set", "take.stop=f/2", "--pay", "light"}, 2,
                  "stop, shutter, iso, nd"},
        BadExpose{"pay_nothing", Args{"--pay", "iso"}, 2, "say which"},
        BadExpose{"pay_over", Args{"--set", "take.stop=f/11", "--pay", "shutter"}, 1,
                  "a frame's turn has 360"},
        BadExpose{"speed_alone", Args{"--speed", "1 m/s"}, 2, "--of NAME"},
        BadExpose{"speed", Args{"--of", "swan", "--speed", "1 m"}, 2, "1.2 m/s"},
        BadExpose{"of", Args{"--of", "swan"}, 2, "there is no subject 'swan'"},
        BadExpose{"iso", Args{"--set", "take.iso=0"}, 2, "an ISO above zero"},
        BadExpose{"shutter", Args{"--set", "take.shutter=0 s"}, 2, "a time is above zero"},
        BadExpose{"angle", Args{"--set", "take.shutter=400 deg"}, 2, "at most 360"},
        BadExpose{"nd", Args{"--set", "take.nd=-1 stop"}, 2, "take.nd"}),
    [](const auto& each) { return std::string(each.param.name); });

}  // namespace expose_cli_test
}  // namespace jolly_iris
