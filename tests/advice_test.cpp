// Each command that is offered is run, over many shots, and what it promised is then measured.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <random>
#include <regex>

#include "cli_support.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace advice_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::TempFolder;
using Json = nlohmann::json;

// A line as a shell takes it apart: blanks part, double quotes hold together.
std::vector<std::string> words_of(const std::string& line) {
  std::vector<std::string> words;
  std::string word;
  bool quoted = false;
  bool any = false;
  for (std::size_t i = 0; i < line.size(); ++i) {
    const char c = line[i];
    if (c == '"') {
      quoted = !quoted;
      any = true;
    } else if (c == '\\' && quoted) {
      word += line[++i];
    } else if (c == ' ' && !quoted) {
      if (any || !word.empty()) words.push_back(word);
      word.clear();
      any = false;
    } else {
      word += c;
    }
  }
  if (any || !word.empty()) words.push_back(word);
  return words;
}

// Runs "Try it: jolly-iris report …" as it stands in the text.
Json tried(const std::string& out) {
  std::smatch m;
  if (!std::regex_search(out, m, std::regex("Try it: jolly-iris ([^\n]+)"))) {
    ADD_FAILURE() << "no command in\n" << out;
    return {};
  }
  std::vector<std::string> args = words_of(m[1].str());
  args.emplace_back("--json");
  const Ran r = run(args);
  EXPECT_EQ(r.code, 0) << m[1].str() << "\n" << r.err;
  return r.code == 0 ? Json::parse(r.out) : Json();
}

const Json& subject(const Json& report, const std::string& name) {
  for (const Json& s : report["subjects"]) {
    if (s["name"] == name) return s;
  }
  throw std::runtime_error("no subject " + name);
}

class Dice {
 public:
  explicit Dice(std::uint32_t seed) : random_(seed) {}
  double between(double low, double high) {
    return low + (high - low) * (static_cast<double>(random_()) / 4294967296.0);
  }
  int below(int n) { return static_cast<int>(random_() % static_cast<unsigned>(n)); }

 private:
  std::mt19937 random_;
};

// A shot of numbers, with faults and a cheat now and then, and a variant.
std::string shot_text(Dice& dice, double near, double far) {
  std::string t = fmt::format(
      "unit = \"cm\"\n[body]\ngate = \"{:.3f} x {:.3f} mm\"\npixels = \"1920 x 1080\"\n", 24.0,
      13.5);
  t +=
      fmt::format("[lens]\nwidest = \"f/1.2\"\nfocal = \"{:.1f} mm\"\n", dice.between(24.0, 100.0));
  if (dice.below(3) == 0) t += "adapter = 0.71\n";
  if (dice.below(3) == 0) t += "squeeze = 1.5\n";
  const int faults = dice.below(4);
  if (faults == 1)
    t += fmt::format("[lens.faults]\nspherical = \"{:.4f} mm\"\n", dice.between(0.002, 0.02));
  if (faults == 2) t += "[lens.faults]\nfocus_red = \"0.01 dpt\"\nfocus_blue = \"-0.01 dpt\"\n";
  t += fmt::format("[take]\nstop = \"f/{:.3g}\"\n[focus]\non = \"near one\"\n",
                   dice.between(1.2, 5.6));
  if (dice.below(4) == 0) t += "[cheat]\nblur = 1.4\n";
  t += fmt::format("[[subject]]\nname = \"near one\"\nat = \"{:.4f} m\"\n", near);
  t += fmt::format("[[subject]]\nname = \"far one\"\nat = \"{:.4f} m\"\n", far);
  t += "[variant.other]\nlens.focal = \"40 mm\"\n";
  return t;
}

TEST(Advice, BothThingsHeldAreSharpAsTheReportCountsIt) {
  int held = 0;
  for (std::uint32_t seed = 1; seed <= 60; ++seed) {
    const TempFolder folder;
    Dice dice(seed);
    const double near = dice.between(0.8, 4.0);
    const double far = near * dice.between(1.05, 4.0);
    const std::string shot = folder.write("a b.shot.toml", shot_text(dice, near, far));
    std::vector<std::string> args{"solve", shot, "--hold", "near one,far one"};
    const bool variant = dice.below(2) == 0;
    if (variant) args.insert(args.end(), {"--variant", "other"});
    const Ran r = run(args);
    if (r.code == 1) continue;  // the optics say no, with their reason
    ASSERT_EQ(r.code, 0) << seed << r.err;
    const Json report = tried(r.out);
    if (report.is_null()) continue;
    ++held;
    EXPECT_TRUE(subject(report, "near one")["sharp"].get<bool>()) << seed << "\n" << r.out;
    EXPECT_TRUE(subject(report, "far one")["sharp"].get<bool>()) << seed << "\n" << r.out;
    // What was asked with is asked with again.
    if (variant) {
      EXPECT_TRUE(holds(r.out, "--variant other")) << r.out;
    }
  }
  EXPECT_GE(held, 45);
}

