// The verb glass as it is typed.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris {
namespace glass_cli_test {

using nlohmann::json;
using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;

TEST(GlassCli, TellsWhatALensIs) {
  const Ran r = run({"glass", demo("../glass/quince-58.glass.toml")});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "quince 58: 7 surfaces")) << r.out;
  EXPECT_TRUE(holds(r.out, "where the CG camera's origin belongs"));
  std::istringstream lines(r.out);
  for (std::string line; std::getline(lines, line);) EXPECT_LE(line.size(), 110U) << line;
  const Ran bare = run({"glass", demo("../glass/quince-58.glass.toml"), "--only", "up.focal_mm"});
  EXPECT_NEAR(std::stod(bare.out), 58.0, 0.01);
}

TEST(GlassCli, JsonHasTheFieldAndTheFocus) {
  const Ran r = run({"glass", demo("../glass/sedge-17.glass.toml"), "--at", "1.2m", "--stop",
                     "f/5.6", "--on", "24.9 x 14 mm", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const json j = json::parse(r.out);
  EXPECT_NEAR(j["up"]["focal_mm"].get<double>(), 17.0, 0.01);
  EXPECT_EQ(j["field"].size(), 9U);
  EXPECT_NEAR(j["field"].back()["height_mm"].get<double>(), 0.5 * std::hypot(24.9, 14.0), 1e-6);
  EXPECT_DOUBLE_EQ(j["field"][0]["light"].get<double>(), 1.0);
  EXPECT_LT(j["field"].back()["light"].get<double>(), 1.0);
  EXPECT_GT(j["focus"].size(), 8U);
  double before = -1e9;
  for (const json& row : j["focus"]) {
    EXPECT_GT(row["travel_mm"].get<double>(), before);
    before = row["travel_mm"].get<double>();
  }
}

TEST(GlassCli, AGateBeyondTheGlassIsBlackInItsCorners) {
  const Ran r = run({"glass", demo("../glass/bulrush-75.glass.toml"), "--on", "36 x 24 mm"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.err, "black from 1")) << r.err;
  EXPECT_TRUE(holds(r.out, "mm up and down, ")) << r.out;
}

TEST(GlassCli, ComparesAColumnEach) {
  const TempFolder out;
  const std::string png = out / "curves.png";
  const Ran r =
      run({"glass", demo("../glass/hornbeam-50.glass.toml"), "--compare",
           demo("../glass/quince-58.glass.toml") + "," + demo("../glass/bulrush-75.glass.toml"),
           "--on", "24.9 x 14 mm", "--curves", png});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "hornbeam 50       quince 58      bulrush 75")) << r.out;
  EXPECT_TRUE(holds(r.out, "50.00 mm        58.00 mm        75.00 mm")) << r.out;
  EXPECT_EQ(read_picture(png).colour.width(), 1280);
  const Ran j = run({"glass", demo("../glass/hornbeam-50.glass.toml"), "--compare",
                     demo("../glass/quince-58.glass.toml"), "--json"});
  EXPECT_EQ(json::parse(j.out)["compared"][0]["name"], "quince 58");
  EXPECT_EQ(run({"glass", demo("../glass/hornbeam-50.glass.toml"), "--compare", "a,b,c,d,e"}).code,
            2);
}

// Surfaces in metres are the glass: matrices of them have its focal length, and the plain camera's
// pupil stands where they say.
TEST(GlassCli, ATwinHasTheSurfacesWhereTheyLie) {
  const TempFolder out;
  const std::string file = out / "twin.json";
  const Ran r = run({"glass", demo("../glass/hornbeam-50.glass.toml"), "--at", "1.5m", "--stop",
                     "f/2.8", "--twin", file});
  ASSERT_EQ(r.code, 0) << r.err;
  const json t = json::parse(slurp(file));
  // Surface by surface: a ray's height and its angle times the index.
  double height = 1.0;
  double angle = 0.0;
  double index = 1.0;
  double before = 0.0;
  double front = 0.0;
  for (const json& s : t["surfaces"]) {
    const double at = s["from_pupil_m"];
    if (&s != &t["surfaces"].front()) height += (at - before) * angle / index;
    if (&s == &t["surfaces"].front()) front = at;
    const double next = s["index"][1];
    if (!s["radius_m"].is_null()) angle -= height * (next - index) / s["radius_m"].get<double>();
    index = next;
    before = at;
  }
  EXPECT_LT(front, 0.0);
  const Prescription p = read_glass(demo("../glass/hornbeam-50.glass.toml"));
  const Length opening = opening_for(TracedGlass(p), 2.8);
  const Length travel = focused(p, Length::from_m(1.5), {p.focus_by, line_d_um, opening}).travel;
  const ParaxialFacts facts = paraxial_facts(TracedGlass(p, travel, colours_um[1]));
  EXPECT_NEAR(-1.0 / angle, facts.focal.m(), 1e-9);
  EXPECT_NEAR(t["film_from_pupil_m"].get<double>(), -facts.entrance_pupil.m(), 1e-9);
  EXPECT_NEAR(t["plain_camera"]["focus_m"].get<double>(), 1.5 + facts.entrance_pupil.m(), 1e-9);
  EXPECT_EQ(t["refractions"], 10);
  EXPECT_LT(t["passes_bare"].get<double>(), t["passes"][1].get<double>());
  // f/2.8 of infinity, focused nearer.
  EXPECT_NEAR(t["plain_camera"]["f_number"].get<double>(), 2.86, 0.03);
}

