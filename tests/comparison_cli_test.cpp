// compare and expose --as-plate, from the command line: what they begin from, what they may say,
// and what they may not.
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>

#include "cli_support.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "plates/made_shot.hpp"
#include "small_dusk.hpp"

namespace jolly_iris {
namespace comparison_cli_test {

using testing::holds;
using testing::Ran;
using testing::run;
using testing::TempFolder;
using Json = nlohmann::json;

// A shot whose plate is drawn, and that plate as light.
struct Drawn {
  plates::MadeShot made{};
  std::string shot{};
  Picture plate{};
};

Drawn drawn_shot(const TempFolder& folder, std::uint32_t seed, int blades = 7) {
  Drawn d;
  for (d.made.lamps.clear(); d.made.lamps.size() < 8; seed += 1000) {
    d.made = plates::made_shot(seed);
    d.made.opening = {blades, 0.2, 9.0};
    std::mt19937 random(seed);
    plates::scatter_lamps(d.made, random, 14);
  }
  d.shot = plates::write_shot(d.made, plates::true_text(d.made), folder.path().string());
  d.plate = read_picture(folder / "plate.jpg").colour;
  return d;
}

Json compared(const std::string& shot, const std::string& picture,
              const std::vector<std::string>& more = {}) {
  std::vector<std::string> args{"compare", shot, picture, "--json", "--no-finish"};
  args.insert(args.end(), more.begin(), more.end());
  const Ran r = run(args);
  EXPECT_EQ(r.code, 0) << r.err;
  return r.code == 0 ? Json::parse(r.out) : Json();
}

const Json* move_for(const Json& j, const std::string& key) {
  for (const Json& m : j["moves"]) {
    if (m["key"] == key) return &m;
  }
  return nullptr;
}

TEST(CompareCli, BeginsFromWhatMadeThePictureAndSaysHowItKnows) {
  const TempFolder folder;
  const Drawn d = drawn_shot(folder, 51);
  // CG at 1.5 times the stop, though the shot says the plate's by now.
  plates::MadeShot other = d.made;
  other.stop = 1.5 * d.made.stop;
  other.file.seed += 5;
  std::filesystem::create_directories(folder / "cg");
  plates::write_plate(other, folder / "cg");
  const std::string cg = folder / "cg.exr";
  write_picture(cg, read_picture(folder / "cg/plate.jpg"));
  // Without a header it says what it assumes.
  Ran r = run({"compare", d.shot, cg, "--no-finish"});
  EXPECT_TRUE(holds(r.out, "taken to be made as the shot is now")) << r.out;
  Json j = compared(d.shot, cg);
  EXPECT_FALSE(j["made"]["told"].get<bool>());
  const std::string stop = fmt::format("f/{:.4g}", other.stop);
  ASSERT_EQ(
      run({"handoff", d.shot, "--set", "take.stop=" + stop, "--stamp", cg, "--to", folder / "cg"})
          .code,
      0);
  j = compared(d.shot, cg);
  EXPECT_TRUE(j["made"]["told"].get<bool>());
  EXPECT_EQ(j["made"]["stop"], stop);
  const Json* m = move_for(j, "take.stop");
  ASSERT_NE(m, nullptr) << j["moves"].dump(1);
  EXPECT_TRUE(holds((*m)["said"].get<std::string>(), "by its own header"));
  EXPECT_NEAR(std::stod((*m)["to"].get<std::string>().substr(2)), d.made.stop, 0.03 * d.made.stop);
}

TEST(CompareCli, ThePlateItselfIsNotTurnedAgainstItself) {
  for (const int blades : {5, 7, 9}) {
    const TempFolder folder;
    const Drawn d = drawn_shot(folder, 30U + static_cast<std::uint32_t>(blades), blades);
    const Json j = compared(d.shot, folder / "plate.jpg");
    EXPECT_TRUE(j["moves"].empty()) << j["moves"].dump(1);
    EXPECT_TRUE(j["left"]["places"].empty());
    if (j["discs"].contains("turned_deg")) {
      EXPECT_NEAR(j["discs"]["turned_deg"]["value"].get<double>(), 0.0, 1e-6);
    }
  }
}

TEST(CompareCli, OtherViewsAreToldApartAndGetNoAdvice) {
  const TempFolder folder;
  const Drawn d = drawn_shot(folder, 41);
  // Another set of lamps before another ground, as bright.
  plates::MadeShot other = plates::made_shot(97);
  other.pixels = d.made.pixels;
  std::mt19937 random(5);
  plates::scatter_lamps(other, random, 14);
  std::filesystem::create_directories(folder / "other");
  plates::write_plate(other, folder / "other");
  const Ran r = run({"compare", d.shot, folder / "other/plate.jpg"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "do not show the same view")) << r.out;
  EXPECT_FALSE(holds(r.out, "What to change next"));
  const Json j = compared(d.shot, folder / "other/plate.jpg");
  EXPECT_FALSE(j["same_view"].get<bool>());
  EXPECT_TRUE(j["moves"].empty());
}

TEST(CompareCli, NothingDiffersIsSaidOfNoiseAlone) {
  const TempFolder folder;
  const Drawn d = drawn_shot(folder, 43);
  std::mt19937 random(7);
  std::normal_distribution<float> normal(0.0F, 1.0F);
  Picture noisy = d.plate;
  for (Rgba& p : noisy.pixels()) {
    for (std::size_t c = 0; c < 3; ++c)
      p[c] = std::max(0.0F, p[c] * (1.0F + 0.01F * normal(random)));
  }
  write_picture(folder / "noisy.exr", {noisy, {}, {}});
  Ran r = run({"compare", d.shot, folder / "noisy.exr", "--no-finish"});
  EXPECT_TRUE(holds(r.out, "what is left over is noise")) << r.out;
  // One thing more in CG, of a colour that no kind of difference explains.
  Picture thing = d.plate;
  for (int y = 200; y < 240; ++y) {
    for (int x = 500; x < 560; ++x) thing.at(x, y)[1] += 0.02F;
  }
  write_picture(folder / "thing.exr", {thing, {}, {}});
  r = run(
      {"compare", d.shot, folder / "thing.exr", "--no-finish", "--where", folder / "where.png"});
  EXPECT_FALSE(holds(r.out, "Nothing differs: ")) << r.out;
  EXPECT_EQ(read_picture(folder / "where.png").colour.width(), 1280);
  const Json j = compared(d.shot, folder / "thing.exr");
  ASSERT_FALSE(j["left"]["places"].empty());
  const Json& box = j["left"]["places"][0]["box_px"];
  EXPECT_NEAR(box[0].get<double>() + 0.5 * box[2].get<double>(), 530.0, 16.0);
  EXPECT_NEAR(box[1].get<double>() + 0.5 * box[3].get<double>(), 220.0, 16.0);
}

TEST(CompareCli, OfNoLightNoExposureIsTold) {
  const TempFolder folder;
  const Drawn d = drawn_shot(folder, 45);
  write_picture(folder / "black.exr", {Picture(d.plate.size(), {0, 0, 0, 1}), {}, {}});
  const Ran r = run({"compare", d.shot, folder / "black.exr", "--no-finish"});
  EXPECT_TRUE(holds(r.out, "exposure                cannot tell")) << r.out;
  EXPECT_FALSE(holds(r.out, "white "));
  EXPECT_TRUE(holds(r.out, "shows hardly any detail")) << r.out;
  EXPECT_TRUE(holds(r.out, "CG has no light there")) << r.out;
  EXPECT_FALSE(holds(r.out, "What to change next")) << r.out;
  EXPECT_FALSE(compared(d.shot, folder / "black.exr")["light"].contains("stops"));
}

TEST(CompareCli, ABoxMeansDiscsWithinItAndCutsNone) {
  const TempFolder folder;
  const Drawn d = drawn_shot(folder, 47);
  // A box whose side runs through discs: what it holds the middle of is measured whole.
  const plates::MadeShot::LampAt& lamp = d.made.lamps.front();
  const int x = std::max(0, static_cast<int>(lamp.x) - 60);
  const int y = std::max(0, static_cast<int>(lamp.y) - 4);
  const Json all = compared(d.shot, folder / "plate.jpg");
  const Json part =
      compared(d.shot, folder / "plate.jpg", {"--box", fmt::format("{},{},120,60", x, y)});
  ASSERT_FALSE(part["discs"]["pairs"].empty());
  for (const Json& p : part["discs"]["pairs"]) {
    EXPECT_GE(p["at_px"][0].get<double>(), x);
    EXPECT_LT(p["at_px"][0].get<double>(), x + 120);
    double nearest = 1e9;
    for (const Json& q : all["discs"]["pairs"]) {
      const double apart = std::hypot(p["at_px"][0].get<double>() - q["at_px"][0].get<double>(),
                                      p["at_px"][1].get<double>() - q["at_px"][1].get<double>());
      if (apart < 3.0) {
        nearest =
            std::min(nearest, std::abs(p["plate_px"].get<double>() - q["plate_px"].get<double>()));
      }
    }
    EXPECT_LT(nearest, 0.5);
  }
}

// The dusk shot's CG with its boxes made brighter by so many stops each.
void light_boxes(const std::string& shot, const std::string& cg, const std::string& out,
                 const std::vector<double>& stops) {
  const Ran r = run({"expose", shot, cg, "--as-plate", "--json"});
  const Json look = Json::parse(r.out);
  Frame frame = read_picture(cg);
  std::size_t i = 0;
  // The boxes as the shot file has them.
  const std::string text = testing::slurp(shot);
  std::size_t from = 0;
  while ((from = text.find("box  = [", from)) != std::string::npos && i < stops.size()) {
    std::array<int, 4> b{};
    std::sscanf(text.c_str() + from + 8, "%d, %d, %d, %d", &b[0], &b[1], &b[2], &b[3]);
    const double own = look["match"]["regions"].at(i)["alone_stops"].get<double>();
    for (int y = b[1]; y < b[1] + b[3]; ++y) {
      for (int x = b[0]; x < b[0] + b[2]; ++x) {
        for (std::size_t c = 0; c < 3; ++c) {
          frame.colour.at(x, y)[c] *= static_cast<float>(std::exp2(own - stops[i]));
        }
      }
    }
    ++from;
    ++i;
  }
  write_picture(out, frame);
}

TEST(ExposeCli, RegionsThatContradictAreNotAveraged) {
  const TempFolder folder;
  const auto [shot, cg] = testing::small_dusk(folder);
  const Json plain = Json::parse(run({"expose", shot, cg, "--as-plate", "--json"}).out);
  const std::size_t n = plain["match"]["regions"].size();
  ASSERT_GE(n, 2U);
  std::vector<double> stops;
  for (std::size_t i = 0; i < n; ++i) {
    stops.push_back(i % 3 == 0 ? 4.1 : i % 3 == 1 ? -0.1 : -2.2);
  }
  light_boxes(shot, cg, folder / "odd.exr", stops);
  const Ran r = run({"expose", shot, folder / "odd.exr", "--as-plate"});
  EXPECT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "contradict each other")) << r.out;
  EXPECT_FALSE(holds(r.out, "CG must become"));
  const Ran apply =
      run({"expose", shot, folder / "odd.exr", "--as-plate", "--apply", "-o", folder / "done.exr"});
  EXPECT_EQ(apply.code, 1);
  EXPECT_TRUE(holds(apply.err, "contradict"));
  EXPECT_FALSE(std::filesystem::exists(folder / "done.exr"));
  // compare goes by the same regions, and so does the page.
  const Ran c = run({"compare", shot, folder / "odd.exr"});
  EXPECT_TRUE(holds(c.out, "cannot tell")) << c.out;
  EXPECT_FALSE(holds(c.out, "all of it (expose"));
  ASSERT_EQ(run({"page", shot, "--cg", folder / "odd.exr", "-o", folder / "a.html"}).code, 0);
  const Json page = testing::data_of(testing::slurp(folder / "a.html"));
  EXPECT_TRUE(holds(page["compare"].dump(), "contradict"));
}

