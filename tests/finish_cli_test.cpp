// finish, and defocus with a finish: through the command line.
#include <gtest/gtest.h>

#include <fstream>
#include <nlohmann/json.hpp>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris {
namespace finish_cli_test {

using testing::demo;
using testing::holds;
using testing::holds_all;
using testing::Ran;
using testing::run;
using testing::TempFolder;

// A lamp on a dim even field.
std::string lamp(const TempFolder& folder, const std::string& name = "lamp.exr") {
  Frame frame{Picture({240, 135}, {0.05F, 0.05F, 0.05F, 1.0F}), {}, {}};
  frame.colour.at(120, 67) = {900.0F, 900.0F, 900.0F, 1.0F};
  write_picture(folder / name, frame);
  return folder / name;
}

std::vector<std::string> with(std::vector<std::string> args,
                              const std::vector<std::string>& tried) {
  for (const std::string& t : tried) args.insert(args.end(), {"--set", t});
  return args;
}

const std::vector<std::string> halo{"finish.halo.share=5 %", "finish.halo.reach=1 %"};

TEST(FinishCommand, HaloesAndSaysWhatIsInThePicture) {
  const TempFolder folder;
  const std::string out = folder / "out.exr";
  const Ran r = run(with({"finish", demo("hero.shot.toml"), lamp(folder), "-o", out}, halo));
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds_all(r.err, {"note: halo: 5 % of the light"}));
  EXPECT_TRUE(holds_all(r.out, {"240 x 135, halo", "tried", "finish.halo.share = 5 %"}));
  EXPECT_EQ(read_header(out).at("jolly_iris:finish"), "halo");
  const Picture p = read_picture(out).colour;
  EXPECT_GT(p.at(124, 67)[0], 0.1F);
  EXPECT_LT(p.at(120, 67)[0], 860.0F);
  // Not twice.
  const Ran again =
      run(with({"finish", demo("hero.shot.toml"), out, "-o", folder / "b.exr"}, halo));
  EXPECT_EQ(again.code, 2);
  EXPECT_TRUE(holds_all(again.err, {"out.exr", "has its halo already"}));
  // But another part on top, and the header knows both.
  const Ran more = run(with({"finish", demo("hero.shot.toml"), out, "-o", folder / "c.exr"},
                            {"finish.corners=1 stops"}));
  ASSERT_EQ(more.code, 0) << more.err;
  EXPECT_EQ(read_header(folder / "c.exr").at("jolly_iris:finish"), "halo, corners");
}

TEST(FinishCommand, LayersAreInTheFileAndAddUp) {
  const TempFolder folder;
  const std::string layers = folder / "layers.exr";
  const Ran r =
      run(with({"finish", demo("hero.shot.toml"), lamp(folder), "--layers", layers, "--json"},
               {halo[0], halo[1], "finish.grain.grey=0.01", "finish.grain.black=0.002"}));
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds_all(r.out, {"layers.exr", "\"parts\"", "\"grain\""}));
  const Picture all = read_picture(layers).colour;
  const Picture before = read_picture(lamp(folder)).colour;
  const Picture light = read_picture(layers, PictureRead{{}, {}, "halo", false}).colour;
  const Picture grain = read_picture(layers, PictureRead{{}, {}, "grain", false}).colour;
  for (std::size_t i = 0; i < all.pixels().size(); ++i) {
    ASSERT_NEAR(all.pixels()[i][1],
                before.pixels()[i][1] + light.pixels()[i][1] + grain.pixels()[i][1], 2e-3F);
  }
  const Ran png = run(with(
      {"finish", demo("hero.shot.toml"), lamp(folder), "--layers", folder / "layers.png"}, halo));
  EXPECT_EQ(png.code, 2);
}

