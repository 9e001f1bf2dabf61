// measure, from the command line, on plates whose discs the lens tube cuts: one rim is told within
// its margins, and of two none.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "cli_support.hpp"
#include "plates/camera_file.hpp"
#include "plates/drawn.hpp"

namespace jolly_iris {
namespace rims_cli_test {

using testing::holds;
using testing::Ran;
using testing::run;
using testing::TempFolder;
using Json = nlohmann::json;

constexpr std::uint32_t plates_drawn = testing::sanitized ? 1 : 2;

// Lamps of 24 to 40 px over the frame behind the focus, seen through rims.
std::string shot_with_rims(const TempFolder& folder, const std::vector<plates::BarrelRim>& rims,
                           std::uint32_t seed) {
  plates::PlateDrawing d;
  d.opening = {7, 0.3, 10.0};
  d.rims = rims;
  d.texture = seed;
  d.ground = 0.03;
  std::mt19937 random(seed);
  const auto uniform = [&](double low, double high) {
    return low + (high - low) * (static_cast<double>(random()) / 4294967296.0);
  };
  for (int row = 0; row < 5; ++row) {
    for (int column = 0; column < 9; ++column) {
      plates::Lamp lamp;
      lamp.at = {60.0 + 105.0 * column + uniform(-20.0, 20.0),
                 58.0 + 106.0 * row + uniform(-20.0, 20.0)};
      lamp.height_px = uniform(24.0, 40.0);
      const double level = uniform(0.3, 0.7);
      lamp.value = {level, 0.8 * level, 0.6 * level};
      d.lamps.push_back(lamp);
    }
  }
  plates::CameraFile file;
  file.quality = 95;
  file.seed = seed;
  plates::record(plates::drawn(d), file, folder / "plate.jpg");
  return folder.write("a.shot.toml",
                      "[body]\ngate = \"25.9 x 14.6 mm\"\npixels = \"960 x 540\"\n[lens]\nfocal = "
                      "\"85 mm\"\n[take]\nstop = \"f/1.8\"\n[focus]\nat = \"2 m\"\n[plate]\nfile = "
                      "\"plate.jpg\"\n");
}

TEST(RimsCli, OneIsToldWithinItsMargins) {
  for (std::uint32_t seed = 1; seed <= plates_drawn; ++seed) {
    const TempFolder folder;
    const plates::BarrelRim rim{1.25, 1.1 / 550.0};
    const std::string shot = shot_with_rims(folder, {rim}, seed);
    const Json j = Json::parse(run({"measure", shot, "--discs", "--json"}).out);
    ASSERT_TRUE(j.contains("barrel") && j["barrel"].contains("radius")) << seed << j.dump(1);
    const Json& b = j["barrel"];
    EXPECT_NEAR(b["radius"]["value"].get<double>(), rim.radius,
                1.3 * b["radius"]["margin"].get<double>());
    EXPECT_NEAR(b["shift"]["value"].get<double>(), rim.shift_a_px,
                1.3 * b["shift"]["margin"].get<double>());
  }
}

TEST(RimsCli, TwoAreNotToldAsOneThatDoesNotExist) {
  for (std::uint32_t seed = 1; seed <= plates_drawn; ++seed) {
    const TempFolder folder;
    const std::string shot =
        shot_with_rims(folder, {{1.30, 0.9 / 550.0}, {1.27, -0.75 / 550.0}}, seed);
    const Ran r = run({"measure", shot, "--discs"});
    EXPECT_TRUE(holds(r.out, "as no single rim does: cannot tell")) << r.out;
    EXPECT_FALSE(holds(r.out, "[[lens.barrel]]")) << r.out;
    EXPECT_FALSE(holds(r.out, "in front of the focus")) << r.out;  // all are behind it
    const Json j = Json::parse(run({"measure", shot, "--discs", "--json"}).out);
    EXPECT_FALSE(j["barrel"]["known"].get<bool>());
    EXPECT_FALSE(j["barrel"].contains("radius_mm"));
  }
}

}  // namespace rims_cli_test
}  // namespace jolly_iris
