// match --frames as a person and a farm use it: a made plate over frames, measured whole and in
// parts, told in text, JSON and tables, drawn, pasted back, accepted; and what is odd about plates.
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"
#include "plates/sequenced.hpp"

namespace jolly_iris {
namespace follow_cli_test {

using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Args = std::vector<std::string>;
using nlohmann::json;
using plates::MadeSequence;

// A pull that the notes have six frames earlier.
MadeSequence made() {
  MadeSequence s = plates::made_sequence(702, 640, 6, 6);
  s.way = plates::FocusWay::pull;
  s.count = 32;
  s.begins = 12.0;
  s.lasts = 10.0;
  s.ease = 0;
  s.zoom = 1.0;
  s.brighter = 0.0;
  s.first = 1001;
  s.jpeg = false;
  s.base.file.quality = 0;
  for (plates::SequenceLamp& l : s.lamps) l.moves = {};
  s.dark.assign(32, false);
  for (const std::size_t i : {5U, 17U, 25U}) s.dark[i] = true;
  return s;
}

// Drawn once for all tests.
class Followed : public ::testing::Test {
 protected:
  static void SetUpTestSuite() {
    folder_ = new TempFolder("followed");
    const MadeSequence s = made();
    shot_ = plates::write_sequence_notes(s, folder_->path().string());
    std::string text = slurp(shot_);
    const auto at = text.find("[focus]");
    const auto end = text.find("[scene]");
    ASSERT_NE(at, std::string::npos);
    ASSERT_NE(end, std::string::npos);
    text.replace(at, end - at,
                 fmt::format("[[pull]]\nframe = 1007\nat = \"{:.4f} m\"\n[[pull]]\nframe = 1017\n"
                             "at = \"{:.4f} m\"\n",
                             1.0 / s.from_dpt, 1.0 / s.to_dpt));
    std::ofstream(shot_) << text;
    // What measure --frames --json says of such plates, in closed form: pictures are drawn where a
    // test is about them.
    json all = json::object();
    all["frames"] = json::array();
    for (int f = 0; f < s.count; ++f) all["frames"].push_back(measured(s, f));
    whole_ = *folder_ / "whole.json";
    std::ofstream(whole_) << all.dump();
  }
  static void TearDownTestSuite() {
    delete folder_;
    folder_ = nullptr;
  }

  static json measured(const MadeSequence& s, int f) {
    const plates::MadeShot m = s.at(f);
    json seen = json::array();
    for (std::size_t i = 0; i < m.lamps.size() && !s.dark[static_cast<std::size_t>(f)]; ++i) {
      const double px = std::abs(m.disc_px(m.lamps[i].z_m));
      if (px < 12.0) continue;
      const double off = 0.05 * std::sin(1.7 * f + static_cast<double>(i));
      const double light = s.lamps[i].power;
      seen.push_back({{"at_px", {m.lamps[i].x, m.lamps[i].y}},
                      {"height_px", {{"value", px + off}, {"margin", 0.15}}},
                      {"width_px", {{"value", px + off}, {"margin", 0.15}}},
                      {"light", {light, 0.8 * light, 0.6 * light}},
                      {"clipped", false},
                      {"outlier", false},
                      {"facing", "unknown"},
                      {"side_known", false}});
    }
    return {{"frame", s.first + f},
            {"plate_px", {m.pixels.width, m.pixels.height}},
            {"discs", seen.size()},
            {"seen", seen}};
  }

  // The plates of some frames, beside the shot.
  static void draw(int from, int to, const std::string& folder) {
    const MadeSequence s = made();
    for (int f = from; f <= to; ++f) {
      const std::string name = folder + "/" + s.plate_of(f - s.first);
      if (!std::filesystem::exists(name)) plates::write_frame(s, f - s.first, folder);
    }
  }

  static json followed(Args more = {}) {
    Args args{"match", shot_, "--frames", "all", "--measured", whole_, "--json"};
    args.insert(args.end(), more.begin(), more.end());
    const Ran r = run(args);
    EXPECT_EQ(r.code, 0) << r.err;
    return json::parse(r.out);
  }

