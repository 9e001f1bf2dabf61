// Shot files: what they say of exposure, white and fall-off, and curves as tables.
#include <gtest/gtest.h>

#include <filesystem>
#include <ostream>

#include "jolly_iris/files/curve_file.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace exposure_file_test {

using testing::holds;
using testing::message_of;
using testing::TempFolder;

std::string with(const std::string& more) { return std::string(testing::plain_shot) + more; }

TEST(ExposureKeys, AreAllRead) {
  const TempFolder folder;
  folder.write("log.csv", "number,light\n0.1,0\n0.5,0.18\n0.9,4\n");
  const std::string file = folder.write("a.shot.toml", R"(
[body]
gate   = "24 x 13.5 mm"
pixels = "1920 x 1080"
anchor = "saturation"
[lens]
focal = "50 mm"
[[lens.barrel]]
radius = "21 mm"
ahead  = "40 mm"
[[lens.barrel]]
radius = "18 mm"
ahead  = "-30 mm"
[[lens.loss]]
height = "6 mm"
stops  = 0.2
[[lens.loss]]
height = "12 mm"
stops  = 0.9
[take]
stop  = "T2.1"
mark  = "3 m"
nd    = "0.6 density + 1 stop"
ev    = 9.5
white = "4300 K"
tint  = 0.003
[scene]
light = "cd/m2"
[plate]
file      = "plate.dpx"
transfer  = "log.csv"
primaries = "ACEScg"
)");
  const LoadedShot loaded = load_shot(file);
  const Shot& shot = loaded.now;
  EXPECT_EQ(shot.body.anchor, Anchor::saturation);
  ASSERT_EQ(shot.lens.vignetting.size(), 2U);
  EXPECT_DOUBLE_EQ(shot.lens.vignetting[1].ahead.mm(), -30.0);
  ASSERT_EQ(shot.lens.loss.size(), 2U);
  EXPECT_DOUBLE_EQ(shot.lens.loss[1].stops, 0.9);
  EXPECT_NEAR(shot.take.nd_stops, 3.0, 1e-12);
  EXPECT_EQ(shot.take.ev, 9.5);
  EXPECT_DOUBLE_EQ(shot.take.white->temperature.kelvin(), 4300.0);
  EXPECT_DOUBLE_EQ(shot.take.white->tint, 0.003);
  EXPECT_EQ(shot.light, SceneLight::candela);
  EXPECT_EQ(shot.primaries, Primaries::acescg);
  EXPECT_EQ(shot.plate->transfer, Transfer::table);
  ASSERT_EQ(shot.plate->curve.rows.size(), 3U);
  EXPECT_DOUBLE_EQ(shot.plate->curve.rows[1][1], 0.18);
  const Answer& a = loaded.answer;
  EXPECT_EQ(a.ev100, 9.5);
  EXPECT_NEAR(*a.value_per_candela, lens_q(true) / (0.78 * std::exp2(9.5)), 1e-15);
  EXPECT_GT(a.corner.stops, 0.9);
  EXPECT_TRUE(a.corner.beyond_table);
}

TEST(ExposureKeys, ABodysTransferHoldsForItsPlates) {
  const TempFolder folder;
  std::filesystem::create_directories(folder.path() / "show");
  folder.write("show/log.csv", "number,light\n0.1,0\n0.5,0.18\n");
  folder.write("show/fern.body.toml",
               "gate = \"24 x 13.5 mm\"\npixels = \"1920 x 1080\"\ntransfer = \"log.csv\"\n");
  const std::string rest =
      "body = \"show/fern.body.toml\"\n[lens]\nfocal = \"50 mm\"\n[take]\nstop = \"f/2\"\nmark = "
      "\"3 m\"\n[plate]\nfile = \"p.dpx\"\n";
  const Shot by_body = load_shot(folder.write("a.shot.toml", rest)).now;
  EXPECT_EQ(by_body.plate->transfer, Transfer::table);
  EXPECT_EQ(by_body.plate->curve.rows.size(), 2U) << "found beside the body's file";
  const Shot by_plate =
      load_shot(folder.write("b.shot.toml", rest + "transfer = \"ACEScct\"\n")).now;
  EXPECT_EQ(by_plate.plate->transfer, Transfer::acescct);
  EXPECT_TRUE(by_plate.plate->curve.rows.empty());
  std::filesystem::remove(folder.path() / "show" / "log.csv");
  EXPECT_TRUE(
      holds(message_of<FileError>([&] { (void)load_shot(folder.write("c.shot.toml", rest)); }),
            "fern.body.toml:3:"));
}