TEST(GlassCli, DrawsTheSection) {
  const TempFolder out;
  for (const char* name : {"quince-58", "bulrush-75"}) {
    const std::string png = out / (std::string(name) + ".png");
    const std::string svg = out / (std::string(name) + ".svg");
    for (const std::string& file : {png, svg}) {
      const Ran r =
          run({"glass", demo("../glass/" + std::string(name) + ".glass.toml"), "--section", file});
      ASSERT_EQ(r.code, 0) << r.err;
      EXPECT_TRUE(holds(r.out, file));
    }
    const Picture drawn = read_picture(png).colour;
    EXPECT_EQ(drawn.width(), 1280);
    EXPECT_EQ(drawn.height(), 800);
    EXPECT_TRUE(holds(slurp(svg).substr(0, 200), "<svg"));
  }
}

TEST(GlassCli, AShotIsTracedThroughItsGlass) {
  const TempFolder out;
  const std::string shot = demo("../glass/evening.shot.toml");
  const Ran r = run({"trace", shot, "--samples", "1", "--half", "--box", "440,150,120,60", "-o",
                     out / "part.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  // Lamps of the bridge are in it, brighter than white.
  float most = 0.0F;
  const Frame part = read_picture(out / "part.exr");
  for (const Rgba& p : part.colour.pixels()) most = std::max(most, p[1]);
  EXPECT_GT(most, 1.0F);
  // defocus goes through its surfaces, too: without them, it makes another picture.
  const std::vector<std::string> blur{"defocus", shot, demo("pinhole.exr"), "--box",
                                      "900,60,96,64"};
  const auto blurred = [&](const std::string& name, const std::string& set) {
    std::vector<std::string> args = blur;
    args.insert(args.end(), {"-o", out / name, "--set", set});
    return run(args);
  };
  const Ran glass = blurred("glass.exr", "lens.glass=hornbeam-50.glass.toml");
  ASSERT_EQ(glass.code, 0) << glass.err;
  EXPECT_FALSE(holds(glass.err, "thin lens")) << glass.err;
  const Ran thin = blurred("thin.exr", "lens.adapter=0.9999");
  ASSERT_EQ(thin.code, 0) << thin.err;
  EXPECT_TRUE(holds(thin.err, "not through what is mounted on it")) << thin.err;
  const Box box{900, 60, 96, 64};
  EXPECT_LT(psnr(crop(read_picture(out / "glass.exr"), box).colour,
                 crop(read_picture(out / "thin.exr"), box).colour),
            36.0);
  const Ran told = run({"report", shot});
  EXPECT_TRUE(holds(told.out, "traced through its glass")) << told.out;
  const Ran mounted = run({"report", shot, "--set", "lens.adapter=0.8"});
  EXPECT_FALSE(holds(mounted.out, "traced through its glass")) << mounted.out;
  const Ran adapted = run({"trace", shot, "--samples", "1", "--half", "--set", "lens.adapter=0.8",
                           "-o", out / "no.exr"});
  EXPECT_EQ(adapted.code, 2);
  EXPECT_TRUE(holds(adapted.err, "not through an adapter")) << adapted.err;
  // A pinhole has no glass: its picture with depth is the straight one.
  EXPECT_EQ(
      run({"trace", shot, "--pinhole", "--samples", "1", "--half", "-o", out / "pin.exr"}).code, 0);
}

TEST(GlassCli, GivesRenderersItsNearestLensAndItsCompactForm) {
  const TempFolder out;
  const Ran r = run({"glass", demo("../glass/quince-58.glass.toml"), "--at", "2m", "--on",
                     "super 35 3-perf", "--nearest", out / "near.lens.toml", "--fit",
                     out / "fit.json", "--order", "5", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const json j = json::parse(r.out);
  EXPECT_GT(j["nearest"]["overlap"].get<double>(), j["nearest"]["overlap_worst"].get<double>());
  EXPECT_EQ(j["fit"]["order"], 5);
  EXPECT_EQ(j["written"].size(), 2U);
  const json table = json::parse(slurp(out / "fit.json"));
  EXPECT_EQ(table["ways"].size(), 3U);
  EXPECT_EQ(table["ways"][0]["weights"].size() % (2U * GlassSampler::terms(5)), 0U);
  EXPECT_EQ(table["error"]["rms_um"], j["fit"]["rms_um"]);
  EXPECT_TRUE(holds(slurp(out / "near.lens.toml"), "[[barrel]]"));
  // The lens is one that a shot takes.
  const Ran used =
      run({"report", demo("hero.shot.toml"), "--set", "lens.file=" + (out / "near.lens.toml"),
           "--set", "take.stop=f/4", "--only", "camera.focal_mm"});
  EXPECT_EQ(used.code, 0) << used.err;
}

TEST(FlareCli, AddsTheGhostsOfABrightLamp) {
  const TempFolder out;
  const std::string shot = demo("../glass/evening.shot.toml");
  Picture picture({320, 180}, {0.1F, 0.1F, 0.1F, 1});
  picture.at(90, 50) = {4e5F, 4e5F, 4e5F, 1};
  write_picture(out / "in.exr", {picture, {}});
  const Ran r = run({"flare", shot, out / "in.exr", "-o", out / "out.exr", "--layers",
                     out / "layers.exr", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const json j = json::parse(r.out);
  EXPECT_EQ(j["lamps"].size(), 1U);
  EXPECT_GT(j["ghosts"].size(), 10U);
  EXPECT_GT(j["light"].get<double>(), 1e-6);
  EXPECT_LT(j["light"].get<double>(), 1e-2);
  const Ran alone = run({"flare", shot, out / "in.exr", "--alone", "-o", out / "alone.exr"});
  ASSERT_EQ(alone.code, 0) << alone.err;
  const Picture made = read_picture(out / "alone.exr").colour;
  double added = 0.0;
  for (const Rgba& p : made.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) {
      EXPECT_GE(p[c], 0.0F);
      added += static_cast<double>(p[c]) / 3.0;
    }
  }
  // The lamp lies where a little of its light is lost; ghosts count against what it had before.
  EXPECT_NEAR(added / 4e5, j["light"].get<double>(), 0.15 * j["light"].get<double>());
  // It is in the header, and not put in twice.
  const Ran again = run({"flare", shot, out / "out.exr", "-o", out / "twice.exr"});
  EXPECT_EQ(again.code, 2);
  EXPECT_TRUE(holds(again.err, "has its ghosts already")) << again.err;
}

TEST(FlareCli, SaysWhatItNeeds) {
  const TempFolder out;
  write_picture(out / "dim.exr", {Picture({32, 18}, {0.1F, 0.1F, 0.1F, 1}), {}});
  const Ran plain = run({"flare", demo("hero.shot.toml"), out / "dim.exr", "-o", out / "o.exr"});
  EXPECT_EQ(plain.code, 2);
  EXPECT_TRUE(holds(plain.err, "ghosts need the lens's surfaces")) << plain.err;
  const Ran dim =
      run({"flare", demo("../glass/evening.shot.toml"), out / "dim.exr", "-o", out / "o.exr"});
  EXPECT_EQ(dim.code, 0) << dim.err;
  EXPECT_TRUE(holds(dim.err, "nothing is brighter than 1")) << dim.err;
  EXPECT_TRUE(holds(dim.out, "no ghosts")) << dim.out;
}

struct WrongAsk {
  const char* name;
  std::vector<std::string> more;
  int code;
  const char* says;
};
void PrintTo(const WrongAsk& w, std::ostream* out) { *out << w.name; }

class WrongGlassAsk : public ::testing::TestWithParam<WrongAsk> {};

TEST_P(WrongGlassAsk, IsRefusedWithWhatWouldBeRight) {
  std::vector<std::string> args{"glass", demo("../glass/quince-58.glass.toml")};
  args.insert(args.end(), GetParam().more.begin(), GetParam().more.end());
  const Ran r = run(args);
  EXPECT_EQ(r.code, GetParam().code) << r.err;
  EXPECT_TRUE(holds(r.err, GetParam().says)) << r.err;
}

INSTANTIATE_TEST_SUITE_P(
    Options, WrongGlassAsk,
    ::testing::Values(WrongAsk{"too_open", {"--stop", "f/1.2"}, 1, "its widest stop is f/2.3"},
                      WrongAsk{"t_stop", {"--stop", "T2.8"}, 2, "write e.g. f/2.8"},
                      WrongAsk{"too_near", {"--at", "0.2 m"}, 1, "its travel ends at"},
                      WrongAsk{"within", {"--at", "5 cm"}, 1, "is within the glass"},
                      WrongAsk{"even_order", {"--fit", "x.json", "--order", "4"}, 2, "are odd"},
                      WrongAsk{"no_lens", {"--nearest", "x.png"}, 2, ".toml"},
                      WrongAsk{"no_drawing", {"--section", "x.jpg"}, 2, ".svg"}),
    [](const auto& each) { return std::string(each.param.name); });

}  // namespace glass_cli_test
}  // namespace jolly_iris
