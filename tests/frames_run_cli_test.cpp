// Many frames: which are meant, parts for several tasks, what is kept, what fails and is told.
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>
#include <thread>

#include "cli_support.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris {
namespace frames_run_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Args = std::vector<std::string>;
using nlohmann::json;

// Small frames with depth, each another grey, and a shot whose focus is pulled over them.
class Frames : public ::testing::Test {
 protected:
  void SetUp() override {
    shot_ = folder_.write("pulled.shot.toml", R"(
[body]
gate = "24 x 13.5 mm"
pixels = "32 x 18"
[lens]
focal = "50 mm"
squeeze = 1
[lens.distortion]
k1 = 0.02
[lens.iris]
blades = 7
[take]
stop = "f/2"
iso = 800
shutter = "180 deg"
fps = 24
mark = "2 m"
[frames]
first = 1001
last = 1008
[[pull]]
frame = 1001
on = "near"
[[pull]]
frame = 1008
on = "far"
[[subject]]
name = "near"
at = "2 m"
[[subject]]
name = "far"
at = "8 m"
[finish.grain]
grey = 0.006
)");
    for (int i = 1001; i <= 1008; ++i) sharp(i);
  }

  std::string name(const std::string& of) const { return folder_ / (of + ".####.exr"); }
  std::string file(const std::string& of, int frame) const {
    return folder_ / (of + "." + std::to_string(frame) + ".exr");
  }

  void sharp(int frame) const {
    Frame picture{Picture({32, 18}, {0.1F, 0.1F, 0.1F, 1.0F}), {}};
    picture.depth.assign(picture.colour.pixels().size(), 4.0F);
    picture.colour.at(frame - 1001 + 8, 9) = {4.0F, 4.0F, 4.0F, 1.0F};
    write_picture(file("in", frame), picture);
  }

  json run_json(Args args) const {
    args.emplace_back("--json");
    const Ran r = run(args);
    EXPECT_EQ(r.code, 0) << r.err;
    return json::parse(r.out);
  }

  TempFolder folder_{};
  std::string shot_{};
};

TEST(FrameList, IsReadAsPeopleWriteIt) {
  const LoadedShot none{};
  const auto frames = [&](const std::string& text, FramePart part = {}) {
    return chosen_frames({.asked = true, .spans = frame_spans(text), .part = part}, none);
  };
  using V = std::vector<double>;
  EXPECT_EQ(frames("1001-1004"), (V{1001, 1002, 1003, 1004}));
  EXPECT_EQ(frames("1003"), V{1003});
  EXPECT_EQ(frames("1004,1001"), (V{1001, 1004}));
  EXPECT_EQ(frames("1-10x4"), (V{1, 5, 9}));  // every fourth, and no tenth
  EXPECT_EQ(frames("1-3,2-5,9"), (V{1, 2, 3, 4, 5, 9}));
  EXPECT_EQ(frames("-2-1"), (V{-2, -1, 0, 1}));
  EXPECT_EQ(frames("-8--6"), (V{-8, -7, -6}));
  EXPECT_EQ(frames("0-2"), (V{0, 1, 2}));
  for (const char* wrong : {"", "a", "1-", "-", "1,", ",1", "1-5x", "1-5x0", "1-5x-2", "5-1",
                            "1..5", "1-5 ", "nan", "1-inf", "1-1000000000"}) {
    EXPECT_THROW((void)frames(wrong), UsageError) << wrong;
  }
}

// Whatever the frames and the number of tasks: each frame is in one part, and parts are even.
RC_GTEST_PROP(FrameList, PartsMakeTheWhole, ()) {
  const int count = *rc::gen::inRange(1, 40);
  const int parts = *rc::gen::inRange(1, 50);
  FrameRequest request{.asked = true, .spans = {{{1, static_cast<double>(count)}}}};
  std::vector<double> all;
  std::set<std::size_t> sizes;
  for (int k = 1; k <= parts; ++k) {
    request.part = {k, parts};
    const auto some = chosen_frames(request, {});
    sizes.insert(some.size());
    all.insert(all.end(), some.begin(), some.end());
  }
  request.part = {};
  RC_ASSERT(all == chosen_frames(request, {}));
  RC_ASSERT(*sizes.rbegin() - *sizes.begin() <= 1U);
}

