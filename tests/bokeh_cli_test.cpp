// bokeh and what is new in defocus, from the command line.
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <ostream>

#include "cli_support.hpp"
#include "jolly_iris/picture/psnr.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "small_dusk.hpp"

namespace jolly_iris {
namespace bokeh_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

std::string shot_in(const TempFolder& folder, const std::string& lens = "",
                    const std::string& more = "") {
  return folder.write("a.shot.toml",
                      "[body]\ngate = \"6 x 3.375 mm\"\npixels = \"192 x 108\"\n[lens]\nfocal = "
                      "\"50 mm\"\n" +
                          lens + "[take]\nstop = \"f/2\"\nmark = \"2 m\"\n[focus]\nat = \"2 m\"\n" +
                          more);
}

Json json_of(std::vector<std::string> args) {
  args.emplace_back("--json");
  const Ran r = run(args);
  EXPECT_EQ(r.code, 0) << r.err;
  return r.code == 0 ? Json::parse(r.out) : Json();
}

TEST(BokehCli, TellsDiscsAllOverTheFrameAndDrawsThem) {
  const TempFolder folder;
  const Ran r = run({"bokeh", demo("oval.shot.toml"), "-o", folder / "s.svg"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "2.00 times as high as wide"));
  EXPECT_TRUE(holds(r.out, "behind, infinity"));
  EXPECT_GT(slurp(folder / "s.svg").size(), 5000U);
  const Json j = json_of({"bokeh", demo("oval.shot.toml"), "-o", folder / "s.png"});
  EXPECT_GT(slurp(folder / "s.png").size(), 5000U);
  EXPECT_NEAR(j["opening"]["height_over_width"].get<double>(), 2.0, 0.01);
  ASSERT_EQ(j["discs"].size(), 15U);
  const Json& corner = j["discs"].back();
  EXPECT_TRUE(corner["distance_m"].is_null());
  EXPECT_LT(corner["light_stops"].get<double>(), -0.05);
  EXPECT_NEAR(corner["coc_px"].get<double>(), 31.317, 1e-3);
}

// The report names what shapes the discs, and programs get its numbers.
TEST(BokehCli, ReportTellsOfRimBarrelAndFaults) {
  const std::vector<std::string> args{"report", demo("oval.shot.toml"), "--set",
                                      "lens.faults.spherical=0.1 mm"};
  EXPECT_TRUE(holds(run(args).out, "rim +0.4 stops, cut by the barrel, with faults of the lens"));
  const Json camera = json_of(args)["camera"];
  EXPECT_DOUBLE_EQ(camera["iris"]["rim_stops"].get<double>(), 0.4);
  ASSERT_EQ(camera["barrel"].size(), 2U);
  EXPECT_DOUBLE_EQ(camera["barrel"][1]["ahead_mm"].get<double>(), -22.0);
  EXPECT_DOUBLE_EQ(camera["faults"]["spherical_mm"].get<double>(), 0.1);
  EXPECT_FALSE(json_of({"report", demo("hero.shot.toml")})["camera"].contains("faults"));
}

TEST(BokehCli, RowsAreWhatIsAskedFor) {
  const TempFolder folder;
  const Json j = json_of({"bokeh", demo("hero.shot.toml"), "--at", "1 m,second boat,infinity", "-o",
                          folder / "s.png"});
  ASSERT_EQ(j["discs"].size(), 9U);
  EXPECT_LT(j["discs"][0]["coc_px"].get<double>(), 0.0);
  EXPECT_NEAR(j["discs"][3]["distance_m"].get<double>(), 3.7, 0.01);
}

TEST(BokehCli, KernelTableAndMaskAreWritten) {
  const TempFolder folder;
  const Json j = json_of({"bokeh", demo("oval.shot.toml"), "--kernel", folder / "k.exr", "--size",
                          "64", "--pixel", "1900,20", "--table", folder / "t.json", "--mask",
                          folder / "m.png", "--noise", "0.1"});
  EXPECT_EQ(j["written"].size(), 3U) << "no sheet without asking";
  const Picture k = read_picture(folder / "k.exr").colour;
  double sum = 0.0;
  for (const Rgba& p : k.pixels()) sum += static_cast<double>(p[1]);
  EXPECT_NEAR(sum, 1.0, 2e-3);
  const Json table = Json::parse(slurp(folder / "t.json"));
  EXPECT_NEAR(table["radius"].get<double>(), 0.053 / 4.4, 1e-6);
  EXPECT_DOUBLE_EQ(table["aspect"].get<double>(), 0.5);
  EXPECT_EQ(table["opening"]["nodes"].size(), 9U * 33U);
  EXPECT_EQ(table["rims"].size(), 2U);
  EXPECT_DOUBLE_EQ(j["mask"]["distance_mm"].get<double>(), 32.0);
  EXPECT_GT(j["rays_for_all"].get<int>(), 64);
  // A card of that size: the hole's share of its area.
  const Picture m = read_picture(folder / "m.png").colour;
  double open = 0.0;
  for (const Rgba& p : m.pixels()) open += static_cast<double>(p[1]);
  const double hole =
      j["mask"]["hole_radius_mm"].get<double>() / j["mask"]["side_mm"].get<double>();
  EXPECT_NEAR(open / (1024.0 * 1024.0), M_PI * hole * hole, 1e-3);
}

TEST(BokehCli, TriesOneValueAsDiscsAndAsScenes) {
  const TempFolder folder;
  const std::string png = folder / "t.png";
  const std::string sharp = testing::small_dusk(folder).cg;
  for (const std::vector<std::string>& as :
       {std::vector<std::string>{}, {"--as", "trace"}, {"--sharp", sharp, "--as", "defocus"}}) {
    // Three leave one place of the sheet empty.
    const bool traced = !as.empty() && as.back() == "trace";
    const std::string vary = traced ? "lens.iris.blades=3,5" : "lens.iris.blades=3,5,7";
    std::vector<std::string> args{"bokeh", demo("triangles.shot.toml"), "--vary", vary, "-o", png};
    args.insert(args.end(), as.begin(), as.end());
    const Ran r = run(args);
    EXPECT_EQ(r.code, 0) << r.err;
    EXPECT_TRUE(holds(r.out, traced ? "2 tries of" : "3 tries of lens.iris.blades"));
    EXPECT_GT(slurp(png).size(), 3000U);
  }
}

TEST(BokehCli, VariantsStandBesideTheShotInTextAndJson) {
  const TempFolder folder;
  const std::vector<std::string> args{"bokeh", demo("drift.shot.toml"), "--vary", "variant=night",
                                      "-o",    folder / "v.png"};
  const Ran r = run(args);
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "as in the shot")) << r.out;
  EXPECT_TRUE(holds(r.out, "+2.6 stops")) << r.out;
  std::vector<std::string> asked = args;
  asked.emplace_back("--json");
  const auto list = nlohmann::json::parse(run(asked).out).at("variants");
  ASSERT_EQ(list.size(), 2U);
  // ISO 800 to 3200, f/2.2 to f/1.8: the adapter and the focus are the same.
  EXPECT_NEAR(list[1].at("brighter_stops").get<double>(), 2.0 + 2.0 * std::log2(2.2 / 1.8), 0.02);
  EXPECT_EQ(list[1].at("name"), "night");
}