  // A shot of its own, with these plates, in a folder of its own.
  static std::string copied(const TempFolder& to) {
    for (const auto& entry : std::filesystem::directory_iterator(folder_->path())) {
      std::filesystem::copy(entry.path(), to.path() / entry.path().filename());
    }
    return to / "made.shot.toml";
  }

  inline static TempFolder* folder_ = nullptr;
  inline static std::string shot_{};
  inline static std::string whole_{};
};

TEST_F(Followed, TheFocusIsWhereItWasAndTheNotesAreSaidToBeEarly) {
  const json j = followed();
  const MadeSequence s = made();
  int held = 0;
  for (const json& f : j["frames"]) {
    const double off =
        std::abs(1.0 / f["focus_m"].get<double>() - s.dioptres(f["frame"].get<double>() - s.first));
    held += off <= f["focus_margin_dpt"].get<double>() ? 1 : 0;
    EXPECT_LT(off, 0.005 + 0.01 * s.dioptres(f["frame"].get<double>() - s.first) + 0.01);
  }
  EXPECT_GE(held, 30);
  const json& moves = j["values"]["focus"]["moves"];
  ASSERT_EQ(moves.size(), 1U);
  EXPECT_EQ(moves[0]["kind"], "pull");
  EXPECT_NEAR(moves[0]["tenth"]["value"].get<double>(), 1013.0 + 10.0 * 0.196, 2.0);
  ASSERT_EQ(j["values"]["focus"]["noted_moves"].size(), 1U);
  EXPECT_TRUE(holds(j["findings"][0]["message"], "frames later than noted (1007 to 1017)"))
      << j["findings"];
  EXPECT_TRUE(j["findings"][0]["disagrees"]);
  for (const json& t : j["tracks"]) EXPECT_LE(t["lamps"].size(), 1U) << t;
}

TEST_F(Followed, PlatesReadAtOnceTellTheSameAsMeasuredParts) {
  draw(1010, 1019, folder_->path().string());
  Args args{"match", shot_, "--frames", "1010-1019", "--json"};
  for (const int part : {2, 1, 3}) {
    const Ran r = run({"measure", shot_, "--frames", "1010-1019", "--part",
                       fmt::format("{}/3", part), "--threads", "1", "--json"});
    ASSERT_EQ(r.code, 0) << r.err;
    const std::string name = *folder_ / fmt::format("part{}.json", part);
    std::ofstream(name) << r.out;
    args.insert(args.end(), {"--measured", name});
  }
  const Ran parts = run(args);
  ASSERT_EQ(parts.code, 0) << parts.err;
  const Ran whole = run({"match", shot_, "--frames", "1010-1019", "--json"});
  ASSERT_EQ(whole.code, 0) << whole.err;
  const MadeSequence s = made();
  const json j = json::parse(whole.out);
  for (const json& f : j["frames"]) {
    EXPECT_NEAR(1.0 / f["focus_m"].get<double>(), s.dioptres(f["frame"].get<double>() - s.first),
                std::max(0.005, f["focus_margin_dpt"].get<double>()));
  }
  EXPECT_TRUE(parts.out == whole.out);
}

TEST_F(Followed, TheTextSaysWhatItDoesAndHowFarItIsSure) {
  const Ran r = run({"match", shot_, "--frames", "all", "--measured", whole_});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "32 frames, 1001 to 1032"));
  EXPECT_TRUE(holds(r.out, "3 are bridged"));
  EXPECT_TRUE(holds(r.out, "pull 10"));
  EXPECT_TRUE(holds(r.out, "dpt"));
  std::istringstream lines(r.out);
  for (std::string line; std::getline(lines, line);) EXPECT_LE(line.size(), 110U) << line;
}