TEST_F(Frames, PartsMakeTheSameBytesAsOneRun) {
  struct Verb {
    std::string label;
    bool threads;
    Args args;
  };
  const std::vector<Verb> verbs{
      {"defocus", true, {"defocus", shot_, name("in"), "--finish"}},
      {"finish", true, {"finish", shot_, name("in")}},
      {"undistort", false, {"undistort", shot_, name("in")}},
      {"redistort", false, {"redistort", shot_, name("in")}},
      {"expose", true, {"expose", shot_, name("in"), "--stops", "1", "--apply"}},
      {"squeeze", false, {"squeeze", shot_, name("in"), "--set", "lens.squeeze=2"}},
      {"desqueeze", false, {"desqueeze", shot_, name("in"), "--set", "lens.squeeze=2"}},
      {"trace",
       true,
       {"trace", demo("passing.shot.toml"), "--set", "body.pixels=32 x 18", "--samples", "4"}}};
  for (const Verb& verb : verbs) {
    const std::string frames = verb.label == "trace" ? "1010-1017" : "all";
    const int first = frames == "all" ? 1001 : 1010;
    const auto with = [&](Args more) {
      Args args = verb.args;
      args.insert(args.end(), {"--frames", frames});
      args.insert(args.end(), more.begin(), more.end());
      return args;
    };
    const json whole = run_json(with({"-o", name("whole")}));
    EXPECT_EQ(whole.at("written").size(), 8U) << verb.label;
    for (const char* part : {"3/3", "1/3", "2/3"}) {
      Args args = with({"--part", part, "-o", name("part")});
      if (verb.threads) args.insert(args.end(), {"--threads", "1"});
      const Ran r = run(args);
      EXPECT_EQ(r.code, 0) << verb.label << r.err;
    }
    for (int i = first; i < first + 8; ++i) {
      EXPECT_TRUE(slurp(file("whole", i)) == slurp(file("part", i))) << verb.label << i;
      std::filesystem::remove(file("part", i));
    }
  }
}

TEST_F(Frames, WhatIsThereAlreadyIsKeptByWhatItWasMadeFrom) {
  for (const char* verb : {"defocus", "finish", "redistort", "expose"}) {
    Args args{verb, shot_, name("in"), "--frames", "1001-1004", "-o", name(verb), "--resume"};
    if (verb == std::string("expose")) args.insert(args.end(), {"--apply", "--stops", "1"});
    EXPECT_EQ(run_json(args).at("kept"), 0) << verb;
    EXPECT_EQ(run_json(args).at("kept"), 4) << verb;
    // Another input, a half-written picture, one that is gone.
    Frame other{Picture({32, 18}, {0.7F, 0.1F, 0.1F, 1.0F}), {}};
    other.depth.assign(other.colour.pixels().size(), 4.0F);
    write_picture(file("in", 1002), other);
    std::filesystem::resize_file(file(verb, 1003), 300);
    std::filesystem::remove(file(verb, 1004));
    const json again = run_json(args);
    EXPECT_EQ(again.at("kept"), 1) << verb;
    EXPECT_EQ(again.at("written").size(), 3U) << verb;
    EXPECT_EQ(run_json(args).at("kept"), 4) << verb;
    args.insert(args.end(), {"--set", "lens.distortion.k1=0.03", "--set", "take.stop=f/4"});
    EXPECT_EQ(run_json(args).at("kept"), 0) << verb;  // other settings
    sharp(1002);
  }
}

