#include <gtest/gtest.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <sstream>

#include "cli_support.hpp"
#include "jolly_iris/files/gltf.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {
namespace cli_test {

using testing::demo;
using testing::holds;
using testing::plain_shot;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

TEST(Report, TellsTheCameraAndWhoIsSharp) {
  const Ran r = run({"report", demo("hero.shot.toml")});
  EXPECT_EQ(r.code, 0);
  EXPECT_EQ(r.err, "");
  for (const char* part :
       {"focal length      41.209 mm", "f/1.7106", "235 units of 1 cm", "34.891 x 20.091 deg",
        "7 blades, blade radius 1.5 x", "WHO IS SHARP", "second boat", "infinity", "EV100",
        "A smaller number is a wider opening"}) {
    EXPECT_TRUE(holds(r.out, part));
  }
  // It fits a terminal of 100 columns (letters, not bytes).
  std::istringstream lines(r.out);
  for (std::string line; std::getline(lines, line);) {
    const auto letters =
        std::count_if(line.begin(), line.end(), [](char c) { return (c & 0xC0) != 0x80; });
    if (line.find(".toml") == std::string::npos) {
      EXPECT_LE(letters, 100) << line;
    }
  }
}

TEST(Report, JsonIsTheWorkedExample) {
  const TempFolder folder;
  const Ran r = run({"report", folder.write("a.shot.toml", plain_shot), "--json"});
  ASSERT_EQ(r.code, 0);
  const Json j = Json::parse(r.out);
  EXPECT_NEAR(j["camera"]["focus_m"].get<double>(), 2.545873, 5e-7);
  EXPECT_NEAR(j["camera"]["focal_mm"].get<double>(), 41.13638, 5e-6);
  EXPECT_NEAR(j["camera"]["f_number"].get<double>(), 1.707548, 5e-7);
  EXPECT_NEAR(j["camera"]["fov_deg"][0].get<double>(), 26.13991, 5e-6);
  EXPECT_NEAR(j["sharpness"]["near_m"].get<double>(), 2.422077, 5e-7);
  EXPECT_NEAR(j["sharpness"]["far_m"].get<double>(), 2.683006, 5e-7);
  EXPECT_TRUE(j["exposure"]["ev100"].is_null());
}

TEST(Report, WarnsOfAPlateThatIsNotThere) {
  const TempFolder folder;
  const Ran r = run({"report", folder.write("a.shot.toml", std::string(plain_shot) +
                                                               "[plate]\nfile = \"gone.exr\"\n")});
  EXPECT_EQ(r.code, 0);
  EXPECT_TRUE(holds(r.err, "warning: "));
  EXPECT_TRUE(holds(r.err, "gone.exr is not there"));
}

TEST(Report, OnlyOneValue) {
  EXPECT_EQ(run({"report", demo("hero.shot.toml"), "--only", "camera.aperture_radius_mm", "--set",
                 "take.stop=f/2.5"})
                .out,
            "10.6\n");
  const Ran wrong = run({"report", demo("hero.shot.toml"), "--only", "camera.focal_m"});
  EXPECT_EQ(wrong.code, 2);
  EXPECT_TRUE(holds(wrong.err, "'camera.focal_mm'"));
}

TEST(Report, TriedValuesAreSaidAndTheFileIsLeftAlone) {
  const std::string before = slurp(demo("hero.shot.toml"));
  const Ran r =
      run({"report", demo("hero.shot.toml"), "--set", "take.stop=f/4", "--set", "focus.at=3m"});
  EXPECT_EQ(r.code, 0);
  EXPECT_TRUE(holds(r.out, "tried, not in the file: focus.at = 3m, take.stop = f/4"));
  EXPECT_TRUE(holds(r.out, "6.625 mm"));
  EXPECT_EQ(slurp(demo("hero.shot.toml")), before);
}

// An option takes one value; what comes behind it is a file again.
TEST(Usage, OptionsMayStandBetweenFiles) {
  const TempFolder folder;
  const Ran r = run({"defocus", "--set", "take.stop=f/4", demo("hero.shot.toml"), "-o",
                     folder / "a.png", demo("pinhole.exr"), "--out", folder / "b.png"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(folder.count(), 2U);
}

TEST(Help, EachVerbEndsWithAnExampleThatRuns) {
  const TempFolder folder;
  for (const char* verb : {"start", "report", "trace", "defocus", "handoff"}) {
    const Ran r = run({verb, "--help"});
    EXPECT_EQ(r.code, 0);
    const auto at = r.out.find("  jolly-iris ");
    ASSERT_NE(at, std::string::npos) << verb;
    std::istringstream words(r.out.substr(at));
    std::vector<std::string> args;
    for (std::string word; words >> word;) args.push_back(word);
    EXPECT_EQ(args[0], "jolly-iris");
    args.erase(args.begin());
    for (std::string& a : args) {
      if (a.starts_with("demo/regatta/"))
        a = demo(a.substr(13));
      else if (a.starts_with("out"))
        a = folder / ("." + a.substr(3));
    }
    if (args[0] == "trace") args.insert(args.end(), {"--box", "200,200,40,30"});
    const Ran example = run(args);
    EXPECT_EQ(example.code, 0) << verb << ": " << example.err;
  }
  EXPECT_EQ(run({"--help"}).code, 0);
  EXPECT_TRUE(holds(run({"--version"}).out, "jolly-iris 0."));
}

// What Tab gives, asked of a shell itself.
TEST(Completion, AShellCompletesVerbsOptionsKeysAndNames) {
  const TempFolder folder;
  const Ran script = run({"--completion", "bash"});
  ASSERT_EQ(script.code, 0) << script.err;
  const std::string file = folder.write("completion.bash", script.out);
  const auto completed = [&](const std::vector<std::string>& words) {
    std::string line = "source '" + file + "'; COMP_WORDS=(jolly-iris";
    for (const std::string& w : words) line += " '" + w + "'";
    line += "); COMP_CWORD=" + std::to_string(words.size()) +
            "; _jolly_iris; printf '%s\\n' \"${COMPREPLY[@]}\"";
    const std::string said = folder / "said.txt";
    folder.write("ask.bash", line);
    EXPECT_EQ(
        std::system(("bash '" + (folder / "ask.bash") + "' > '" + said + "' 2> '" + said + ".err'")
                        .c_str()),
        0);
    EXPECT_EQ(slurp(said + ".err"), "") << line;
    return "\n" + slurp(said);
  };
  EXPECT_EQ(completed({"de"}), "\ndefocus\ndesqueeze\n");
  EXPECT_EQ(completed({"trace", "--ma"}), "\n--margin\n");
  EXPECT_TRUE(holds(completed({"trace", "--s"}), "\n--samples\n"));
  const std::string shot = demo("hero.shot.toml");
  EXPECT_EQ(completed({"report", shot, "--set", "take.st"}), "\ntake.stop=\n");
  EXPECT_TRUE(holds(completed({"report", demo("her")}), "hero.shot.toml"));
  EXPECT_TRUE(holds(completed({"glass", "x.toml", "--section", demo("her")}), "hero.shot.toml"));
  // A number is nothing that a folder has.
  EXPECT_EQ(completed({"trace", shot, "--samples", ""}), "\n\n");
  const Ran zsh = run({"--completion", "zsh"});
  EXPECT_TRUE(zsh.out.starts_with("autoload"));
  const Ran other = run({"--completion", "bush"});
  EXPECT_EQ(other.code, 2);
  EXPECT_TRUE(holds(other.err, "bash"));
}

TEST(Usage, MistakesAreSaidWithTheNearestAndCode2) {
  EXPECT_EQ(run({}).code, 2);
  const Ran verb = run({"raport", "a"});
  EXPECT_EQ(verb.code, 2);
  EXPECT_TRUE(holds(verb.err, "Did you mean 'report'?"));
  EXPECT_EQ(run({"report"}).code, 2);
  EXPECT_EQ(run({"report", demo("hero.shot.toml"), "--jsn"}).code, 2);
  EXPECT_TRUE(holds(run({"report", demo("hero.shot.toml"), "--set", "f/2"}).err, "KEY=VALUE"));
  // What is wrong is told with the option that it was typed with.
  EXPECT_TRUE(holds(run({"report", demo("hero.shot.toml"), "--set", "take.stop=2"}).err,
                    "--set: take.stop: '2' is not a stop"));
  EXPECT_TRUE(holds(run({"report", demo("hero.shot.toml"), "--variant", "nigth"}).err,
                    "--variant nigth: the shot file has no such variant"));
  EXPECT_TRUE(
      holds(run({"trace", demo("hero.shot.toml"), "--box", "1,2,3"}).err, "x,y,width,height"));
  EXPECT_EQ(run({"trace", demo("hero.shot.toml"), "--samples", "0"}).code, 2);
  EXPECT_TRUE(
      holds(run({"defocus", demo("hero.shot.toml"), demo("plate.jpg"), "--distance", "12"}).err,
            "--distance: '12' is not a length"));
  const Ran picture = run({"report", demo("plate.jpg")});
  EXPECT_EQ(picture.code, 3);
  EXPECT_TRUE(holds(picture.err, "jolly-iris start"));
}

TEST(Chain, TraceDefocusHandoff) {
  const TempFolder folder;
  const std::string shot = demo("hero.shot.toml");
  const std::string small = "body.pixels=192 x 108";
  const std::string pinhole = folder / "p.exr";
  Ran r = run({"trace", shot, "--set", small, "--pinhole", "--samples", "4", "-o", pinhole});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "192 x 108, pinhole with depth"));
  EXPECT_TRUE(read_picture(pinhole).has_depth());

  r = run({"defocus", shot, pinhole, "-o", folder / "d.exr", "-o", folder / "d.png", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(Json::parse(r.out)["written"].size(), 2U);
  EXPECT_EQ(Json::parse(r.out)["width"], 192);
  EXPECT_EQ(read_picture(folder / "d.exr").colour.width(), 192);

  r = run({"trace", shot, "--set", small, "--half", "--samples", "2", "-o", folder / "t.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(read_picture(folder / "t.exr").colour.size(), (PixelSize{96, 54}));

  r = run({"trace", shot, "--set", small, "--box", "10,20,30,40", "--samples", "2", "-o",
           folder / "b.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  // In the frame's place, as a data window.
  const Frame part = read_picture(folder / "b.exr");
  EXPECT_EQ(part.colour.size(), (PixelSize{192, 108}));
  EXPECT_EQ(std::count_if(part.colour.pixels().begin(), part.colour.pixels().end(),
                          [](const Rgba& p) { return p[3] != 0.0F; }),
            30 * 40);

  r = run({"handoff", shot, "--to", folder.path().string()});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_NO_THROW((void)read_gltf(folder / "hero.camera.gltf"));
  EXPECT_EQ(run({"handoff", shot, "--to", folder.path().string(), "--only", "written.0"}).out,
            folder / "hero.camera.gltf" + std::string("\n"));
  EXPECT_NEAR(Json::parse(slurp(folder / "hero.camera.json"))["camera"]["focus_m"].get<double>(),
              2.35, 1e-3);
}

TEST(DefocusVerb, FlatPictureTakesOneDistance) {
  const TempFolder folder;
  write_picture(folder / "flat.png", Frame{Picture({64, 36}, {0.2F, 0.2F, 0.2F, 1}), {}});
  const Ran without =
      run({"defocus", demo("hero.shot.toml"), folder / "flat.png", "-o", folder / "d.exr"});
  EXPECT_EQ(without.code, 3);
  EXPECT_TRUE(holds(without.err, "--distance 12m"));
  const Ran with = run({"defocus", demo("hero.shot.toml"), folder / "flat.png", "-o",
                        folder / "d.exr", "--distance", "12 m"});
  EXPECT_EQ(with.code, 0) << with.err;
}

// What was tried is said as it would be asked for again.
TEST(Cli, AKeyOfTheFocusIsSaidByItsFrame) {
  const Ran ran =
      run({"report", demo("drift.shot.toml"), "--frame", "1060", "--set", "pull.1050.at=3 m"});
  EXPECT_EQ(ran.code, 0) << ran.err;
  EXPECT_TRUE(holds(ran.out, "tried, not in the file: pull.1050.at = 3 m"));
}

}  // namespace cli_test
}  // namespace jolly_iris
