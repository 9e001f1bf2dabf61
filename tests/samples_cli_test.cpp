// The verb that says how many rays a render needs.
#include <gtest/gtest.h>

#include <filesystem>

#include "cli_support.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace samples_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::TempFolder;
using Json = nlohmann::json;

class Samples : public ::testing::Test {
 protected:
  // A wide open lens, so that small pictures have large discs.
  Ran with(std::vector<std::string> words) const {
    std::vector<std::string> all{"samples", shot, test, "--set", small, "--set", open};
    all.insert(all.end(), words.begin(), words.end());
    return run(all);
  }
  std::string traced(const std::string& name, const std::string& seed) const {
    std::string file = folder / name;
    const Ran ran = run({"trace", shot, "--set", small, "--set", open, "--samples", "4", "--seed",
                         seed, "-o", file});
    EXPECT_EQ(ran.code, 0) << ran.err;
    return file;
  }

  TempFolder folder{};
  std::string shot = demo("hero.shot.toml");
  std::string small = "body.pixels=480 x 270";
  std::string open = "take.stop=f/1.8";
  std::string depth = demo("pinhole.exr");
  std::string test = traced("test.exr", "1");
};

TEST_F(Samples, AreSaidByBlurByPlaceAndInTime) {
  const Ran one = with({"--depth", depth, "--rays", "4", "--took", "1 min 30 s", "--noise", "3 %"});
  ASSERT_EQ(one.code, 0) << one.err;
  EXPECT_TRUE(holds(one.out, "rays for a noise of 3 % of the level, from a test of 4 a pixel"));
  EXPECT_TRUE(holds(one.out, "8 to 20 px"));
  EXPECT_TRUE(holds(one.out, "the worst places"));
  EXPECT_TRUE(holds(one.out, "each place what it needs"));
  EXPECT_TRUE(holds(one.out, "cannot be told"));  // what is sharp, from one picture
  const std::string again = traced("again.exr", "2");
  const Ran two = with({"--depth", depth, "--again", again, "--rays", "4", "--json"});
  ASSERT_EQ(two.code, 0) << two.err;
  const Json json = Json::parse(two.out);
  EXPECT_EQ(json["told"], 1.0);
  EXPECT_GT(json["times_everywhere"].get<double>(), json["times_where_needed"].get<double>());
  EXPECT_GE(json["rays_everywhere"].get<double>(), 4.0 * json["times_everywhere"].get<double>());
  EXPECT_FALSE(json.contains("seconds_everywhere"));
  double share = 0.0;
  for (const Json& band : json["bands"]) share += band["share"].get<double>();
  EXPECT_NEAR(share, 1.0, 1e-9);
  EXPECT_EQ(json["worst"].size(), 3U);
  EXPECT_EQ(with({"--depth", depth, "--again", again, "--only", "told"}).out, "1.0\n");
}

TEST_F(Samples, AMapOfThemIsWritten) {
  const std::string map = folder / "map.exr";
  const Ran ran = with({"--depth", depth, "--map", map});
  ASSERT_EQ(ran.code, 0) << ran.err;
  EXPECT_TRUE(holds(ran.out, map));
  EXPECT_GT(std::filesystem::file_size(map), 1000U);
}

TEST_F(Samples, WhatCannotBeIsSaid) {
  const auto said = [](const Ran& ran, int code, const char* words) {
    EXPECT_EQ(ran.code, code) << ran.out << ran.err;
    EXPECT_TRUE(holds(ran.err, words));
  };
  said(with({}), 3, "depth");
  said(with({"--depth", depth, "--noise", "0"}), 2, "--noise");
  said(with({"--depth", depth, "--took", "long"}), 2, "--took");
  said(with({"--depth", depth, "--rays", "0"}), 2, "--rays");
  said(with({"--depth", depth, "--again", test}), 3, "other random numbers");
  said(with({"--depth", depth, "--again", folder / "none.exr"}), 3, "none.exr");
  said(with({"--depth", depth, "--map", test}), 3, "test.exr");
  said(with({"--depth", depth, "--map", folder / "map.txt"}), 2, "map.txt");
}

}  // namespace samples_cli_test
}  // namespace jolly_iris