TEST(FinishCommand, FramesHaveGrainOfTheirOwn) {
  const TempFolder folder;
  for (const char* name : {"a.0001.exr", "a.0002.exr"}) lamp(folder, name);
  const std::vector<std::string> args{
      "finish", demo("hero.shot.toml"), folder / "a.####.exr", "--frames", "1-2",
      "-o",     folder / "b.####.exr"};
  const std::vector<std::string> grain{"finish.grain.grey=0.01"};
  const Ran r = run(with(args, grain));
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "2 frames finished"));
  const Picture one = read_picture(folder / "b.0001.exr").colour;
  EXPECT_FALSE(one.pixels() == read_picture(folder / "b.0002.exr").colour.pixels());
  ASSERT_EQ(run(with(args, grain)).code, 0);
  EXPECT_EQ(one.pixels(), read_picture(folder / "b.0001.exr").colour.pixels());
  // A missing one is told before any work.
  const Ran gap = run(with({"finish", demo("hero.shot.toml"), folder / "a.####.exr", "--frames",
                            "1-3", "-o", folder / "c.####.exr"},
                           grain));
  EXPECT_EQ(gap.code, 3);
  EXPECT_TRUE(holds(gap.err, "a.0003.exr"));
  EXPECT_FALSE(std::filesystem::exists(folder / "c.0001.exr"));
}