TEST_F(Frames, OneThatFailsIsToldAndTheOthersAreMade) {
  std::filesystem::remove(file("in", 1003));
  std::ofstream(file("in", 1006)) << "no picture";
  for (const char* verb : {"defocus", "finish", "undistort", "expose"}) {
    Args args{verb, shot_, name("in"), "--frames", "all", "-o", name(verb)};
    if (verb == std::string("expose")) args.insert(args.end(), {"--apply", "--meter", "average"});
    const Ran stops = run(args);
    EXPECT_EQ(stops.code, 3) << verb;
    EXPECT_TRUE(holds(stops.err, "in.1003.exr")) << stops.err;
    EXPECT_FALSE(std::filesystem::exists(file(verb, 1001))) << verb;  // told before any work
    args.insert(args.end(), {"--keep-going", "--json"});
    const Ran r = run(args);
    EXPECT_EQ(r.code, 3) << verb;
    EXPECT_TRUE(holds(r.err, "2 of 8 frames failed: 1003, 1006")) << r.err;
    const json told = json::parse(r.out);
    ASSERT_EQ(told.at("failed").size(), 2U) << verb;
    EXPECT_EQ(told.at("failed")[0].at("frame"), 1003);
    EXPECT_TRUE(holds(told.at("failed")[0].at("said"), "No such file"));
    EXPECT_EQ(told.at("failed")[1].at("exit_code"), 3);
    EXPECT_EQ(told.at("written").size(), 6U) << verb;
    for (const int made : {1001, 1002, 1004, 1005, 1007, 1008}) {
      EXPECT_TRUE(std::filesystem::exists(file(verb, made))) << verb << made;
    }
  }
}

TEST_F(Frames, AFrameIsTheSameAloneAsInItsSequence) {
  ASSERT_EQ(
      run({"defocus", shot_, name("in"), "--finish", "--frames", "1005", "-o", name("all")}).code,
      0);
  ASSERT_EQ(run({"defocus", shot_, file("in", 1005), "--finish", "--frame", "1005", "-o",
                 folder_ / "one.exr"})
                .code,
            0);
  EXPECT_EQ(read_picture(file("all", 1005)).colour.pixels(),
            read_picture(folder_ / "one.exr").colour.pixels());
}

TEST_F(Frames, APlateMayBeASequence) {
  const std::string shot =
      folder_.write("plates.shot.toml",
                    slurp(shot_) + "[plate]\nfile = \"in.####.exr\"\ntransfer = \"linear\"\n");
  const json made = run_json({"undistort", shot, "--frames", "1002-1003", "-o", name("straight")});
  EXPECT_EQ(made.at("written").size(), 2U);
  // The lamp is in another place of each.
  EXPECT_NE(read_picture(file("straight", 1002)).colour.pixels(),
            read_picture(file("straight", 1003)).colour.pixels());
  EXPECT_EQ(run({"undistort", shot, "--frame", "1004", "-o", folder_ / "one.exr"}).code, 0);
  const Ran gone = run({"undistort", shot, "--frame", "1009", "-o", folder_ / "one.exr"});
  EXPECT_EQ(gone.code, 3);
  EXPECT_TRUE(holds(gone.err, "in.1009.exr")) << gone.err;
}

