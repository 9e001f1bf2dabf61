// Colour by an OpenColorIO config: demo/regatta/lake.ocio, whose curves are our own, so that what
// it should give is known in closed form.
#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <fstream>
#include <nlohmann/json.hpp>
#include <random>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris {
namespace colour_test {

using nlohmann::json;
using testing::demo;
using testing::holds;
using testing::run;
using testing::TempFolder;

ColourConfig lake(const std::string& working = {}) { return {demo("lake.ocio"), working, {}, {}}; }

// What it says, whichever of our exceptions it is.
template <class Work>
std::string told(const Work& work) {
  try {
    work();
  } catch (const Error& e) {
    return e.what();
  }
  return {};
}

// The curve of its "lake log", by hand.
double lake_light(double number) { return std::exp2((number - 0.5) / 0.0625) - 0.01; }

// Colours as plates have them: any grey, its channels within some stops of each other. (A float of
// light holds no channel finely that is a hundred thousandth of another's.)
Picture colours(PixelSize size) {
  std::mt19937 random(270001);
  std::uniform_real_distribution<float> grey(0.15F, 0.85F);
  std::uniform_real_distribution<float> beside(-0.12F, 0.12F);
  Picture p(size, {0, 0, 0, 1});
  for (Rgba& v : p.pixels()) {
    const float level = grey(random);
    v = {level + beside(random), level + beside(random), level + beside(random), 1.0F};
  }
  return p;
}

double most_apart(const Picture& a, const Picture& b) {
  double most = 0.0;
  for (std::size_t i = 0; i < a.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 4; ++c) {
      most = std::max(most, static_cast<double>(std::abs(a.pixels()[i][c] - b.pixels()[i][c])));
    }
  }
  return most;
}

TEST(Colour, ACameraCurveGivesLightByItsFormula) {
  Picture p(PixelSize{64, 1}, {0, 0, 0, 1});
  for (int x = 0; x < 64; ++x)
    p.at(x, 0)[0] = p.at(x, 0)[1] = p.at(x, 0)[2] = static_cast<float>(x) / 63.0F;
  // Its own primaries: then nothing mixes channels.
  to_light(p, {"lake log", lake("acescg")});
  for (int x = 0; x < 64; ++x) {
    const double light = lake_light(x / 63.0);
    for (std::size_t c = 0; c < 3; ++c) {
      EXPECT_NEAR(static_cast<double>(p.at(x, 0)[c]), light, 1e-5 * std::max(1.0, light)) << x;
    }
  }
}

TEST(Colour, GreyStaysGreyInOtherPrimariesAndColoursDoNot) {
  Picture p(PixelSize{2, 1}, {0.55F, 0.55F, 0.55F, 1});
  p.at(1, 0) = {0.6F, 0.5F, 0.4F, 1};
  Picture wide = p;
  to_light(p, {"lake log", lake()});
  to_light(wide, {"lake log", lake("wide linear")});  // an alias of acescg
  EXPECT_NEAR(static_cast<double>(p.at(0, 0)[0]), lake_light(0.55), 1e-4);
  EXPECT_NEAR(static_cast<double>(p.at(0, 0)[2]), lake_light(0.55), 1e-4);
  // A colour is stronger in the numbers of narrower primaries.
  EXPECT_GT(p.at(1, 0)[0], 1.1F * wide.at(1, 0)[0]);
}

TEST(Colour, NumbersComeBack) {
  for (const char* space : {"lake log", "lake monitor plain", "acescg"}) {
    for (const char* working : {"", "acescg"}) {
      const Picture numbers = colours({251, 67});
      Picture p = numbers;
      to_light(p, {space, lake(working)});
      from_light(p, {space, lake(working)});
      EXPECT_LE(most_apart(p, numbers), 1e-5) << space << " by " << working;
    }
  }
}

TEST(Colour, AWorkingSpacesPrimariesAreKnown) {
  EXPECT_EQ(working_primaries(lake()), Primaries::rec709);
  EXPECT_EQ(working_primaries(lake("acescg")), Primaries::acescg);
  EXPECT_EQ(working_primaries(lake("aces")), std::nullopt);
  EXPECT_TRUE(holds(told([] { (void)working_primaries(lake("lake log")); }), "is not linear"));
}