TEST(FinishCommand, DefocusDoesAllInOne) {
  const TempFolder folder;
  const std::string look = "lens.look=../looks/hazy.look.toml";
  const Ran r = run({"defocus", demo("hero.shot.toml"), demo("pinhole.exr"), "--finish", "--half",
                     "--set", look, "-o", folder / "a.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(read_header(folder / "a.exr").at("jolly_iris:finish"), "lift, halo");
  const Ran part =
      run({"defocus", demo("hero.shot.toml"), demo("pinhole.exr"), "--finish", "--half", "--box",
           "200,100,300,200", "--set", look, "-o", folder / "b.exr"});
  ASSERT_EQ(part.code, 0) << part.err;
  const Picture cut = crop(read_picture(folder / "a.exr"), {100, 50, 150, 100}).colour;
  const Picture made = crop(read_picture(folder / "b.exr"), {100, 50, 150, 100}).colour;
  EXPECT_EQ(made.pixels(), cut.pixels());
  const Ran none = run(
      {"defocus", demo("hero.shot.toml"), demo("pinhole.exr"), "--finish", "-o", folder / "c.exr"});
  EXPECT_EQ(none.code, 2);
  EXPECT_TRUE(holds(none.err, "says nothing of a finish"));
  // Lifted behind the lens, discs are what becomes brighter.
  ASSERT_EQ(run({"defocus", demo("hero.shot.toml"), demo("pinhole.exr"), "--half", "-o",
                 folder / "d.exr"})
                .code,
            0);
  const Ran late = run(
      {"finish", demo("hero.shot.toml"), folder / "d.exr", "--set", look, "-o", folder / "e.exr"});
  EXPECT_EQ(late.code, 0);
  EXPECT_TRUE(holds(late.err, "its discs are lifted and not its lamps"));
}

TEST(FinishCommand, MistakesNameTheirKeys) {
  const TempFolder folder;
  const std::string picture = lamp(folder);
  const auto refused = [&](const std::vector<std::string>& tried,
                           const std::vector<std::string>& said, int code = 2) {
    const Ran r =
        run(with({"finish", demo("hero.shot.toml"), picture, "-o", folder / "x.exr"}, tried));
    EXPECT_EQ(r.code, code) << r.err;
    EXPECT_TRUE(holds_all(r.err, said));
    EXPECT_FALSE(std::filesystem::exists(folder / "x.exr"));
  };
  refused({}, {"says nothing of a finish", "finish.halo.share"});
  refused({"finish.halo.reach=6 px"}, {"finish.halo.share", "share = \"4 %\""});
  refused({"finish.halo.share=140 %", "finish.halo.reach=3 px"},
          {"finish.halo.share", "0 to 100 %"});
  refused({halo[0], halo[1], "finish.halo.power=2"}, {"finish.halo.power", "infinitely far"});
  refused({"finish.corners=much"}, {"finish.corners", "1.2 stops"});
  refused({"finish.corners_power=3"}, {"finish.corners_power", "corners = \"1.2 stops\""});
  refused({"finish.grain.black=0.02", "finish.grain.grey=0.01"}, {"finish.grain.black", "noise"});
  refused({"finish.lift_from=3 stops"}, {"finish.lift_to"});
  refused({"finish.lift_from=3 stops", "finish.lift_to=2 stops"}, {"finish.lift_to", "above"});
  refused({"finish.lift_from=3 stops", "finish.lift_to=9 stops"}, {"finish.lift_to", "+12.29"}, 1);
  refused({"finish.cast=-150"}, {"finish.cast", "whites"}, 1);
  refused({"finish.haze=3"}, {"finish.haze"});
  const Ran wide = run(
      with({"finish", demo("hero.shot.toml"), picture, "--margin", "5000", "-o", folder / "x.exr"},
           {"finish.cast=20"}));
  EXPECT_TRUE(holds_all(wide.err, {"lamp.exr", "a margin of 5000", "leaves nothing"}));
  EXPECT_NE(wide.code, 0);
  refused({"finish.spikes.times=1e5"}, {"finish.spikes.times", "more than there is"}, 1);
  refused({"finish.streak.share=80 %", "finish.streak.reach=3 px", "finish.halo.share=60 %",
           "finish.halo.reach=3 px"},
          {"together spread 1.4 times"}, 1);
}

TEST(FinishCommand, HighlightsAboveEverythingAndBlackPictures) {
  const TempFolder folder;
  write_picture(folder / "black.exr", {Picture({64, 36}, {0, 0, 0, 1}), {}, {}});
  const Ran r =
      run(with({"finish", demo("hero.shot.toml"), folder / "black.exr", "-o", folder / "out.exr"},
               {"finish.lift_from=3 stops", "finish.lift_to=9 stops", halo[0],
                "finish.halo.reach=500 %", "finish.spikes.times=1"}));
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds_all(r.err, {"nothing reaches +3 stops"}));
  const Picture out = read_picture(folder / "out.exr").colour;
  for (const Rgba& p : out.pixels()) {
    ASSERT_EQ(p, (Rgba{0, 0, 0, 1}));
  }
}

// Grain that a plate has, as lines to paste: given to CG, it is measured the same.
TEST(FinishCommand, APlateThatIsTooSmallIsNamed) {
  const TempFolder folder;
  write_picture(folder / "tiny.exr", {Picture({1, 1}, {0.1F, 0.1F, 0.1F, 1.0F}), {}, {}});
  const Ran r = run({"measure", demo("hero.shot.toml"), "--finish", "--set",
                     "plate.file=" + (folder / "tiny.exr")});
  EXPECT_EQ(r.code, 3) << r.err;
  EXPECT_TRUE(holds_all(r.err, {"tiny.exr", "1 x 1 px", "64 px"}));
}

TEST(FinishCommand, MeasuresThePlatesGrain) {
  const TempFolder folder;
  Frame plate{Picture({960, 540}, {0.0F, 0.0F, 0.0F, 1.0F}), {}, {}};
  for (int y = 0; y < 540; ++y) {
    for (int x = 0; x < 960; ++x) {
      const auto v = static_cast<float>(0.03 + 0.1 * (y / 90));
      plate.colour.at(x, y) = {v, v, v, 1.0F};
    }
  }
  write_picture(folder / "even.exr", plate);
  const Ran made =
      run(with({"finish", demo("hero.shot.toml"), folder / "even.exr", "-o", folder / "plate.exr"},
               {"finish.grain.grey=[0.012, 0.009, 0.015]", "finish.grain.black=0.002",
                "finish.grain.size=1.6 px"}));
  ASSERT_EQ(made.code, 0) << made.err;
  const std::vector<std::string> ask{"measure",
                                     demo("hero.shot.toml"),
                                     "--finish",
                                     "--set",
                                     "plate.file=" + (folder / "plate.exr"),
                                     "--set",
                                     "plate.transfer=linear"};
  const Ran r = run(ask);
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds_all(r.out, {"GRAIN, % of white", "[finish.grain]", "softened over", "px"}));
  std::vector<std::string> json = ask;
  json.emplace_back("--json");
  const nlohmann::json told = nlohmann::json::parse(run(json).out);
  EXPECT_NEAR(told["grain"]["grey"][0]["value"].get<double>(), 0.012, 0.0006);
  EXPECT_NEAR(told["grain"]["grey"][2]["value"].get<double>(), 0.015, 0.0008);
  // Half as wide as the delivered picture, so px there are half of a px here.
  EXPECT_NEAR(told["grain"]["size_px"]["value"].get<double>(), 0.8, 0.05);
  EXPECT_TRUE(holds(r.out, "size  = \"1.6"));
  // Decoded otherwise than it was written: a doubt is told.
  const Ran doubted = run({"measure", demo("hero.shot.toml"), "--finish", "--set",
                           "plate.file=" + (folder / "plate.exr"), "--set", "plate.transfer=sRGB"});
  EXPECT_TRUE(holds(doubted.err, "an EXR is linear as a rule"));
  // The demo's own plate has none that its file could keep.
  const Ran none = run({"measure", demo("hero.shot.toml"), "--finish"});
  EXPECT_EQ(none.code, 0);
  EXPECT_TRUE(holds_all(none.out, {"cannot be told", "at most"}));
}