TEST(PictureOrigin, AContradictingHeaderOrShapeIsToldEverywhere) {
  const TempFolder folder;
  const auto [shot, cg] = testing::small_dusk(folder);
  ASSERT_EQ(run({"defocus", shot, cg, "--set", "lens.focal=36 mm", "-o", folder / "wide.exr"}).code,
            0);
  Frame tall{Picture({480, 320}, {0.2F, 0.2F, 0.2F, 1.0F}), {}, {}};
  tall.depth.assign(tall.colour.pixels().size(), 5.0F);
  write_picture(folder / "tall.exr", tall);
  const auto err = [&](const std::vector<std::string>& args) { return run(args).err; };
  EXPECT_TRUE(holds(err({"compare", shot, folder / "wide.exr"}), "it is framed otherwise"));
  EXPECT_TRUE(
      holds(err({"defocus", shot, folder / "wide.exr", "--distance", "9m", "-o", folder / "x.exr"}),
            "it is framed otherwise"));
  EXPECT_TRUE(holds(err({"defocus", shot, folder / "tall.exr", "-o", folder / "x.exr"}),
                    "cut or framed otherwise"));
  EXPECT_TRUE(holds(err({"page", shot, "--with", folder / "tall.exr", "-o", folder / "p.html"}),
                    "cut or framed otherwise"));
  const Ran e = run({"expose", shot, folder / "wide.exr"});
  EXPECT_TRUE(holds(e.out, "it is framed otherwise")) << e.out;
  // Another shot.
  ASSERT_EQ(run({"defocus", shot, cg, "-o", folder / "dusk.exr"}).code, 0);
  folder.write("other.shot.toml", testing::slurp(shot));
  EXPECT_TRUE(holds(err({"compare", folder / "other.shot.toml", folder / "dusk.exr"}),
                    "another shot by its header, dusk.shot.toml"));
}

TEST(ExposeCli, DarkerCornersAreNotPutInTwiceInSilence) {
  const TempFolder folder;
  const auto [shot, cg] = testing::small_dusk(folder);
  ASSERT_EQ(run({"expose", shot, cg, "--fall-off", "add", "--apply", "-o", folder / "a.exr"}).code,
            0);
  const Ran again = run({"expose", shot, folder / "a.exr", "--fall-off", "add"});
  EXPECT_TRUE(holds(again.out, "twice")) << again.out;
  // It is remembered through other work, and forgotten when it was taken out.
  ASSERT_EQ(
      run({"expose", shot, folder / "a.exr", "--stops", "1", "--apply", "-o", folder / "b.exr"})
          .code,
      0);
  EXPECT_TRUE(holds(run({"expose", shot, folder / "b.exr", "--fall-off", "add"}).out, "twice"));
  ASSERT_EQ(run({"expose", shot, folder / "b.exr", "--fall-off", "remove", "--apply", "-o",
                 folder / "c.exr"})
                .code,
            0);
  EXPECT_FALSE(holds(run({"expose", shot, folder / "c.exr", "--fall-off", "add"}).out, "twice"));
}

}  // namespace comparison_cli_test
}  // namespace jolly_iris
