// Wishes and ways on the command line: what it offers to try does what it says.
#include <gtest/gtest.h>

#include "cli_support.hpp"

namespace jolly_iris {
namespace wish_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using Json = nlohmann::json;

Json solved(std::vector<std::string> args, int code = 0) {
  args.insert(args.begin(), "solve");
  args.push_back("--json");
  const Ran r = run(args);
  EXPECT_EQ(r.code, code) << r.err;
  return Json::parse(r.out);
}

Json tried(const std::string& shot, const Json& sets) {
  std::vector<std::string> args{"report", demo(shot), "--json"};
  for (const Json& s : sets) {
    args.push_back("--set");
    args.push_back(s);
  }
  const Ran r = run(args);
  EXPECT_EQ(r.code, 0) << r.err;
  return Json::parse(r.out);
}

double blur_of(const Json& report, const std::string& name) {
  for (const Json& s : report["subjects"]) {
    if (s["name"] == name) return std::abs(s["coc_px"].get<double>());
  }
  ADD_FAILURE() << name;
  return 0.0;
}

TEST(SolveWishes, BuoyAndFootbridgeAtOnce) {
  // The same set through a faster lens, where it is possible.
  const std::vector<std::string> wishes{demo("hero.shot.toml"), "--wish", "buoy 1 3 px", "--wish",
                                        "footbridge at least 20 px"};
  std::vector<std::string> fast = wishes;
  fast.insert(fast.end(), {"--set", "lens.widest=f/1.4"});
  const Json met = solved(fast);
  EXPECT_TRUE(met["all_met"]);
  std::vector<Json> sets = met["try"];
  sets.push_back("lens.widest=f/1.4");
  const Json report = tried("hero.shot.toml", sets);
  EXPECT_NEAR(blur_of(report, "buoy 1"), 3.0, 0.06);
  EXPECT_GE(blur_of(report, "footbridge"), 19.8);

  // And through its own, where it is not: the bridge gives way, told by how much.
  const Json missed = solved(wishes);
  EXPECT_FALSE(missed["all_met"]);
  EXPECT_TRUE(missed["wishes"][0]["met"]);
  EXPECT_FALSE(missed["wishes"][1]["met"]);
  const Json as_told = tried("hero.shot.toml", missed["try"]);
  EXPECT_NEAR(blur_of(as_told, "footbridge") - 20.0, missed["wishes"][1]["missed_px"], 0.02);
  EXPECT_TRUE(holds(run({"solve", demo("hero.shot.toml"), "--wish", "buoy 1 3 px", "--wish",
                         "footbridge at least 20 px"})
                        .out,
                    "gives way by -0.5"));
}

TEST(SolveWishes, ALensFromFartherKeepsTheBoatAsLarge) {
  const Json r =
      solved({demo("hero.shot.toml"), "--wish", "footbridge 40 px", "--wish", "boat sharp",
              "--wish", "boat as large as now", "--free", "focal,focus,camera"});
  EXPECT_TRUE(r["all_met"]);
  const Json now = tried("hero.shot.toml", Json::array());
  const Json then = tried("hero.shot.toml", r["try"]);
  EXPECT_NEAR(blur_of(then, "footbridge"), 40.0, 0.5);
  EXPECT_LE(blur_of(then, "boat"), 2.05);
  const auto size = [](const Json& report) {
    for (const Json& s : report["subjects"]) {
      if (s["name"] == "boat") return s["size_px"].get<double>();
    }
    return 0.0;
  };
  EXPECT_NEAR(size(then) / size(now), 1.0, 0.01);
}

TEST(SolveWishes, AnIsoLimitsTheSmallestOpening) {
  const Json r = solved(
      {demo("hero.shot.toml"), "--wish", "boat and second boat sharp", "--wish", "ISO up to 1600"});
  EXPECT_FALSE(r["all_met"]);
  EXPECT_NEAR(r["stop"], 2.2 * std::sqrt(2.0), 0.01);
  EXPECT_NEAR(r["iso"], 1600.0, 2.0);
}

TEST(SolveWishes, OverFrames) {
  const Json r = solved({demo("drift.shot.toml"), "--wish", "boat sharp", "--wish",
                         "footbridge 20 px", "--frames", "1001-1097", "--step", "48"});
  ASSERT_EQ(r["frames"].size(), 3U);
  EXPECT_EQ(r["frames"][1]["frame"], 1049.0);
  for (const Json& f : r["frames"]) EXPECT_TRUE(f["all_met"]) << f;
}

TEST(SolveWishes, SaysWhatIsNoWish) {
  const auto err = [](std::vector<std::string> args) {
    args.insert(args.begin(), {"solve", demo("hero.shot.toml")});
    const Ran r = run(args);
    EXPECT_EQ(r.code, 2) << r.out;
    return r.err;
  };
  EXPECT_TRUE(holds(err({"--wish", "more bokeh"}), "is not understood; write e.g."));
  EXPECT_TRUE(holds(err({"--wish", "swan 3 px"}), "'swan' is neither a subject"));
  EXPECT_TRUE(holds(err({"--wish", "boat sharp", "--free", "stopp"}), "nothing that may change"));
  EXPECT_TRUE(holds(err({"--wish", "no wider than f/2"}), "limits alone are no wish"));
  EXPECT_TRUE(holds(err({"--wish", "boat 3 px", "--hold", "boat,buoy 1"}), "say one thing"));
  EXPECT_TRUE(holds(err({"--hold", "boat,buoy 1", "--free", "stop"}), "belong to --wish"));
  EXPECT_TRUE(holds(
      err({"--wish", "boat sharp", "--wish", "no wider than f/8", "--wish", "no smaller than f/4"}),
      "no stop is both"));
}

TEST(WaysToBlur, EachDoesWhatItSays) {
  const Json r =
      solved({demo("hero.shot.toml"), "--blur", "30 px", "--at", "footbridge", "--by", "all"});
  ASSERT_EQ(r["ways"].size(), 5U);
  int done = 0;
  for (const Json& way : r["ways"]) {
    if (!way["possible"] || way["try"].empty()) continue;
    ++done;
    EXPECT_NEAR(blur_of(tried("hero.shot.toml", way["try"]), "footbridge"), 30.0, 0.05) << way;
  }
  EXPECT_EQ(done, 3);  // wider, longer, closer; a node of the scene only its program can move
  const Json far =
      solved({demo("hero.shot.toml"), "--blur", "40 px", "--at", "footbridge", "--by", "all"});
  EXPECT_FALSE(far["ways"][3]["possible"]);
  EXPECT_TRUE(holds(far["ways"][3]["price"].get<std::string>(), "even infinitely far"));
}

}  // namespace wish_cli_test
}  // namespace jolly_iris