TEST(Advice, AWantedBlurComesOut) {
  for (std::uint32_t seed = 1; seed <= 40; ++seed) {
    const TempFolder folder;
    Dice dice(100 + seed);
    const double near = dice.between(0.8, 4.0);
    std::string text = shot_text(dice, near, near * dice.between(1.3, 4.0));
    // Blur is asked of the lens as it is without faults and cheats.
    text = std::regex_replace(text, std::regex("\\[lens.faults\\]\n[^\\[]*"), "");
    text = std::regex_replace(text, std::regex("\\[cheat\\]\n[^\\[]*"), "");
    const std::string shot = folder.write("a.shot.toml", text);
    const double px = dice.between(3.0, 40.0);
    const Ran r = run({"solve", shot, "--blur", fmt::format("{:.3f} px", px), "--at", "far one"});
    ASSERT_EQ(r.code, 0) << seed << r.err;
    const Json report = tried(r.out);
    EXPECT_NEAR(subject(report, "far one")["coc_px"].get<double>(), px, 2e-3 * px) << seed;
    // Light that somebody must pay for is in the answer.
    EXPECT_TRUE(holds(r.out, "light than") || holds(r.out, "instead of")) << r.out;
  }
}

// The camera that had to move moves, in a scene.
TEST(Advice, AnotherLensFromAnotherPlaceBlursAsWantedAndKeepsTheSubjectsSize) {
  const std::string shot = demo("hero.shot.toml");
  const Json before = Json::parse(run({"report", shot, "--json"}).out);
  for (const double px : {8.0, 20.0, 30.0}) {
    const Ran r = run({"solve", shot, "--blur", fmt::format("{} px", px), "--by", "lens"});
    ASSERT_EQ(r.code, 0) << r.err;
    const Json after = tried(r.out);
    EXPECT_NEAR(subject(after, "infinity")["coc_px"].get<double>(), px, 0.01 * px) << r.out;
    EXPECT_NEAR(subject(after, "boat")["size_px"].get<double>(),
                subject(before, "boat")["size_px"].get<double>(), 0.5);
    EXPECT_TRUE(subject(after, "boat")["sharp"].get<bool>());
  }
}

TEST(Advice, WhatWasAskedWithIsKept) {
  const Ran r = run({"solve", demo("drift.shot.toml"), "--hold", "2m,3m", "--frame", "1010",
                     "--set", "take.iso=400"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "--frame 1010")) << r.out;
  EXPECT_TRUE(holds(r.out, "take.iso=400"));
  EXPECT_EQ(tried(r.out)["frame"], 1010);
}

TEST(Advice, TheSamePictureOnAnotherBody) {
  const TempFolder folder;
  const std::string body =
      folder.write("wide.body.toml", "gate = \"36 x 20.25 mm\"\npixels = \"1920 x 1080\"\n");
  for (const double adapter : {1.0, 0.71}) {
    const Json before = Json::parse(run({"report", demo("hero.shot.toml"), "--json"}).out);
    const Ran r = run(
        {"solve", demo("hero.shot.toml"), "--body", body, "--adapter", fmt::format("{}", adapter)});
    ASSERT_EQ(r.code, 0) << r.err;
    const Json after = tried(r.out);
    for (const char* name : {"boat", "second boat", "infinity"}) {
      EXPECT_NEAR(subject(after, name)["coc_px"].get<double>(),
                  subject(before, name)["coc_px"].get<double>(), 0.05)
          << name;
    }
    EXPECT_NEAR(after["camera"]["picture_fov_deg"][0].get<double>(),
                before["camera"]["picture_fov_deg"][0].get<double>(), 0.02);
  }
}

TEST(Advice, ALevelCameraIsLevelAndShowsWhatWasKeptWhereItWas) {
  const Ran r = run({"solve", demo("quay.shot.toml"), "--level"});
  ASSERT_EQ(r.code, 0) << r.err;
  if (!holds(r.out, "Try it:")) return;
  const Json after = tried(r.out);
  EXPECT_NEAR(
      after["camera"]["shift_mm"][1].get<double>(),
      Json::parse(run({"solve", demo("quay.shot.toml"), "--level", "--json"}).out)["shift_up_mm"]
          .get<double>(),
      1e-4);
}

}  // namespace advice_test
}  // namespace jolly_iris
