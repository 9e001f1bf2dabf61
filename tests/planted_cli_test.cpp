// match, from the command line, on plates by a renderer of their own: mistakes planted by editing a
// true shot file, and what is told of them.
#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <numbers>

#include "cli_support.hpp"
#include "plates/made_shot.hpp"

namespace jolly_iris {
namespace planted_cli_test {

using testing::holds;
using testing::parameter;
using testing::Ran;
using testing::run;
using testing::TempFolder;
using Json = nlohmann::json;

std::string first_of(const Json& j) {
  if (j["notes_agree"].get<bool>()) return "notes agree";
  std::string all;
  if (j["explanations"].empty()) return "nothing";
  for (const Json& m : j["explanations"][0]["mistakes"]) all += m.get<std::string>() + " | ";
  return all;
}

struct Made {
  plates::MadeShot shot{};
  std::string file{};
};

Made planted(const TempFolder& folder, const std::string& name, std::uint32_t seed) {
  for (const plates::PlantedEdit& kind : plates::planted_edits()) {
    if (kind.name != name) continue;
    Made m;
    m.shot = plates::made_shot(seed);
    std::mt19937 random(seed);
    kind.truth(m.shot, random);
    plates::scatter_lamps(m.shot, random, 16);
    plates::ShotText text = plates::true_text(m.shot);
    kind.edit(m.shot, text);
    m.file = plates::write_shot(m.shot, text, folder.path().string());
    return m;
  }
  throw std::runtime_error("no kind " + name);
}

Json matched(const std::string& file, const std::vector<std::string>& more = {}) {
  std::vector<std::string> args{"match", file, "--json"};
  args.insert(args.end(), more.begin(), more.end());
  const Ran r = run(args);
  EXPECT_EQ(r.code, 0) << r.err;
  return r.code == 0 ? Json::parse(r.out) : Json();
}

TEST(PlantedCli, ASqueezeLeftOutOfATrueFileIsThatAlone) {
  const TempFolder folder;
  const Made m = planted(folder, "squeeze key left out", 5);
  const Json j = matched(m.file);
  EXPECT_TRUE(holds(first_of(j), fmt::format("squeeze {:g} forgotten", m.shot.squeeze)))
      << first_of(j);
  // One mistake explains it: no pair is as likely.
  EXPECT_FALSE(holds(j["explanations"][0]["mistakes"][0].get<std::string>(), "adapter"));
}

// A file that two mistakes were made in, or three: one alone explains the discs, but not where they
// lie.
TEST(PlantedCli, WhatPlacesAndShapesContradictIsNotTheMistake) {
  const TempFolder folder;
  plates::MadeShot m = plates::made_shot(3);
  std::mt19937 random(3);
  m.squeeze = 1.8;
  m.gate_w_mm /= 1.4;
  m.gate_h_mm = m.gate_w_mm * m.squeeze * 0.564;
  m.scale = 100.0;
  plates::scatter_lamps(m, random, 16);
  plates::ShotText text = plates::true_text(m);
  text.erase("lens", "squeeze");
  const std::string file = plates::write_shot(m, text, folder.path().string());
  Json j = matched(file);
  EXPECT_TRUE(holds(first_of(j), "squeeze 1.8 forgotten, and the scene is 100 times too small"))
      << first_of(j);
  // And a third.
  text.set("take", "stop", plates::quoted(fmt::format("f/{:.4g}", 1.65 * m.stop)));
  plates::write_shot(m, text, folder.path().string());
  j = matched(file);
  for (const char* part : {"squeeze 1.8 forgotten", "100 times too small", "the stop is another"}) {
    EXPECT_TRUE(holds(first_of(j), part)) << first_of(j);
  }
  EXPECT_EQ(j["explanations"][0]["explained"].get<std::size_t>(),
            j["match"]["observations"].size());
}

TEST(PlantedCli, APlainlyWrongNumberIsSaidWithWhatThePlateSays) {
  const TempFolder folder;
  const Made m = planted(folder, "another stop", 5);
  const Json j = matched(m.file);
  EXPECT_TRUE(holds(first_of(j), "the stop is another: noted")) << first_of(j);
  const Json& stop = parameter(j["match"], "stop");
  // The column of what was noted says what the file says; the plate tells the true one.
  EXPECT_NEAR(stop["noted"].get<double>(), 1.65 * m.shot.stop, 2e-3);
  EXPECT_NEAR(stop["value"].get<double>(), m.shot.stop, 2.0 * stop["margin"].get<double>());
}

TEST(PlantedCli, ATrueFileIsLeftAloneAndItsMarginIsTheDiscs) {
  const TempFolder folder;
  plates::MadeShot m = plates::made_shot(11);
  m.file.quality = 0;
  std::mt19937 random(11);
  plates::scatter_lamps(m, random, 16);
  m.file.quality = 95;
  const std::string file = plates::write_shot(m, plates::true_text(m), folder.path().string());
  const Json j = matched(file);
  EXPECT_TRUE(j["notes_agree"].get<bool>()) << first_of(j);
  // Where its lamps stand is known exactly here: discs of half a per cent are not made worse by a
  // floor of one.
  double least = 1.0;
  for (const Json& o : j["match"]["observations"]) {
    if (o["kind"] == "disc") {
      least = std::min(least, o["sigma"].get<double>() / o["seen"].get<double>());
    }
  }
  EXPECT_LT(least, 0.008);
}

// What nobody can find in the plate, but somebody measured.
TEST(PlantedCli, ADiscMeasuredByHandCountsWhereThePlateShowsNone) {
  const TempFolder folder;
  plates::MadeShot m = plates::made_shot(21);
  m.lamps.clear();
  plates::ShotText text = plates::true_text(m);
  text.erase("scene", "file");
  text.erase("scene", "camera");
  std::string file = plates::write_shot(m, text, folder.path().string());
  const double z = 4.0 * m.focus_m;
  std::ofstream(file)
      << text.text()
      << fmt::format(
             "[[subject]]\nname = \"lantern\"\nat = \"{:.5g} m\"\n"
             "[[plate.lamp]]\nname = \"lantern\"\nat = [480, 270]\ndiameter = {:.2f}\n",
             z, m.disc_px(z));
  const Ran r = run({"match", file});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "as it was measured by hand")) << r.out;
  const Json j = matched(file);
  bool found = false;
  for (const Json& o : j["match"]["observations"]) {
    if (o["name"] != "lantern") continue;
    found = true;
    EXPECT_GT(o["sigma"].get<double>(), 1.0);
  }
  EXPECT_TRUE(found);
}

