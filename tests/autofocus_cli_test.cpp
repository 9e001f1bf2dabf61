// solve --autofocus and compare --frames, as they are asked for at a shell.
#include <gtest/gtest.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris {
namespace autofocus_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Args = std::vector<std::string>;
using nlohmann::json;

// Something that comes nearer, in depth pictures too.
class Coming : public ::testing::Test {
 protected:
  void SetUp() override {
    shot_ = folder_.write("coming.shot.toml", R"([body]
gate = "24 x 13.5 mm"
pixels = "48 x 27"
[lens]
focal = "50 mm"
[take]
stop = "f/2"
fps = 24
[frames]
first = 1001
last = 1040
[focus]
at = "6 m"
[[subject]]
name = "runner"
at = "6 m"
[over.subject.runner.at]
ease = "step"
1001 = "6 m"
1011 = "3 m"
)");
  }
  void draw_depths() const {
    for (int f = 1001; f <= 1040; ++f) {
      Frame frame{Picture({48, 27}, {0.1F, 0.1F, 0.1F, 1.0F}), {}, {}};
      frame.depth.assign(frame.colour.pixels().size(), 9.0F);
      for (int y = 10; y < 17; ++y) {
        for (int x = 20; x < 28; ++x) {
          frame.depth[static_cast<std::size_t>(y * 48 + x)] = f < 1011 ? 6.0F : 3.0F;
        }
      }
      write_picture(folder_ / fmt::format("depth.{}.exr", f), frame);
    }
  }
  json solved(const Args& more) const {
    Args args{"solve", shot_, "--frames", "all", "--json"};
    args.insert(args.end(), more.begin(), more.end());
    const Ran r = run(args);
    EXPECT_EQ(r.code, 0) << r.err;
    return json::parse(r.out);
  }

  TempFolder folder_{};
  std::string shot_{};
};

TEST_F(Coming, ItFollowsLateAndNoFasterThanItCan) {
  const json j =
      solved({"--autofocus", "runner", "--late", "0.25", "--speed", "1", "--deaf", "0.02"});
  ASSERT_EQ(j["moves"].size(), 1U);
  EXPECT_DOUBLE_EQ(j["moves"][0]["begins"].get<double>(), 1017.0);  // six frames late
  EXPECT_NEAR(j["moves"][0]["to_dpt"].get<double>(), 1.0 / 3.0, 1e-6);
  // A sixth of a dioptre at 1 dpt/s, eased: 1.5 times the even pace where it is fastest.
  EXPECT_NEAR(j["moves"][0]["ends"].get<double>() - 1017.0, 1.5 * 24.0 / 6.0, 1e-3);
}

TEST_F(Coming, ItsKeysPastedGiveThatFocus) {
  const json j = solved({"--autofocus", "runner", "--past", "20"});
  std::string text = slurp(shot_);
  const auto at = text.find("[focus]");
  text.replace(at, text.find("[[subject]]") - at, j["toml"].get<std::string>() + "\n");
  const std::string pasted = folder_.write("pasted.shot.toml", text);
  for (const json& f : j["frames"]) {
    const Ran r = run({"report", pasted, "--frame", fmt::format("{:g}", f["frame"].get<double>()),
                       "--only", "camera.focus_m"});
    ASSERT_EQ(r.code, 0) << r.err;
    // Keys stand on tenths of a frame.
    EXPECT_NEAR(1.0 / std::stod(r.out), f["focus_dpt"].get<double>(), 0.003) << f;
  }
}

TEST_F(Coming, TheMiddleOfDepthPicturesIsFollowedAlike) {
  draw_depths();
  const json by_name = solved({"--autofocus", "runner"});
  for (const Args& what : {Args{"--autofocus", "nearest"}, Args{"--autofocus", "24,13"}}) {
    Args args = what;
    args.insert(args.end(), {"--depth", folder_ / "depth.####.exr"});
    const json j = solved(args);
    ASSERT_EQ(j["frames"].size(), 40U);
    for (std::size_t i = 0; i < 40; ++i) {
      EXPECT_NEAR(j["frames"][i]["focus_dpt"].get<double>(),
                  by_name["frames"][i]["focus_dpt"].get<double>(), 1e-3)
          << i;
    }
  }
}