TEST_F(Frames, ARampIsTheSameInPartsAsWhole) {
  const Args base{"expose", shot_, name("in"), "--frames", "all", "--meter", "average"};
  const auto with = [&](Args more) {
    Args args = base;
    args.insert(args.end(), more.begin(), more.end());
    return args;
  };
  run_json(with({"--ramp", "0.5 stops/s", "--apply", "-o", name("whole")}));
  Args metered;
  for (const char* part : {"1/2", "2/2"}) {
    const Ran r = run(with({"--part", part, "--json"}));
    ASSERT_EQ(r.code, 0) << r.err;
    metered.push_back("--metered");
    metered.push_back(folder_.write("part" + std::to_string(metered.size()) + ".json", r.out));
  }
  for (const char* part : {"1/2", "2/2"}) {
    Args args = with({"--ramp", "0.5 stops/s", "--apply", "--part", part, "-o", name("part")});
    const Ran alone = run(args);
    EXPECT_EQ(alone.code, 2);
    EXPECT_TRUE(holds(alone.err, "nobody metered frame")) << alone.err;
    args.insert(args.end(), metered.begin(), metered.end());
    EXPECT_EQ(run(args).code, 0);
  }
  for (int i = 1001; i <= 1008; ++i) {
    EXPECT_TRUE(slurp(file("whole", i)) == slurp(file("part", i))) << i;
  }
  const std::string other = folder_.write("other.json", R"({"frames": [{"frame": "x"}]})");
  EXPECT_EQ(run(with({"--ramp", "1 stops/s", "--metered", other})).code, 3);
  const std::string broken = folder_.write("broken.json", "{\"frames\": [");
  const Ran bad = run(with({"--ramp", "1 stops/s", "--metered", broken}));
  EXPECT_EQ(bad.code, 3);
  EXPECT_TRUE(holds(bad.err, "broken.json:1:")) << bad.err;
  EXPECT_EQ(run({"expose", shot_, name("in"), "--frames", "1001,1002,1005", "--meter", "average",
                 "--ramp", "1 stops/s"})
                .code,
            2);
}

TEST_F(Frames, NoPictureHasTheTimeOfDayInIt) {
  for (const char* ending : {"exr", "png", "tif", "jpg"}) {
    const auto made = [&](const std::string& label) {
      const std::string out = folder_ / (label + "." + ending);
      EXPECT_EQ(run({"finish", shot_, file("in", 1001), "-o", out}).code, 0);
      return slurp(out);
    };
    const std::string first = made("first");
    std::this_thread::sleep_for(std::chrono::milliseconds(1100));  // headers have whole seconds
    EXPECT_TRUE(first == made("later")) << ending;
  }
}

TEST_F(Frames, PartsBeyondTheFramesHaveNothingToDo) {
  const json none = run_json(
      {"finish", shot_, name("in"), "--frames", "1001-1002", "--part", "1/5", "-o", name("out")});
  EXPECT_EQ(none.at("written").size(), 0U);
  EXPECT_EQ(none.at("part"), "1/5");
}

TEST(FramesTrouble, ThatMayPassHasACodeOfItsOwn) {
  for (const int passes : {ENOSPC, EDQUOT, ESTALE, EMFILE}) EXPECT_TRUE(may_pass(passes));
  for (const int stays : {ENOENT, EACCES, EISDIR, EFBIG, EROFS}) EXPECT_FALSE(may_pass(stays));
  const int status = std::system((std::string(JOLLY_IRIS_TOOL) + " report " +
                                  demo("hero.shot.toml") + " > /dev/full 2> /dev/null")
                                     .c_str());
  EXPECT_EQ(WEXITSTATUS(status), 75);
}

// Two lamps' discs, one growing as it goes right, the other still.
void write_discs(const std::string& file, int step, bool lit) {
  Frame frame{Picture({240, 135}, {0.02F, 0.02F, 0.02F, 1.0F}), {}};
  const auto add = [&](double cx, double cy, double radius) {
    for (int y = 0; y < 135; ++y) {
      for (int x = 0; x < 240; ++x) {
        const double inside = radius - std::hypot(x + 0.5 - cx, y + 0.5 - cy);
        const auto share = static_cast<float>(std::clamp(0.5 + inside, 0.0, 1.0));
        for (int c = 0; c < 3; ++c) {
          frame.colour.at(x, y)[static_cast<std::size_t>(c)] += 0.5F * share;
        }
      }
    }
  };
  if (lit) {
    add(60.0 + 4.0 * step, 60.0, 12.0 + 0.5 * step);
    add(190.0, 80.0, 15.0);
  }
  write_picture(file, frame);
}