TEST(PlantedCli, SomethingRoundTellsTheSqueezeAtThisMark) {
  const TempFolder folder;
  plates::MadeShot m = plates::made_shot(23);
  m.squeeze = 1.5;
  m.gate_h_mm = m.gate_w_mm * m.squeeze * 0.564;
  m.lamps.clear();
  plates::ShotText text = plates::true_text(m);
  text.erase("scene", "file");
  text.erase("scene", "camera");
  const std::string file = plates::write_shot(m, text, folder.path().string());
  // At this mark it squeezes by 1.41: round things come out 1.5 / 1.41 times as wide as high.
  std::string points;
  for (int i = 0; i < 16; ++i) {
    const double a = 2.0 * std::numbers::pi * i / 16.0;
    points += fmt::format("{}[{:.2f}, {:.2f}]", i == 0 ? "" : ", ",
                          480.0 + 100.0 * 1.5 / 1.41 * std::cos(a), 270.0 + 100.0 * std::sin(a));
  }
  std::ofstream(file) << text.text() << "[[plate.circle]]\npoints = [" << points << "]\n";
  const Ran r = run({"match", file, "--doubt", "lens.squeeze"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "[[lens.squeezes]]")) << r.out;
  const Json j = matched(file, {"--doubt", "lens.squeeze"});
  const Json& squeeze = parameter(j["match"], "squeeze");
  EXPECT_NEAR(squeeze["value"].get<double>(), 1.41, 0.02);
  EXPECT_NEAR(squeeze["noted"].get<double>(), 1.5, 1e-9);
}

}  // namespace planted_cli_test
}  // namespace jolly_iris
