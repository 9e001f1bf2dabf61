// desqueeze, squeeze, and whole lenses side by side, from the command line.
#include <gtest/gtest.h>

#include <cmath>
#include <nlohmann/json.hpp>
#include <ostream>

#include "cli_support.hpp"
#include "jolly_iris/picture/psnr.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {
namespace squeeze_cli_test {

using testing::demo;
using testing::holds;
using testing::plain_shot;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

Json json_of(std::vector<std::string> args) {
  args.emplace_back("--json");
  const Ran r = run(args);
  EXPECT_EQ(r.code, 0) << r.err;
  return r.code == 0 ? Json::parse(r.out) : Json();
}

TEST(SqueezeCli, DoubtsWhatTheFileSaysOtherwise) {
  const TempFolder folder;
  const std::string shot = demo("oval.shot.toml");
  const Frame grey{Picture({192, 216}, {0.2F, 0.2F, 0.2F, 1}), {}};
  write_picture(folder / "a.exr", grey, {{"PixelAspectRatio", "1.5"}});
  const Ran r = run({"desqueeze", shot, folder / "a.exr", "-o", folder / "o.exr"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.err, "its pixels are 1.5 times as wide as high, but the lens squeezes 2"));
  const Frame whole{Picture({1920, 1080}, {0.2F, 0.2F, 0.2F, 1}), {}};
  write_picture(folder / "b.exr", whole);
  const Ran again = run({"desqueeze", shot, folder / "b.exr", "-o", folder / "o.exr"});
  EXPECT_TRUE(holds(again.err, "this does it twice"));
  EXPECT_TRUE(holds(again.err, "the result is 3.56 : 1"));
  const Ran low =
      run({"desqueeze", shot, folder / "a.exr", "--keep", "width", "-o", folder / "o.exr"});
  EXPECT_TRUE(holds(low.out, "192 x 108"));
}

TEST(SqueezeCli, ProposesSizesForTheGate) {
  const TempFolder folder;
  std::string text = plain_shot;
  text.replace(text.find("19.1 x 10.7 mm"), 14, "super 35");
  text.insert(text.find("[lens]"), "photosites = \"4310 x 2990\"\n\n");
  text.insert(text.find("adapter"), "squeeze = 2\n");
  const std::string shot = folder.write("a.shot.toml", text);
  const Ran r = run({"desqueeze", shot, "--sizes"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "desqueezed 2.67 : 1"));
  EXPECT_TRUE(holds(r.out, "8620 x 2990"));
  EXPECT_TRUE(holds(r.out, "4310 x 1495"));
  const Json j = json_of({"desqueeze", shot, "--sizes"});
  EXPECT_EQ(j["height_kept"], (Json{8620, 2990}));
  EXPECT_NEAR(j["deliveries"][0]["gate_wide"].get<double>(), 0.8947, 1e-4);
  EXPECT_EQ(j["gates"].size(), trade_formats().size());
  EXPECT_EQ(folder.count(), 1U) << "no picture was asked for";
}

// Each lens on its own gate, the same framing: blur goes with how wide each is open.
TEST(BokehLenses, AreFramedAlikeAndBlurByTheirOpenings) {
  const TempFolder folder;
  const Json j = json_of({"bokeh", demo("hero.shot.toml"), "--lenses", demo("alder.lens.toml"),
                          "-o", folder / "l.png"});
  ASSERT_EQ(j["lenses"].size(), 2U);
  const Json& own = j["lenses"][0];
  const Json& width = j["lenses"][1];
  const auto number = [](const Json& lens, const char* key) { return lens[key].get<double>(); };
  EXPECT_NEAR(number(own, "gate_width_mm") / number(own, "focal_mm"),
              number(width, "gate_width_mm") / number(width, "focal_mm"), 1e-6);
  EXPECT_NEAR(number(width, "aperture_radius_mm"), 19.0 / 2.2 / 2.0, 1e-9)
      << "the reducer belongs to the shot's own lens";
  EXPECT_NEAR(number(width, "infinity_px") / number(own, "infinity_px"),
              number(width, "aperture_radius_mm") / number(own, "aperture_radius_mm"), 1e-6);
  EXPECT_GT(slurp(folder / "l.png").size(), 3000U);
  const Ran scenes =
      run({"bokeh", demo("hero.shot.toml"), "--lenses", demo("alder.lens.toml"), "--as", "defocus",
           "--sharp", demo("pinhole.exr"), "-o", folder / "s.png"});
  EXPECT_EQ(scenes.code, 0) << scenes.err;
  EXPECT_TRUE(holds(scenes.out, "2 lenses, framed alike"));
}

TEST(BokehLenses, TellOfTheSqueezeAgainstFocus) {
  const TempFolder folder;
  std::string text = plain_shot;
  text.insert(text.find("adapter"), "squeeze = 2\n");
  text.insert(text.find("[take]"),
              "[[lens.squeezes]]\nmark = \"1 m\"\nsqueeze = 1.8\n[[lens.squeezes]]\nmark = "
              "\"infinity\"\nsqueeze = 2\n");
  const std::string shot = folder.write("a.shot.toml", text);
  // Many pixels, so that a disc's sides are told finely.
  const Json j =
      json_of({"bokeh", shot, "--set", "body.pixels=19200 x 10800", "-o", folder / "o.png"});
  ASSERT_EQ(j["squeeze"].size(), 2U);
  EXPECT_DOUBLE_EQ(j["squeeze"][0]["in_focus_wide"].get<double>(), 2.0 / 1.8);
  EXPECT_DOUBLE_EQ(j["squeeze"][0]["disc_high"].get<double>(), 1.8 * 1.8 / 2.0);
  EXPECT_DOUBLE_EQ(j["squeeze"][1]["disc_high"].get<double>(), 2.0);
  // What is told is what discs are like.
  const Json now = j["squeeze_now"];
  const Json& disc = j["discs"].back();
  EXPECT_NEAR(disc["high_px"].get<double>() / disc["wide_px"].get<double>(),
              now["disc_high"].get<double>(), 0.02);
}

TEST(WholeLens, TriedLeavesNothingOfTheOldOne) {
  const TempFolder folder;
  folder.write("b.lens.toml", "focal = \"25 mm\"\n");
  std::string text = plain_shot;
  text += "[over.lens.focal]\n1 = \"53 mm\"\n20 = \"60 mm\"\n";
  const std::string shot = folder.write("a.shot.toml", text);
  const Json j = json_of({"report", shot, "--set", "lens=b.lens.toml"});
  EXPECT_DOUBLE_EQ(j["lens"]["focal_mm"].get<double>(), 25.0) << "no adapter, no keys";
  const Json more =
      json_of({"report", shot, "--set", "lens=b.lens.toml", "--set", "lens.adapter=2"});
  EXPECT_DOUBLE_EQ(more["lens"]["focal_mm"].get<double>(), 50.0);
}

// ---- a flat picture that comes nearer -----------------------------------------------------------

TEST(FlatPicture, FollowsItsKeyedDistance) {
  const TempFolder folder;
  const std::string shot = folder.write(
      "a.shot.toml",
      "[body]\ngate = \"6 x 3.375 mm\"\npixels = \"192 x 108\"\n[lens]\nfocal = \"50 mm\"\n[take]\n"
      "stop = \"f/2\"\n[focus]\nat = \"2 m\"\n[[subject]]\nname = \"moth\"\nat = \"4 m\"\n"
      "[over.depth.distance]\n1 = \"2 m\"\n3 = \"4 m\"\nease = \"linear\"\n");
  for (int frame = 1; frame <= 3; ++frame) {
    Frame f{Picture({192, 108}, {0, 0, 0, 1}), {}};
    f.colour.at(95, 50) = {500, 500, 500, 1};
    write_picture(folder / ("s.000" + std::to_string(frame) + ".exr"), f);
  }
  const Ran r =
      run({"defocus", shot, folder / "s.####.exr", "--frames", "1-3", "-o", folder / "o.####.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  const auto peak = [&](const std::string& name) {
    return read_picture(folder / name).colour.at(95, 50)[0];
  };
  EXPECT_NEAR(peak("o.0001.exr"), 500.0F, 0.5F) << "in focus";
  // Half-way in dioptres the disc is half as wide as at the end.
  EXPECT_NEAR(peak("o.0002.exr") / peak("o.0003.exr"), 4.0F, 0.25F);
  // A subject's distance does the same.
  const Ran moth =
      run({"defocus", shot, folder / "s.0001.exr", "--distance", "moth", "-o", folder / "m.exr"});
  ASSERT_EQ(moth.code, 0) << moth.err;
  EXPECT_FLOAT_EQ(peak("m.exr"), peak("o.0003.exr"));
  EXPECT_TRUE(holds(
      run({"defocus", shot, folder / "s.0001.exr", "--distance", "math", "-o", folder / "m.exr"})
          .err,
      "Did you mean 'moth'?"));
}

struct Wrong {
  const char* name;
  std::vector<std::string> args;
  const char* says;
};
void PrintTo(const Wrong& w, std::ostream* out) { *out << w.name; }
class WrongSqueezes : public ::testing::TestWithParam<Wrong> {};

TEST_P(WrongSqueezes, AreToldAndLeaveNothing) {
  const TempFolder folder;
  std::vector<std::string> args = GetParam().args;
  for (std::string& a : args) {
    if (a == "SHOT") a = demo("hero.shot.toml");
    if (a == "OVAL") a = demo("oval.shot.toml");
    if (a == "OUT") a = folder / "o.exr";
    if (a == "SHEET") a = folder / "o.png";
    if (a == "PICTURE") a = demo("pinhole.exr");
    if (a == "FIELDS") {
      a = folder.write("fields.lens.toml",
                       "focal = \"30 mm\"\n[[breathing]]\nmark = \"1 m\"\nfield = \"40 deg\"\n"
                       "[[breathing]]\nmark = \"9 m\"\nfield = \"38 deg\"\n");
    }
  }
  const std::size_t before = folder.count();
  const Ran r = run(args);
  EXPECT_NE(r.code, 0);
  EXPECT_TRUE(holds(r.err, GetParam().says));
  EXPECT_EQ(folder.count(), before);
}

INSTANTIATE_TEST_SUITE_P(
    All, WrongSqueezes,
    ::testing::Values(
        Wrong{"plain_lens", {"desqueeze", "SHOT", "PICTURE", "-o", "OUT"}, "does not squeeze"},
        Wrong{"side",
              {"squeeze", "OVAL", "PICTURE", "--keep", "depth", "-o", "OUT"},
              "write height or width"},
        Wrong{"no_picture", {"squeeze", "OVAL", "-o", "OUT"}, "name the picture to squeeze"},
        Wrong{"no_plate", {"desqueeze", "OVAL", "-o", "OUT"}, "names no plate to desqueeze"},
        Wrong{"sizes_and_more", {"desqueeze", "OVAL", "PICTURE", "--sizes"}, "touches no picture"},
        Wrong{"gone", {"desqueeze", "OVAL", "gone.exr", "-o", "OUT"}, "gone.exr"},
        Wrong{"ending", {"desqueeze", "OVAL", "PICTURE", "-o", "o.gif"}, "o.gif"},
        Wrong{"lens_gone",
              {"bokeh", "SHOT", "--lenses", "gone.lens.toml", "-o", "SHEET"},
              "gone.lens.toml"},
        Wrong{
            "empty_name", {"bokeh", "SHOT", "--lenses", "a,,b", "-o", "SHEET"}, "a name is empty"},
        Wrong{"two_sheets",
              {"bokeh", "SHOT", "--lenses", "a", "--vary", "take.stop=f/2,f/4", "-o", "SHEET"},
              "ask for one of them"},
        Wrong{"no_lens",
              {"bokeh", "SHOT", "--lenses", "FIELDS", "-o", "SHEET"},
              "measured as fields of view"},
        Wrong{"density", {"trace", "SHOT", "--density", "0", "-o", "OUT"}, "density"}),
    [](const auto& each) { return std::string(each.param.name); });

}  // namespace squeeze_cli_test
}  // namespace jolly_iris