TEST_F(Coming, OwnKeysLead) {
  std::string text = slurp(shot_);
  const auto at = text.find("[focus]");
  text.replace(at, text.find("[[subject]]") - at,
               "[[pull]]\nframe = 1025\nat = \"5 m\"\n[[pull]]\nframe = 1030\nat = \"4 m\"\n");
  const std::string keyed = folder_.write("keyed.shot.toml", text);
  const Ran r =
      run({"solve", keyed, "--frames", "all", "--autofocus", "runner", "--own-keys", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const json j = json::parse(r.out);
  EXPECT_EQ(j["own_keys"], 2);
  EXPECT_NEAR(j["frames"][24]["focus_dpt"].get<double>(), 0.2, 1e-6);
  EXPECT_NEAR(j["frames"][29]["focus_dpt"].get<double>(), 0.25, 1e-6);
}

TEST_F(Coming, WhatItCannotFollowIsSaid) {
  const auto refused = [&](const Args& more, const std::string& says) {
    Args args{"solve", shot_};
    args.insert(args.end(), more.begin(), more.end());
    const Ran r = run(args);
    EXPECT_NE(r.code, 0) << says;
    EXPECT_TRUE(holds(r.err, says)) << r.err;
  };
  refused({"--autofocus", "nobody", "--frames", "all"}, "no subject 'nobody'");
  refused({"--autofocus", "nearest", "--frames", "all"}, "name them: depth.####.exr");
  refused({"--autofocus", "runner", "--frames", "all", "--depth", "d.####.exr"}, "is a subject");
  refused({"--autofocus", "nearest", "--frames", "all", "--depth", folder_ / "no.####.exr"},
          "no.1001.exr");
  refused({"--autofocus", "runner", "--frames", "1001-1040x2"}, "frame by frame");
  refused({"--speed", "2"}, "belong to --autofocus");
  refused({"--hold", "runner,9 m", "--speed", "2"}, "belong to --autofocus");
}

// ---- CG over frames
// -------------------------------------------------------------------------------

class Rendered : public ::testing::Test {
 protected:
  void SetUp() override {
    shot_ = folder_.write("cg.shot.toml", R"([body]
gate = "24 x 13.5 mm"
pixels = "96 x 54"
[lens]
focal = "50 mm"
[take]
stop = "f/2"
[frames]
first = 1001
last = 1004
[focus]
at = "3 m"
[plate]
file = "plate.####.exr"
)");
    for (int f = 1001; f <= 1004; ++f) {
      write_picture(folder_ / fmt::format("plate.{}.exr", f), picture(1.0F));
      write_picture(folder_ / fmt::format("cg.{}.exr", f), picture(f == 1003 ? 0.5F : 1.0F));
    }
  }
  // Bumps, so that it is a view; darker all over in one frame of CG.
  static Frame picture(float times) {
    Picture p({96, 54}, {0.0F, 0.0F, 0.0F, 1.0F});
    for (int y = 0; y < 54; ++y) {
      for (int x = 0; x < 96; ++x) {
        const float v = times * (0.2F + 0.1F * std::sin(0.3F * static_cast<float>(x)) *
                                            std::cos(0.23F * static_cast<float>(y)));
        p.at(x, y) = {v, v, v, 1.0F};
      }
    }
    return {p, {}, {}};
  }
  TempFolder folder_{};
  std::string shot_{};
};

TEST_F(Rendered, TheFrameThatIsDarkerIsNamed) {
  const std::string cg = folder_ / "cg.####.exr";
  const Ran r = run({"compare", shot_, cg, "--frames", "all", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const json j = json::parse(r.out);
  ASSERT_EQ(j["frames"].size(), 4U);
  EXPECT_NEAR(j["frames"][2]["stops"].get<double>(), 1.0, 0.02);
  EXPECT_NEAR(j["frames"][1]["stops"].get<double>(), 0.0, 0.02);
  const Ran text = run({"compare", shot_, cg, "--frames", "all"});
  ASSERT_EQ(text.code, 0) << text.err;
  EXPECT_TRUE(holds(text.out, "1.00 stops at 1003")) << text.out;
  const Ran csv = run({"compare", shot_, cg, "--frames", "1002-1003", "--csv"});
  EXPECT_EQ(std::count(csv.out.begin(), csv.out.end(), '\n'), 3);
}

TEST_F(Rendered, PartsAreTheWholeAndWhatIsMissingIsTold) {
  const std::string cg = folder_ / "cg.####.exr";
  json parts = json::array();
  for (const char* part : {"1/2", "2/2"}) {
    const json j =
        json::parse(run({"compare", shot_, cg, "--frames", "all", "--part", part, "--json"}).out);
    for (const json& f : j["frames"]) parts.push_back(f);
  }
  EXPECT_EQ(parts,
            json::parse(run({"compare", shot_, cg, "--frames", "all", "--json"}).out)["frames"]);
  std::filesystem::remove(folder_ / "cg.1002.exr");
  EXPECT_EQ(run({"compare", shot_, cg, "--frames", "all"}).code, 3);
  const Ran on = run({"compare", shot_, cg, "--frames", "all", "--keep-going", "--json"});
  EXPECT_NE(on.code, 0);
  EXPECT_EQ(json::parse(on.out)["frames"].size(), 3U);
}

TEST_F(Rendered, PicturesOfBothBelongToOneFrame) {
  const std::string cg = folder_ / "cg.####.exr";
  for (const Args& more : {Args{"--side", folder_ / "side.png"}, Args{"--no-plate"}}) {
    Args args{"compare", shot_, cg, "--frames", "all"};
    args.insert(args.end(), more.begin(), more.end());
    const Ran r = run(args);
    EXPECT_EQ(r.code, 2);
    EXPECT_TRUE(holds(r.err, "--frame N")) << r.err;
  }
  EXPECT_EQ(run({"compare", shot_, cg, "--csv"}).code, 2);
}

}  // namespace autofocus_cli_test
}  // namespace jolly_iris