struct Wrong {
  const char* name;
  std::vector<std::string> args;
  const char* says;
};
void PrintTo(const Wrong& w, std::ostream* out) { *out << w.name; }
class WrongBokehs : public ::testing::TestWithParam<Wrong> {};

TEST_P(WrongBokehs, AreToldAndLeaveNothing) {
  const TempFolder folder;
  std::vector<std::string> args = GetParam().args;
  for (std::string& a : args) {
    if (a == "SHOT") a = shot_in(folder);
    if (a == "OUT") a = folder / "o.png";
    if (a == "PICTURE") a = demo("pinhole.exr");
  }
  const std::size_t before = folder.count();
  const Ran r = run(args);
  EXPECT_NE(r.code, 0);
  EXPECT_TRUE(holds(r.err, GetParam().says));
  EXPECT_LE(folder.count(), std::max<std::size_t>(before, 1));
}

INSTANTIATE_TEST_SUITE_P(
    All, WrongBokehs,
    ::testing::Values(
        Wrong{"variant_without_name",
              {"bokeh", demo("drift.shot.toml"), "--vary", "variant=", "-o", "OUT"},
              "write variants of the shot"},
        Wrong{"variant_unknown",
              {"bokeh", demo("drift.shot.toml"), "--vary", "variant=nigth", "-o", "OUT"},
              "Did you mean 'night'?"},
        Wrong{"ending", {"bokeh", "SHOT", "-o", "o.gif"}, "ends in .png or .svg"},
        Wrong{"one_try", {"bokeh", "SHOT", "--vary", "take.stop=f/2", "-o", "OUT"}, "two or more"},
        Wrong{"a_step",
              {"bokeh", "SHOT", "--vary", "take.stop=f/2,g/4", "-o", "OUT"},
              "--vary: take.stop: "},
        Wrong{"as_alone", {"bokeh", "SHOT", "--as", "trace", "-o", "OUT"}, "belongs to --vary"},
        Wrong{"as_what",
              {"bokeh", "SHOT", "--vary", "take.stop=f/2,f/4", "--as", "film", "-o", "OUT"},
              "discs, trace or defocus"},
        Wrong{"pixel_alone", {"bokeh", "SHOT", "--pixel", "3,4", "-o", "OUT"}, "--kernel FILE"},
        Wrong{"pixel_far",
              {"bokeh", "SHOT", "--kernel", "OUT", "--pixel", "3000,4"},
              "not within the picture"},
        Wrong{"kernel_in_focus", {"bokeh", "SHOT", "--kernel", "OUT", "--at", "2 m"}, "in focus"},
        Wrong{"no_rim", {"bokeh", "SHOT", "--mask", "OUT"}, "no rim in front"},
        Wrong{"at_nobody", {"bokeh", "SHOT", "--at", "nobody", "-o", "OUT"}, "neither a subject"},
        Wrong{"edge", {"defocus", "SHOT", "PICTURE", "--edge", "wrap", "-o", "OUT"}, "mirror"},
        Wrong{"margin", {"defocus", "SHOT", "PICTURE", "--margin", "-3", "-o", "OUT"}, "whole px"},
        Wrong{"margin_all",
              {"defocus", "SHOT", "PICTURE", "--margin", "600", "-o", "OUT"},
              "leaves nothing"},
        Wrong{"clip_alone",
              {"defocus", "SHOT", "PICTURE", "--clipped-at", "1", "-o", "OUT"},
              "--true-peak"},
        Wrong{"disc", {"defocus", "SHOT", "PICTURE", "--disc", "0.4", "-o", "OUT"}, "diameter"},
        Wrong{"two_peaks",
              {"defocus", "SHOT", "PICTURE", "--disc", "0.4,9", "--true-peak", "4", "-o", "OUT"},
              "give one of them"},
        Wrong{"most_alone",
              {"defocus", "SHOT", "PICTURE", "--most", "9", "-o", "OUT"},
              "--blur FILE"},
        Wrong{"holdout",
              {"defocus", "SHOT", "PICTURE", "--holdout", "x.exr", "-o", "OUT"},
              "none of the layers"},
        Wrong{"box_far",
              {"defocus", "SHOT", "PICTURE", "--box", "1250,700,100,100", "-o", "OUT"},
              "1250"},
        Wrong{"no_squeeze",
              {"defocus", "SHOT", "PICTURE", "--squeezed", "-o", "OUT"},
              "does not squeeze"},
        Wrong{
            "outline",
            {"bokeh", "SHOT", "--set", "lens.iris.outline=[[0,0],[2,2],[2,0],[0,2]]", "-o", "OUT"},
            "crosses or touches itself"},
        Wrong{"outline_gone",
              {"bokeh", "SHOT", "--set", "lens.iris.outline=gone.svg", "-o", "OUT"},
              "gone.svg"},
        Wrong{"spherical_alone",
              {"bokeh", "SHOT", "--set", "lens.faults.spherical=0.1 mm", "-o", "OUT"},
              "widest"},
        Wrong{"curvature_alone",
              {"bokeh", "SHOT", "--set", "lens.faults.curvature=0.1 dpt", "-o", "OUT"},
              "height"}),
    [](const auto& each) { return std::string(each.param.name); });