TEST(Colour, WhatAConfigHasNotIsToldWithTheNearest) {
  Picture p(PixelSize{1, 1}, {0, 0, 0, 1});
  EXPECT_TRUE(holds(told([&] { to_light(p, {"lake lgo", lake()}); }), "Did you mean 'lake log'?"));
  EXPECT_TRUE(holds(told([&] { to_light(p, {"raw", lake()}); }), "holds data"));
  EXPECT_TRUE(holds(told([&] {
                      (void)as_displayed(p, {demo("lake.ocio"), {}, "lake monitr", {}});
                    }),
                    "Did you mean 'lake monitor'?"));
  EXPECT_TRUE(holds(told([&] {
                      (void)as_displayed(p, {demo("lake.ocio"), {}, "lake monitor", "dsk"});
                    }),
                    "Did you mean 'dusk'?"));
  EXPECT_TRUE(holds(told([&] {
                      to_light(p, {"lake log", {"none.ocio", {}, {}, {}}});
                    }),
                    "none.ocio"));
  const TempFolder folder;
  std::ofstream(folder / "bad.ocio") << "colourspaces: [\n";
  EXPECT_TRUE(holds(told([&] {
                      to_light(p, {"lake log", {folder / "bad.ocio", {}, {}, {}}});
                    }),
                    "no OpenColorIO config"));
  ::unsetenv("OCIO");
  EXPECT_TRUE(holds(told([&] { to_light(p, {"lake log", {}}); }), "$OCIO"));
  ::setenv("OCIO", demo("lake.ocio").c_str(), 1);
  EXPECT_EQ(told([&] { to_light(p, {"lake log", {}}); }), "");
  ::unsetenv("OCIO");
}

TEST(Colour, AViewShowsWhatItsFormulaSays) {
  Picture p(PixelSize{3, 1}, {0.2F, 0.2F, 0.2F, 1});
  p.at(1, 0) = {0.5F, 0.1F, 0.02F, 1};
  p.at(2, 0) = {30.0F, 0.0F, -1.0F, 1};
  const Picture shown = as_displayed(p, {demo("lake.ocio"), {}, "lake monitor", "dusk"});
  const auto expected = [](double light, double slope) {
    return std::pow(std::pow(slope * light, 0.9), 1.0 / 2.2);
  };
  for (int x = 0; x < 2; ++x) {
    const std::array<double, 3> slopes{0.6, 0.7, 1.0};
    for (std::size_t c = 0; c < 3; ++c) {
      EXPECT_NEAR(static_cast<double>(encode(shown.at(x, 0)[c], Transfer::srgb)),
                  expected(static_cast<double>(p.at(x, 0)[c]), slopes[c]), 1e-4);
    }
  }
  EXPECT_FLOAT_EQ(shown.at(2, 0)[0], 1.0F);
  EXPECT_FLOAT_EQ(shown.at(2, 0)[2], 0.0F);
}

// ---- as an artist has it: in a shot
// --------------------------------------------------------------

std::string shot_with(const TempFolder& folder, const std::string& plate_lines) {
  const std::string name = folder / "lake.shot.toml";
  std::ofstream(name)
      << "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"64 x 36\"\n[lens]\nfocal = \"50 mm\"\n"
         "[take]\nstop = \"f/2\"\nmark = \"2 m\"\niso = 800\nshutter = \"1/50 s\"\n[plate]\n"
      << plate_lines;
  return name;
}

// A grey card in the camera's own numbers, of a file with 16 bits.
std::string card(const TempFolder& folder, double light) {
  const double number = 0.5 + 0.0625 * std::log2(light + 0.01);
  const auto shown = static_cast<float>(number);
  // What is written is encoded as sRGB: so that the file has these numbers.
  const float v = decode(shown, Transfer::srgb);
  write_picture(folder / "card.tif", {Picture(PixelSize{64, 36}, {v, v, v, 1}), {}});
  return folder / "card.tif";
}