TEST_F(Frames, DiscsAreFollowedThroughThePlate) {
  const std::string shot = folder_.write(
      "plates.shot.toml", slurp(shot_) + "[plate]\nfile = \"p.####.exr\"\ntransfer = \"linear\"\n");
  for (int i = 1001; i <= 1008; ++i) write_discs(file("p", i), i - 1001, i != 1004);
  const json all = run_json({"measure", shot, "--frames", "all"});
  ASSERT_EQ(all.at("tracks").size(), 2U);
  const json& moving = all.at("tracks")[0].at("points");
  ASSERT_EQ(moving.size(), 7U);  // over the frame that has none
  for (const json& p : moving) {
    const double step = p.at("frame").get<double>() - 1001.0;
    EXPECT_NEAR(p.at("at_px")[0], 60.0 + 4.0 * step, 0.3);
    EXPECT_NEAR(p.at("height_px").at("value"), 24.0 + step, p.at("height_px").at("margin"));
  }
  EXPECT_EQ(all.at("frames")[3].at("discs"), 0);
  const Ran text = run({"measure", shot, "--frames", "1001-1004"});
  EXPECT_TRUE(holds(text.out, "in 2 tracks; 1 frames have none")) << text.out;
  const Ran csv = run({"measure", shot, "--frames", "1001-1004", "--csv"});
  EXPECT_EQ(std::count(csv.out.begin(), csv.out.end(), '\n'), 7);
  // Parts see what all see of their frames.
  const json part = run_json({"measure", shot, "--frames", "all", "--part", "2/2"});
  EXPECT_EQ(part.at("frames").size(), 4U);
  EXPECT_EQ(part.at("tracks")[1].at("points")[0], all.at("tracks")[1].at("points")[3]);
  // A gap, and another size in the middle.
  std::filesystem::remove(file("p", 1002));
  write_picture(file("p", 1006), Frame{Picture({120, 68}, {0.1F, 0.1F, 0.1F, 1.0F}), {}});
  EXPECT_EQ(run({"measure", shot, "--frames", "all"}).code, 3);
  const Ran r = run({"measure", shot, "--frames", "all", "--keep-going", "--json"});
  EXPECT_EQ(r.code, 3);
  EXPECT_EQ(json::parse(r.out).at("failed")[0].at("frame"), 1002);
  EXPECT_TRUE(holds(r.err, "from frame 1006 on the plate is 120 x 68 px")) << r.err;
  EXPECT_EQ(run({"measure", demo("hero.shot.toml"), "--frames", "1-2"}).code, 2);  // one picture
  EXPECT_EQ(run({"measure", shot, "--frames", "all", "--finish"}).code, 2);
}

struct Wrong {
  const char* label;
  Args args;
  const char* said;
};
class WrongFrames : public ::testing::TestWithParam<Wrong> {};
TEST_P(WrongFrames, AreRefusedWithWhatWouldBeRight) {
  Args args{"finish", demo("hero.shot.toml"), "a.####.exr", "--set", "finish.grain.grey=0.006"};
  args.insert(args.end(), GetParam().args.begin(), GetParam().args.end());
  const Ran r = run(args);
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, GetParam().said)) << r.err;
}
INSTANTIATE_TEST_SUITE_P(
    All, WrongFrames,
    ::testing::Values(Wrong{"part_alone", {"--part", "1/2"}, "--part belongs to --frames"},
                      Wrong{"resume_alone", {"--resume"}, "--resume belongs to --frames"},
                      Wrong{
                          "keep_going_alone", {"--keep-going"}, "--keep-going belongs to --frames"},
                      Wrong{"part_zero", {"--frames", "1-2", "--part", "0/2"}, "2/8"},
                      Wrong{"part_beyond", {"--frames", "1-2", "--part", "3/2"}, "2/8"},
                      Wrong{"part_text", {"--frames", "1-2", "--part", "2"}, "2/8"},
                      Wrong{"one_name", {"--frames", "1-2", "-o", "a.exr"}, "write ####"},
                      Wrong{"frames", {"--frames", "1-2x"}, "1001-1100x4"}),
    [](const auto& which) { return std::string(which.param.label); });

}  // namespace frames_run_cli_test
}  // namespace jolly_iris