TEST_F(Followed, ATableHasARowForEachFrame) {
  const Ran r = run({"match", shot_, "--frames", "all", "--measured", whole_, "--csv"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(std::count(r.out.begin(), r.out.end(), '\n'), 33);
  EXPECT_TRUE(r.out.starts_with("frame,discs,focus_dpt,focus_m,focus_margin_dpt,noted_focus_m,"));
}

TEST_F(Followed, KeysCanBePastedAndSayTheSame) {
  const TempFolder other;
  const std::string shot = copied(other);
  const Ran keys = run({"match", shot, "--frames", "all", "--measured", whole_, "--keys"});
  ASSERT_EQ(keys.code, 0) << keys.err;
  std::string text = slurp(shot);
  const auto at = text.find("[[pull]]");
  const auto end = text.find("[scene]");
  text.replace(at, end - at, keys.out + "\n");
  std::ofstream(shot) << text;
  const json all = followed();
  for (const json& f : all["frames"]) {
    const Ran r = run({"report", shot, "--frame", fmt::format("{:g}", f["frame"].get<double>()),
                       "--only", "camera.focus_m"});
    ASSERT_EQ(r.code, 0) << r.err;
    EXPECT_NEAR(1.0 / std::stod(r.out), 1.0 / f["focus_m"].get<double>(),
                f["focus_margin_dpt"].get<double>())
        << f["frame"];
  }
}

TEST_F(Followed, WhatIsAcceptedLeadsOverTheNotes) {
  const TempFolder other;
  const std::string shot = copied(other);
  const Ran r = run({"match", shot, "--frames", "all", "--measured", whole_, "--accept"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "keys that lead over the notes"));
  const auto focus = [&](const Args& more) {
    Args args{"report", shot, "--frame", "1015", "--only", "camera.focus_m"};
    args.insert(args.end(), more.begin(), more.end());
    const Ran one = run(args);
    EXPECT_EQ(one.code, 0) << one.err;
    return std::stod(one.out);
  };
  const json all = followed();
  const json& f = all["frames"][14];
  EXPECT_NEAR(1.0 / focus({}), 1.0 / f["focus_m"].get<double>(),
              f["focus_margin_dpt"].get<double>());
  EXPECT_NEAR(focus({"--as-noted"}), f["noted_focus_m"].get<double>(), 1e-3);
  // Matching again asks the notes, not what was accepted.
  const Ran again = run({"match", shot, "--frames", "all", "--measured", whole_, "--json"});
  EXPECT_TRUE(again.out ==
              run({"match", shot_, "--frames", "all", "--measured", whole_, "--json"}).out);
}

TEST_F(Followed, TheSheetIsDrawnWithThePlateAsAStrip) {
  draw(1001, 1001, folder_->path().string());
  const TempFolder out;
  for (const char* name : {"curves.png", "curves.svg"}) {
    const Ran r =
        run({"match", shot_, "--frames", "all", "--measured", whole_, "--sheet", out / name});
    ASSERT_EQ(r.code, 0) << r.err;
  }
  const Picture drawn = read_picture(out / "curves.png").colour;
  EXPECT_EQ(drawn.width(), 1280);
  EXPECT_EQ(drawn.height(), 800);
  EXPECT_TRUE(holds(slurp(out / "curves.svg").substr(0, 200), "<svg"));
  // The strip has the plate's frames: at its left end something else than paper and dark fields.
  double brightest = 0.0;
  for (int y = 70; y < 120; ++y) {
    for (int x = 90; x < 180; ++x) {
      brightest = std::max(brightest, static_cast<double>(drawn.at(x, y)[0]));
    }
  }
  EXPECT_GT(brightest, 0.2);
  // Without plates to show there is a note, and the sheet all the same.
  const TempFolder other;
  const std::string shot = copied(other);
  for (int f = 1001; f <= 1032; ++f) {
    std::filesystem::remove(other / fmt::format("plate.{}.exr", f));
  }
  const Ran bare =
      run({"match", shot, "--frames", "all", "--measured", whole_, "--sheet", out / "bare.png"});
  EXPECT_EQ(bare.code, 0);
  EXPECT_TRUE(holds(bare.err, "frame 1001 is not shown"));
}

// ---- lamps that no scene has
// ----------------------------------------------------------------------

TEST_F(Followed, WithoutASceneTheChangeOfFocusIsToldAndWhatWouldTellMore) {
  const TempFolder other;
  const std::string shot = copied(other);
  std::string text = slurp(shot);
  const auto scene = text.find("[scene]");
  text.erase(scene, text.find("\n[", scene) + 1 - scene);
  std::ofstream(shot) << text;
  const Args asked{"match", shot, "--frames", "all", "--measured", whole_};
  const auto with = [&](Args more) {
    more.insert(more.begin(), asked.begin(), asked.end());
    return run(more);
  };
  const Ran told = with({});
  ASSERT_EQ(told.code, 0) << told.err << text;
  EXPECT_TRUE(holds(told.out, "lamps of unknown distance (")) << told.out;
  EXPECT_TRUE(holds(told.out, "focus change")) << told.out;
  EXPECT_TRUE(holds(told.out, "is told in metres.")) << told.out;
  EXPECT_TRUE(holds(told.out, "frames later than noted (1007 to 1017)")) << told.out;
  std::istringstream lines(told.out);
  for (std::string line; std::getline(lines, line);) EXPECT_LE(line.size(), 110U) << line;
  const MadeSequence s = made();
  const json j = json::parse(with({"--json"}).out);
  EXPECT_TRUE(j["relative"]);
  int held = 0;
  for (const json& f : j["frames"]) {
    EXPECT_FALSE(f.contains("focus_m"));
    const double truth = s.dioptres(f["frame"].get<double>() - s.first) - s.from_dpt;
    held += std::abs(f["focus_change_dpt"].get<double>() - truth) <=
                    f["focus_change_margin_dpt"].get<double>()
                ? 1
                : 0;
  }
  EXPECT_GE(held, 30);
  const Ran table = with({"--csv"});
  EXPECT_TRUE(table.out.starts_with(
      "frame,discs,focus_change_dpt,focus_change_margin_dpt,noted_focus_change_dpt,"))
      << table.out.substr(0, 120);
  // Its keys go on from the notes' focus, and say so.
  const Ran keys = with({"--keys"});
  EXPECT_TRUE(keys.out.starts_with("# Only its change was seen")) << keys.out;
  EXPECT_TRUE(holds(keys.out, "[[pull]]")) << keys.out;
  const Ran drawn = with({"--sheet", other / "change.png"});
  EXPECT_EQ(drawn.code, 0) << drawn.err;
  const Ran taken = with({"--accept"});
  EXPECT_TRUE(holds(taken.out, "keys that lead over the notes")) << taken.err;
  // Where even its way is open there are none, and nothing is written.
  std::filesystem::remove(other / "made.solved.toml");
  const auto pull = text.find("[[pull]]");
  text.erase(pull, text.find("\n[", text.rfind("[[pull]]") + 2) + 1 - pull);
  std::ofstream(shot) << text << "\n[focus]\nat = \"2.5 m\"\n";
  const Ran open = with({"--keys"});
  ASSERT_EQ(open.code, 0) << open.err << text;
  EXPECT_TRUE(open.out.starts_with("# no keys: ")) << open.out;
  const Ran accepted = with({"--accept"});
  EXPECT_EQ(accepted.code, 1) << accepted.out;
  EXPECT_TRUE(holds(accepted.err, "which way the focus goes")) << accepted.err;
  EXPECT_FALSE(std::filesystem::exists(other / "made.solved.toml"));
  EXPECT_TRUE(holds(with({}).out, "be the other way round")) << with({}).out;
}

// ---- plates as they come
// --------------------------------------------------------------------------

TEST_F(Followed, AMissingFrameIsNamedOrLeftOut) {
  const TempFolder other;
  const std::string shot = copied(other);
  draw(1015, 1018, other.path().string());
  std::filesystem::remove(other / "plate.1016.exr");
  const Ran stopped = run({"match", shot, "--frames", "1015-1018"});
  EXPECT_EQ(stopped.code, 3);
  EXPECT_TRUE(holds(stopped.err, "plate.1016.exr"));
  const Ran on = run({"match", shot, "--frames", "1015-1018", "--keep-going", "--json"});
  EXPECT_NE(on.code, 0);
  const json j = json::parse(on.out);
  EXPECT_EQ(j["failed"].size(), 1U);
  EXPECT_EQ(j["frames"].size(), 3U);
}

TEST_F(Followed, AllBlackTellsNothingAndSaysWhatWouldHelp) {
  const TempFolder other;
  const std::string shot = copied(other);
  for (int f = 1001; f <= 1004; ++f) {
    write_picture(other / fmt::format("plate.{}.exr", f),
                  {Picture({640, 360}, {0.0F, 0.0F, 0.0F, 1.0F}), {}, {}});
  }
  const Ran r = run({"match", shot, "--frames", "1001-1004"});
  EXPECT_EQ(r.code, 1);
  EXPECT_TRUE(holds(r.err, "no frame shows a disc of a lamp whose distance is known")) << r.err;
}

TEST_F(Followed, AnotherSizeInTheMiddleIsTold) {
  const TempFolder other;
  const std::string shot = copied(other);
  draw(1001, 1003, other.path().string());
  MadeSequence larger = made();
  larger.base.pixels = {960, 540};
  for (const int f : {3, 4}) plates::write_frame(larger, f, other.path().string());
  const Ran r = run({"match", shot, "--frames", "1001-1005", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.err, "from frame 1004 on the plate is 960 x 540 px")) << r.err;
  const json j = json::parse(r.out);
  for (const json& f : j["frames"]) {
    EXPECT_NEAR(1.0 / f["focus_m"].get<double>(), made().from_dpt, 0.02);
  }
}

TEST_F(Followed, WhatIsNoMeasurementIsRefusedWithItsPlace) {
  const TempFolder other;
  const auto refused = [&](const std::string& text, const std::string& says) {
    const std::string file = other.write("odd.json", text);
    const Ran r = run({"match", shot_, "--frames", "all", "--measured", file});
    EXPECT_EQ(r.code, 3) << text;
    EXPECT_TRUE(holds(r.err, "odd.json") && holds(r.err, says)) << r.err;
  };
  refused("{", "is no JSON");
  refused("{}", "no list \"frames\"");
  refused(R"({"frames":[{"frame":1001}]})", "plate_px");
  refused(R"({"frames":[{"frame":1001,"plate_px":[0,4],"seen":[]}]})", "no plate is 0 x 4 px");
  refused(R"({"frames":[{"frame":1001,"plate_px":[640,360],"seen":[{"at_px":[1]}]}]})",
          "has not 2 numbers");
  refused(R"({"frames":[{"frame":"a","plate_px":[640,360],"seen":[]}]})", "is no number");
  const Ran twice =
      run({"match", shot_, "--frames", "all", "--measured", whole_, "--measured", whole_});
  EXPECT_EQ(twice.code, 2);
  EXPECT_TRUE(holds(twice.err, "which of them counts?"));
}

TEST_F(Followed, OptionsThatDoNotGoTogetherAreSaid) {
  const auto refused = [&](const Args& args, const std::string& says) {
    const Ran r = run(args);
    EXPECT_EQ(r.code, 2) << says;
    EXPECT_TRUE(holds(r.err, says)) << r.err;
  };
  refused({"match", shot_, "--csv"}, "belong to --frames");
  refused({"match", shot_, "--measured", whole_}, "belong to --frames");
  refused({"match", shot_, "--frames", "all", "--csv", "--keys"}, "ask for one of them");
  refused({"match", shot_, "--frames", "all", "--with", shot_ + "x"}, "leave out --with");
  refused({"match", testing::demo("hero.shot.toml"), "--frames", "1-4"},
          "the plate is one picture");
}

}  // namespace follow_cli_test
}  // namespace jolly_iris