TEST(Colour, APlateIsDecodedAsItsShotSays) {
  const TempFolder folder;
  (void)card(folder, 0.18);
  const std::string shot =
      shot_with(folder, "file = \"card.tif\"\ntransfer = \"ocio:lake log\"\nocio = \"" +
                            demo("lake.ocio") + "\"\nworking = \"acescg\"\n");
  const auto metered = run({"expose", shot, folder / "card.tif", "--json"});
  ASSERT_EQ(metered.code, 0) << metered.err;
  const json j = json::parse(metered.out);
  EXPECT_NEAR(j["metered"]["level"].get<double>(), 0.18, 2e-4);
  std::vector<std::string> files;
  const LoadedShot loaded = open_shot({.file = shot}, files);
  EXPECT_EQ(loaded.now.primaries, Primaries::acescg);
  EXPECT_NE(std::find(files.begin(), files.end(), demo("lake.ocio")), files.end());
  // Any other picture of this shot, too.
  const auto other =
      run({"expose", shot, folder / "card.tif", "--transfer", "ocio:lake monitor plain", "--json"});
  ASSERT_EQ(other.code, 0) << other.err;
  EXPECT_GT(std::abs(json::parse(other.out)["metered"]["level"].get<double>() - 0.18), 0.01);
}

TEST(Colour, MistakesInAShotAreToldWithTheirLine) {
  const TempFolder folder;
  const std::string plate = "file = \"card.tif\"\nocio = \"" + demo("lake.ocio") + "\"\n";
  (void)card(folder, 0.18);
  const auto said = [&](const std::string& lines) {
    const auto r = run({"expose", shot_with(folder, plate + lines), folder / "card.tif"});
    EXPECT_NE(r.code, 0) << r.out;
    return r.err;
  };
  const std::string space = said("transfer = \"ocio:lake lgo\"\n");
  EXPECT_TRUE(holds(space, "Did you mean 'lake log'?")) << space;
  EXPECT_TRUE(holds(space, "lake.shot.toml:14:12: plate.transfer: ")) << space;
  const std::string primaries = said("transfer = \"ocio:lake log\"\nprimaries = \"ACEScg\"\n");
  EXPECT_TRUE(holds(primaries, "lake.shot.toml:15")) << primaries;
  EXPECT_TRUE(holds(primaries, "leave the line out")) << primaries;
  EXPECT_TRUE(holds(said("working = \"lake log\"\n"), "is not linear"));
  EXPECT_TRUE(holds(said("view = \"dusk\"\n"), "plate.display"));
  EXPECT_TRUE(holds(said("transfer = \"ocio:\"\n"), "needs the name of a colour space"));
  // Told before any work, in its own line.
  const std::string display = said("display = \"lake monitr\"\n");
  EXPECT_TRUE(holds(display, "lake.shot.toml:14:11: plate.display: ")) << display;
  EXPECT_TRUE(holds(display, "Did you mean 'lake monitor'?")) << display;
  EXPECT_TRUE(holds(said("transfer = \"ocio\"\n"), "plate.transfer"));
}

TEST(Colour, PicturesForLookingAtAreAsTheDisplayShowsThem) {
  const TempFolder folder;
  const auto traced = [&](const std::string& name, const std::vector<std::string>& more) {
    std::vector<std::string> args{
        "trace", demo("hero.shot.toml"), "--half", "--box", "300,200,64,36", "--samples", "4",
        "-o",    folder / name};
    args.insert(args.end(), more.begin(), more.end());
    const auto r = run(args);
    EXPECT_EQ(r.code, 0) << r.err;
    const Frame read = read_picture(folder / name);
    return name.ends_with(".exr") ? crop(read, {300, 200, 64, 36}).colour : read.colour;
  };
  const std::vector<std::string> by{"--set", "plate.ocio=" + demo("lake.ocio"),
                                    "--set", "plate.display=lake monitor",
                                    "--set", "plate.view=dusk"};
  const Picture light = traced("light.exr", by);
  EXPECT_LE(most_apart(light, traced("plain.exr", {})), 0.0);  // an EXR keeps the light
  const Picture shown = traced("shown.png", by);
  const Picture expected = as_displayed(light, {demo("lake.ocio"), {}, "lake monitor", "dusk"});
  double most = 0.0;
  for (std::size_t i = 0; i < shown.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) {
      most = std::max(
          most, std::abs(static_cast<double>(encode(shown.pixels()[i][c], Transfer::srgb)) -
                         static_cast<double>(encode(expected.pixels()[i][c], Transfer::srgb))));
    }
  }
  EXPECT_LE(most, 1.5 / 255.0);  // half floats, then eight bits
  EXPECT_GT(most_apart(shown, traced("usual.png", {})), 0.05);
}

}  // namespace colour_test
}  // namespace jolly_iris