// What is keyed over frames: a lamp that flares up.
TEST(FinishCommand, LiftGoesOverFrames) {
  const TempFolder folder;
  std::ofstream(folder / "a.shot.toml")
      << "body.gate = \"24 x 13.5 mm\"\nbody.pixels = \"240 x 135\"\nlens.focal = \"50 mm\"\n"
         "take.stop = \"f/4\"\nfocus.at = \"2 m\"\n[finish]\nlift_from = \"3 stops\"\n"
         "lift_peak = \"14 stops\"\n[over.finish.lift_to]\n1 = \"14 stops\"\n3 = \"16 stops\"\n";
  lamp(folder);
  const auto peak = [&](const char* frame) {
    const Ran r = run({"finish", folder / "a.shot.toml", folder / "lamp.exr", "--frame", frame,
                       "-o", folder / "out.exr"});
    EXPECT_EQ(r.code, 0) << r.err;
    return read_picture(folder / "out.exr").colour.at(120, 67)[0];
  };
  EXPECT_NEAR(peak("1"), 900.0F, 1.0F);
  const double t = (std::log2(900.0 / 0.18) - 3.0) / 11.0;
  EXPECT_NEAR(std::log2(static_cast<double>(peak("3")) / 900.0), 2.0 * t * t, 0.01);
  EXPECT_LT(peak("2"), peak("3"));
}

TEST(CompareFinish, AdvisesThePlatesGrainAndCorners) {
  const TempFolder folder;
  // The demo's plate, once more with grain and corners, is the plate; as it is, it is CG.
  const std::string plate = folder / "plate.exr";
  Ran r =
      run({"finish", demo("hero.shot.toml"), demo("plate.jpg"), "--set", "finish.corners=0.8 stops",
           "--set", "finish.grain.grey=0.01", "--set", "finish.grain.black=0.002", "-o", plate});
  ASSERT_EQ(r.code, 0) << r.err;
  r = run({"compare", demo("hero.shot.toml"), demo("plate.jpg"), "--set", "plate.file=" + plate,
           "--set", "plate.transfer=linear", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const auto j = nlohmann::json::parse(r.out);
  bool corners = false;
  bool grain = false;
  for (const auto& m : j["moves"]) {
    corners = corners || (m["key"] == "finish.corners" && m["to"] == "0.80 stops");
    grain = grain || m["key"] == "finish.grain";
    // The frame is darker by its corners alone.
    EXPECT_FALSE(holds(m["said"].get<std::string>(), "darken CG")) << m["said"];
  }
  EXPECT_TRUE(corners) << j["moves"].dump(1);
  EXPECT_TRUE(grain) << j["moves"].dump(1);
  EXPECT_EQ(j["finish"]["missing"][0]["part"], "grain");
}

}  // namespace finish_cli_test
}  // namespace jolly_iris