// ---- defocus ------------------------------------------------------------------------------------

TEST(DefocusCli, APartIsThatPartOfTheWhole) {
  const TempFolder folder;
  const std::string picture = demo("pinhole.exr");
  ASSERT_EQ(run({"defocus", demo("hero.shot.toml"), picture, "-o", folder / "w.exr"}).code, 0);
  const Ran r = run({"defocus", demo("hero.shot.toml"), picture, "--box", "300,80,200,120", "-o",
                     folder / "p.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "a draft (the whole takes about"));
  const Frame part = crop(read_picture(folder / "w.exr"), {300, 80, 200, 120});
  const Frame made = crop(read_picture(folder / "p.exr"), {300, 80, 200, 120});
  EXPECT_GT(psnr(made.colour, part.colour), 60.0);
}

TEST(DefocusCli, BlurGoesOutAndComesBack) {
  const TempFolder folder;
  const std::string picture = demo("pinhole.exr");
  ASSERT_EQ(run({"defocus", demo("hero.shot.toml"), picture, "--save-blur", folder / "b.exr", "-o",
                 folder / "w.exr"})
                .code,
            0);
  ASSERT_EQ(run({"defocus", demo("hero.shot.toml"), picture, "--blur", folder / "b.exr", "-o",
                 folder / "again.exr"})
                .code,
            0);
  EXPECT_GT(psnr(read_picture(folder / "again.exr").colour, read_picture(folder / "w.exr").colour),
            80.0);
}

TEST(DefocusCli, HalfIsADraftOfHalfTheSize) {
  const TempFolder folder;
  const Ran r = run(
      {"defocus", demo("hero.shot.toml"), demo("pinhole.exr"), "--half", "-o", folder / "h.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(read_picture(folder / "h.exr").colour.width(), 640);
}

// A lamp that the file clipped: told why its disc is faint, then given its light back.
TEST(DefocusCli, ClippedLampsAreToldAndRelit) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  Frame f{Picture({192, 108}, {0.02F, 0.02F, 0.02F, 1}), {}};
  f.colour.at(95, 50) = {1, 1, 1, 1};
  f.colour.at(96, 50) = {0.6F, 0.3F, 0.15F, 1};
  write_picture(folder / "c.exr", f);
  const Ran faint =
      run({"defocus", shot, folder / "c.exr", "--distance", "20m", "-o", folder / "f.exr"});
  ASSERT_EQ(faint.code, 0);
  EXPECT_TRUE(holds(faint.err, "is spread over"));
  const Ran lit = run({"defocus", shot, folder / "c.exr", "--distance", "20m", "--disc", "0.8,40",
                       "-o", folder / "l.exr"});
  ASSERT_EQ(lit.code, 0) << lit.err;
  EXPECT_TRUE(holds(lit.err, "1 clipped lamps (1 px) were given a peak of 1005"));
  const Rgba dark = read_picture(folder / "f.exr").colour.at(95, 50);
  const Rgba disc = read_picture(folder / "l.exr").colour.at(95, 50);
  EXPECT_GT(disc[0], 10.0F * dark[0]);
  EXPECT_NEAR(disc[1] / disc[0], 0.5F, 0.1F) << "its hue is that of its unclipped surroundings";
}

TEST(DefocusCli, LayersKnowWhatIsHidden) {
  const TempFolder folder;
  const std::string shot = shot_in(folder);
  Frame back{Picture({192, 108}, {0.2F, 0.2F, 0.2F, 1}), {}};
  back.depth.assign(back.colour.pixels().size(), 30.0F);
  back.colour.at(96, 54) = {900, 900, 900, 1};
  Frame front{Picture({192, 108}), {}};
  front.depth.assign(front.colour.pixels().size(), 0.9F);
  for (int y = 0; y < 108; ++y) {
    for (int x = 94; x < 99; ++x) front.colour.at(x, y) = {0.1F, 0.3F, 0.0F, 1};
  }
  write_picture(folder / "front.exr", front);
  write_picture(folder / "back.exr", back);
  const Ran r =
      run({"defocus", shot, folder / "front.exr", folder / "back.exr", "-o", folder / "l.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "2 layers defocused"));
  EXPECT_GT(read_picture(folder / "l.exr").colour.at(96, 48)[0], 2.0F)
      << "a lamp behind a blurred reed shines through it";
  const Ran held = run({"defocus", shot, folder / "front.exr", folder / "back.exr", "--holdout",
                        folder / "front.exr", "-o", folder / "h.exr"});
  ASSERT_EQ(held.code, 0) << held.err;
  const Rgba p = read_picture(folder / "h.exr").colour.at(96, 20);
  EXPECT_LT(p[3], 0.95F) << "what only hides leaves a hole";
}

// A sequence whose focus is pulled; stopped half-way, it goes on where it was.
TEST(DefocusCli, SequencesFollowTheShotAndResume) {
  const TempFolder folder;
  const std::string shot =
      shot_in(folder, "", "[over.take.stop]\n1 = \"f/2\"\n3 = \"f/8\"\nease = \"linear\"\n");
  for (int frame = 1; frame <= 3; ++frame) {
    Frame f{Picture({192, 108}, {0.02F, 0.02F, 0.02F, 1}), {}};
    f.depth.assign(f.colour.pixels().size(), 20.0F);
    f.colour.at(95, 50) = {500, 500, 500, 1};
    write_picture(folder / ("s.000" + std::to_string(frame) + ".exr"), f);
  }
  const std::vector<std::string> args{"defocus", shot, folder / "s.####.exr", "--frames",
                                      "1-3",     "-o", folder / "o.####.exr"};
  const Ran r = run(args);
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "3 frames defocused"));
  const auto peak = [&](int frame) {
    return read_picture(folder / ("o.000" + std::to_string(frame) + ".exr")).colour.at(95, 50)[0];
  };
  EXPECT_GT(peak(3), 3.0F * peak(1)) << "closed down, the disc is smaller and brighter";
  const std::string first = slurp(folder / "o.0001.exr");
  std::filesystem::remove(folder / "o.0002.exr");
  std::vector<std::string> again = args;
  again.emplace_back("--resume");
  const Ran resumed = run(again);
  ASSERT_EQ(resumed.code, 0) << resumed.err;
  EXPECT_TRUE(holds(resumed.out, "1 frames defocused, 2 kept"));
  EXPECT_EQ(slurp(folder / "o.0001.exr"), first);
  EXPECT_GT(peak(2), peak(1));
  EXPECT_TRUE(holds(
      run({"defocus", shot, folder / "s.####.exr", "--frames", "1-4", "-o", folder / "x.####.exr"})
          .err,
      "s.0004.exr"));
  EXPECT_TRUE(holds(
      run({"defocus", shot, folder / "s.####.exr", "--frames", "1-3", "-o", folder / "x.exr"}).err,
      "write ####"));
}

}  // namespace bokeh_cli_test
}  // namespace jolly_iris
