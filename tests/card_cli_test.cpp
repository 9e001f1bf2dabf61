// Flat pictures with alpha, each at its own distance.
#include <gtest/gtest.h>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris {
namespace card_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::TempFolder;

// A square of one colour in the middle of nothing.
std::string square(const TempFolder& folder, const std::string& name, const Rgba& colour, int x) {
  Frame frame{Picture({160, 90}), {}, {}};
  for (int v = 25; v < 65; ++v) {
    for (int u = x; u < x + 40; ++u) frame.colour.at(u, v) = colour;
  }
  write_picture(folder / name, frame);
  return folder / name;
}

Picture defocused(const std::vector<std::string>& args, const std::string& out) {
  std::vector<std::string> all{"defocus", demo("hero.shot.toml")};
  all.insert(all.end(), args.begin(), args.end());
  all.insert(all.end(), {"-o", out});
  const Ran r = run(all);
  EXPECT_EQ(r.code, 0) << r.err;
  return read_picture(out).colour;
}

double apart(const Picture& a, const Picture& b) {
  double most = 0.0;
  for (std::size_t i = 0; i < a.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 4; ++c) {
      most = std::max(most, static_cast<double>(std::abs(a.pixels()[i][c] - b.pixels()[i][c])));
    }
  }
  return most;
}

TEST(Cards, OneIsWhatOneDistanceMakes) {
  const TempFolder folder;
  const std::string red = square(folder, "red.exr", {0.8F, 0.1F, 0.1F, 1.0F}, 60);
  const Picture card = defocused({"--card", red + "=5m"}, folder / "a.exr");
  const Picture flat = defocused({red, "--distance", "5m"}, folder / "b.exr");
  EXPECT_EQ(apart(card, flat), 0.0);
  // By a subject: the boat is in focus, so its card stays sharp.
  const Picture sharp = defocused({"--card", red + "=boat"}, folder / "c.exr");
  EXPECT_LT(apart(sharp, read_picture(red).colour), 0.02);
}

TEST(Cards, TheNearestLiesInFrontHoweverTheyAreNamed) {
  const TempFolder folder;
  const std::string red = square(folder, "red.exr", {0.8F, 0.0F, 0.0F, 1.0F}, 50);
  const std::string blue = square(folder, "blue.exr", {0.0F, 0.0F, 0.8F, 1.0F}, 70);
  const Picture a =
      defocused({"--card", red + "=boat", "--card", blue + "=second boat"}, folder / "a.exr");
  const Picture b =
      defocused({"--card", blue + "=second boat", "--card", red + "=boat"}, folder / "b.exr");
  EXPECT_EQ(apart(a, b), 0.0);
  EXPECT_GT(a.at(80, 45)[0], 0.75F);  // where both are, the red one at 2.35 m hides the blue
  EXPECT_LT(a.at(80, 45)[2], 0.02F);
  EXPECT_GT(a.at(100, 45)[2], 0.75F);
  // Many, and behind them a picture with depth.
  std::vector<std::string> args{folder / "back.exr"};
  Frame back{Picture({160, 90}, {0.0F, 0.5F, 0.0F, 1.0F}), std::vector<float>(160 * 90, 30.0F), {}};
  write_picture(args[0], back);
  for (int i = 0; i < 12; ++i) {
    args.insert(args.end(), {"--card", red + "=" + std::to_string(3 + i) + "m"});
  }
  const Picture all = defocused(args, folder / "all.exr");
  EXPECT_GT(all.at(5, 5)[1], 0.45F);
  EXPECT_GT(all.at(70, 45)[0], 0.7F);
}

TEST(Cards, SaysWhatIsWrong) {
  const TempFolder folder;
  const std::string red = square(folder, "red.exr", {0.8F, 0.0F, 0.0F, 1.0F}, 50);
  const auto err = [&](const std::vector<std::string>& args, int code) {
    std::vector<std::string> all{"defocus", demo("hero.shot.toml"), "-o", folder / "x.exr"};
    all.insert(all.end(), args.begin(), args.end());
    const Ran r = run(all);
    EXPECT_EQ(r.code, code) << r.out;
    EXPECT_FALSE(std::filesystem::exists(folder / "x.exr"));
    return r.err;
  };
  EXPECT_TRUE(holds(err({}, 2), "name the picture to defocus, or a card"));
  EXPECT_TRUE(holds(err({"--card", red}, 2), "FILE=NAME or FILE=DISTANCE"));
  EXPECT_TRUE(holds(err({"--card", red + "=swan"}, 2), "'swan' is neither a subject"));
  EXPECT_TRUE(holds(err({"--card", (folder / "none.exr") + "=boat"}, 3), "none.exr"));
  EXPECT_TRUE(holds(err({"--card", red + "=boat", "--distance", "3m"}, 2), "--card says itself"));
  // Something of the picture with depth stands before the card: said.
  Frame near{Picture({160, 90}, {0.0F, 0.5F, 0.0F, 1.0F}), std::vector<float>(160 * 90, 1.0F), {}};
  write_picture(folder / "near.exr", near);
  const Ran r = run({"defocus", demo("hero.shot.toml"), folder / "near.exr", "--card",
                     red + "=boat", "-o", folder / "y.exr"});
  EXPECT_EQ(r.code, 0);
  EXPECT_TRUE(holds(r.err, "lies over all of the picture with depth"));
}

}  // namespace card_cli_test
}  // namespace jolly_iris