TEST(ExposureKeys, CanChangeOverFrames) {
  const TempFolder folder;
  const LoadedShot loaded = load_shot(folder.write("a.shot.toml", with(R"(
[over.take.ev]
1 = 8
11 = 10
ease = "linear"
[over.take.white]
1 = "3200 K"
11 = "5600 K"
ease = "linear"
)")));
  const Shot middle = shot_at(loaded.shot, 6);
  EXPECT_NEAR(*middle.take.ev, 9.0, 1e-9);
  // Even steps of mired.
  EXPECT_NEAR(1e6 / middle.take.white->temperature.kelvin(), 0.5 * (1e6 / 3200 + 1e6 / 5600), 1e-6);
}

struct Wrong {
  const char* name;
  const char* text;
  const char* says;
};
void PrintTo(const Wrong& w, std::ostream* out) { *out << w.name; }

class WrongExposureKeys : public ::testing::TestWithParam<Wrong> {};

TEST_P(WrongExposureKeys, AreToldWithPlaceAndWhatWouldBeRight) {
  const TempFolder folder;
  const std::string file = folder.write("a.shot.toml", with(GetParam().text));
  std::string message;
  try {
    (void)load_shot(file);
    ADD_FAILURE() << "nothing was thrown";
  } catch (const Error& e) {
    message = e.what();
  }
  EXPECT_TRUE(holds(message, "a.shot.toml:"));
  EXPECT_TRUE(holds(message, GetParam().says));
}

INSTANTIATE_TEST_SUITE_P(
    All, WrongExposureKeys,
    ::testing::Values(
        Wrong{"iso", "[variant.x.take]\niso = 0\n[over.take.iso]\n1 = 0\n", "is not above zero"},
        Wrong{"ev", "[over.take.ev]\n1 = \"bright\"\n", "'bright' is not an exposure value"},
        Wrong{"light", "[scene]\nlight = \"nits\"\n", "cd/m2"},
        Wrong{"primaries", "[plate]\nfile = \"p.exr\"\nprimaries = \"sRGB\"\n", "Rec.709"},
        Wrong{"transfer", "[plate]\nfile = \"p.exr\"\ntransfer = \"log\"\n", "ACEScct"},
        Wrong{"no_curve", "[plate]\nfile = \"p.exr\"\ntransfer = \"none.csv\"\n",
              "plate.transfer: "},
        Wrong{"barrel", "[[lens.barrel]]\nradius = \"0 mm\"\nahead = \"3 mm\"\n", "above zero"},
        Wrong{"no_ahead", "[[lens.barrel]]\nradius = \"9 mm\"\n", "lens.barrel[0].ahead"},
        Wrong{"narrow", "[[lens.barrel]]\nradius = \"1 mm\"\nahead = \"3 mm\"\n",
              "in the picture's middle"},
        Wrong{"loss", "[[lens.loss]]\nheight = \"9 mm\"\nstops = -1\n", "a loss of 0 to 20 stops"},
        Wrong{"order",
              "[[lens.loss]]\nheight = \"9 mm\"\nstops = 1\n[[lens.loss]]\nheight = \"8 "
              "mm\"\nstops = 2\n",
              "heights rise"}),
    [](const auto& each) { return std::string(each.param.name); });

TEST(WrongTake, IsToldInOneGo) {
  const TempFolder folder;
  std::string text = testing::plain_shot;
  const auto at = text.find("[take]");
  ASSERT_NE(at, std::string::npos);
  text.insert(at + 6, "\nnd = \"-1 stop\"\nev = \"9\"\nwhite = \"900 K\"\ntint = 0.2\n");
  const std::string message =
      message_of<ShotFileError>([&] { (void)read_shot(folder.write("a.shot.toml", text)); });
  for (const char* part : {"take.nd", "several with a +", "take.ev", "write e.g. 9.5",
                           "whites go from 1000 K to 25000 K", "a tint within ±0.05"}) {
    EXPECT_TRUE(holds(message, part));
  }
}

TEST(Curves, AreReadOrRefusedWithTheirLine) {
  const TempFolder folder;
  const auto says = [&](const std::string& text) {
    return message_of<FileError>([&] { (void)read_curve(folder.write("c.csv", text)); });
  };
  const Curve good = read_curve(
      folder.write("good.csv", "# of a made-up body\nlight, number\n0, 0.1\n\n0.18,0.4\n"));
  EXPECT_DOUBLE_EQ(good.rows[1][0], 0.4);
  EXPECT_TRUE(holds(says("number,lights\n"), "c.csv:1: 'lights' is not a column"));
  EXPECT_TRUE(holds(says("number\n"), "needs the columns number and light"));
  EXPECT_TRUE(holds(says("number,light\n0.1,0\n0.2,x\n"), "c.csv:3: 'x'"));
  EXPECT_TRUE(holds(says("number,light\n0.1,0\n0.1,1\n"), "does not rise"));
  EXPECT_TRUE(holds(says("number,light\n0.1,0\n"), "fewer than two rows"));
  EXPECT_TRUE(holds(says("number,light\n0.1,0,4\n"), "3 values for 2 columns"));
}

}  // namespace exposure_file_test
}  // namespace jolly_iris
