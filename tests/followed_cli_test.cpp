// What measure, match, expose and compare offer is done as they say it, over many shots, and what
// they promised is then measured.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <random>
#include <regex>

#include "cli_support.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "plates/made_shot.hpp"

namespace jolly_iris {
namespace followed_cli_test {

using namespace testing;  // the project's own
using Json = nlohmann::json;

plates::MadeShot made(std::uint32_t seed, int blades) {
  plates::MadeShot m;
  for (; m.lamps.size() < 8; seed += 1000) {
    m = plates::made_shot(seed);
    m.opening = {blades, 0.2, 11.0};
    std::mt19937 random(seed);
    plates::scatter_lamps(m, random, 14);
  }
  return m;
}

// CG of the plate, drawn with the camera that a list of --set makes of the shot.
void draw_cg(const plates::MadeShot& plate, const std::string& shot,
             const std::vector<std::string>& sets, const TempFolder& folder) {
  std::vector<std::string> args{"report", shot, "--json"};
  args.insert(args.end(), sets.begin(), sets.end());
  const Json camera = Json::parse(run(args).out);
  plates::MadeShot cg = plate;
  cg.stop = camera["lens"]["f_number"].get<double>();
  cg.squeeze = camera["camera"]["squeeze"].get<double>();
  // The pitch along the height stays what it is.
  cg.gate_w_mm = plate.gate_w_mm * plate.squeeze / cg.squeeze;
  cg.opening.blades = camera["camera"]["iris"]["blades"].get<int>();
  cg.opening.rotation_deg = camera["camera"]["iris"]["rotation_deg"].get<double>();
  cg.file.seed += 17;
  std::filesystem::create_directories(folder / "cg");
  plates::write_plate(cg, folder / "cg");
}

// Whatever is off in CG, after what compare says is done nothing is left to do, and CG's camera is
// the plate's within what was told.
TEST(Followed, WhatCompareSaysToChangeMakesTheCameraThePlates) {
  const std::uint32_t shots = sanitized ? 2 : 8;
  int moved = 0;
  for (std::uint32_t seed = 1; seed <= shots; ++seed) {
    const TempFolder folder;
    const plates::MadeShot plate = made(700 + seed, seed % 2 == 0 ? 6 : 7);
    plates::ShotText text = plates::true_text(plate);
    std::mt19937 random(seed);
    const auto uniform = [&](double low, double high) {
      return low + (high - low) * (static_cast<double>(random()) / 4294967296.0);
    };
    text.set("take", "stop",
             plates::quoted(fmt::format("f/{:.4g}", plate.stop * std::exp(uniform(-0.4, 0.4)))));
    text.set("lens.iris", "rotation",
             plates::quoted(
                 fmt::format("{:.3g} deg", plate.opening.rotation_deg + uniform(-18.0, 18.0))));
    const std::string shot = plates::write_shot(plate, text, folder.path().string());
    std::vector<std::string> sets;
    Json like;
    for (int round = 0; round < 3; ++round) {
      draw_cg(plate, shot, sets, folder);
      std::vector<std::string> args{"compare", shot, folder / "cg/plate.jpg", "--json",
                                    "--no-finish"};
      args.insert(args.end(), sets.begin(), sets.end());
      const Ran r = run(args);
      ASSERT_EQ(r.code, 0) << r.err;
      like = Json::parse(r.out);
      bool still = false;
      for (const Json& m : like["moves"]) {
        if (m["to"].get<std::string>().empty()) continue;
        sets.insert(sets.end(),
                    {"--set", m["key"].get<std::string>() + "=" + m["to"].get<std::string>()});
        still = true;
      }
      moved += still ? 1 : 0;
      if (!still) break;
      EXPECT_LT(round, 2) << seed << " moves on and on: " << like["moves"].dump(1);
    }
    std::vector<std::string> args{"report", shot, "--json"};
    args.insert(args.end(), sets.begin(), sets.end());
    const Json after = Json::parse(run(args).out);
    const double larger = plate.stop / after["lens"]["f_number"].get<double>() - 1.0;
    const Json& told = like["discs"]["larger"];
    EXPECT_NEAR(larger, told["value"].get<double>(), 1.5 * told["margin"].get<double>()) << seed;
    EXPECT_LT(std::abs(larger), 0.012) << seed;
    const double turned = std::remainder(
        after["camera"]["iris"]["rotation_deg"].get<double>() - plate.opening.rotation_deg,
        360.0 / plate.opening.blades);
    EXPECT_LT(std::abs(turned), 2.5) << seed;
  }
  EXPECT_GE(moved, static_cast<int>(shots));
}

// What is pasted from measure is what is measured, and match has nothing to say of it then.
TEST(Followed, WhatMeasureOffersToPasteIsTheIrisOfThePlate) {
  for (const int blades : {7, 5, 8}) {
    if (sanitized && blades != 7) break;
    const TempFolder folder;
    const plates::MadeShot plate = made(800U + static_cast<std::uint32_t>(blades), blades);
    plates::ShotText text = plates::true_text(plate);
    for (const char* key : {"blades", "rotation", "blade_radius"}) text.erase("lens.iris", key);
    std::string shot = plates::write_shot(plate, text, folder.path().string());
    const Json j = Json::parse(run({"measure", shot, "--discs", "--json"}).out);
    const std::string paste = j["toml"];
    ASSERT_TRUE(holds(paste, "[lens.iris]")) << j["iris"].dump();
    shot = folder.write("pasted.shot.toml", text.text() + paste);
    const Json report = Json::parse(run({"report", shot, "--json"}).out);
    const Json& iris = report["camera"]["iris"];
    EXPECT_EQ(iris["blades"], blades);
    EXPECT_NEAR(std::remainder(iris["rotation_deg"].get<double>() - plate.opening.rotation_deg,
                               360.0 / blades),
                0.0, 1.5 * j["iris"]["rotation_deg"]["margin"].get<double>() + 0.01);
    const Ran r = run({"match", shot});
    EXPECT_TRUE(holds(r.out, "Notes and plate agree")) << r.out;
  }
}

TEST(Followed, WhatThePlateSaysOfTheTakeIsAsNotedOnceItIsTakenOver) {
  const TempFolder folder;
  const plates::MadeShot plate = made(811, 7);
  plates::ShotText text = plates::true_text(plate);
  std::string shot = plates::write_shot(plate, text, folder.path().string());
  plates::add_exif(folder / "plate.jpg", plate.focal_mm, plate.stop);
  // Whatever it says that is not noted, taken over as it stands.
  for (int round = 0; round < 2; ++round) {
    const Json j = Json::parse(run({"match", shot, "--json"}).out);
    int open = 0;
    for (const Json& f : j["file_says"]) {
      const std::string entry = f["entry"];
      if (entry.empty() || f["verdict"] == "same") continue;
      ++open;
      const auto equals = entry.find(" = ");
      const std::string key = entry.substr(0, equals);
      const auto dot = key.rfind('.');
      text.set(key.substr(0, dot), key.substr(dot + 1), entry.substr(equals + 3));
    }
    if (round == 1) {
      EXPECT_EQ(open, 0) << j["file_says"].dump(1);
    }
    folder.write("made.shot.toml", text.text());
  }
}

// A price list: each that can be paid is paid, and leaves the light that it says.
TEST(Followed, WhatExposeOffersIsAsBrightAsItSays) {
  const std::map<std::string, std::string> keys{
      {"iso", "take.iso"}, {"shutter", "take.shutter"}, {"nd", "take.nd"}, {"stop", "take.stop"}};
  int paid = 0;
  for (const char* shot : {"hero.shot.toml", "dusk.shot.toml"}) {
    const Json before = Json::parse(run({"expose", demo(shot), "--json"}).out);
    const double ev = before["exposure"]["ev100"].get<double>();
    for (const Json& t : before["trades"]) {
      if (!t.contains("left_stops") || t["change"].get<std::string>().empty()) continue;
      const std::string change = t["change"];
      std::string value = t["nearest"];
      for (const char* word : {"ISO ", "ND "}) {
        if (value.starts_with(word)) value = value.substr(std::string_view(word).size());
      }
      const Ran r = run({"expose", demo(shot), "--set", "take.stop=" + change, "--set",
                         keys.at(t["pays"]) + "=" + value, "--json"});
      ASSERT_EQ(r.code, 0) << change << " " << value << r.err;
      ++paid;
      EXPECT_NEAR(ev - Json::parse(r.out)["exposure"]["ev100"].get<double>(),
                  t["left_stops"].get<double>(), 0.01)
          << t.dump();
    }
    // And what is to be pasted.
    for (const char* partner : {"shutter", "iso"}) {
      const Ran r = run({"expose", demo(shot), "--set", "take.stop=f/1.8", "--pay", partner});
      std::smatch m;
      ASSERT_TRUE(std::regex_search(
          r.out, m, std::regex("To paste below \\[take\\][^\n]*\n\n(\\w+) *= *\"?([^\"\n]+)\"?\n")))
          << r.out;
      const Json after = Json::parse(run({"expose", demo(shot), "--set", "take.stop=f/1.8", "--set",
                                          "take." + m[1].str() + "=" + m[2].str(), "--json"})
                                         .out);
      EXPECT_NEAR(after["exposure"]["ev100"].get<double>(), ev, 0.17) << r.out;  // half a third
    }
  }
  EXPECT_GE(paid, 6);
}

}  // namespace followed_cli_test
}  // namespace jolly_iris
