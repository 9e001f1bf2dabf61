#include "jolly_iris/files/usda.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <regex>
#include <sstream>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "jolly_iris/scene/deviation.hpp"
#include "jolly_iris/scene/frames.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace usda_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::TempFolder;

// An independent reader of the few things a camera's stage has, by the schema's own rules: lines
// "type name = value" and "type name.timeSamples = {" with "code: value," in between.
class PlainReader {
 public:
  explicit PlainReader(const std::string& text) {
    std::istringstream in(text);
    std::string sampled;
    for (std::string line; std::getline(in, line);) {
      std::smatch m;
      if (!sampled.empty()) {
        if (std::regex_match(line, m, std::regex(R"(\s*(\S+): (.*),)"))) {
          samples[sampled][std::stod(m[1])] = m[2];
          continue;
        }
        sampled.clear();
      }
      if (std::regex_match(line, m, std::regex(R"(\s*\S+ (\S+)\.timeSamples = \{)")))
        sampled = m[1];
      else if (std::regex_match(line, m, std::regex(R"(\s*(?:uniform )?(?:\S+ )?(\S+) = (.*))")))
        values[m[1]] = m[2];
    }
  }
  double number(const std::string& name) const { return std::stod(values.at(name)); }
  double number(const std::string& name, double code) const {
    const auto found = samples.find(name);
    return found == samples.end() ? number(name) : std::stod(found->second.at(code));
  }
  // Rows of a matrix4d, which acts on row vectors.
  static std::vector<double> matrix(const std::string& text) {
    std::vector<double> out;
    const std::regex number(R"([-+0-9.e]+)");
    for (std::sregex_iterator i(text.begin(), text.end(), number), end; i != end; ++i) {
      out.push_back(std::stod(i->str()));
    }
    return out;
  }
  std::map<std::string, std::string> values;
  std::map<std::string, std::map<double, std::string>> samples;
};

std::vector<Answer> drift(double step) {
  LoadedShot l = load_shot(demo("drift.shot.toml"));
  return answers_at(l.shot, &*l.scene, frames_of(*l.shot.frames, step));
}

TEST(Usda, AnIndependentReaderFindsTheSameCamera) {
  const auto frames = drift(16);
  const std::string text = camera_usda(frames, "taking camera", 24.0);
  EXPECT_TRUE(text.starts_with("#usda 1.0\n"));
  EXPECT_TRUE(holds(text, "def Camera \"taking_camera\""));
  const PlainReader stage(text);
  const double unit_m = stage.number("metersPerUnit");
  EXPECT_DOUBLE_EQ(unit_m, 0.01);
  EXPECT_EQ(stage.values.at("upAxis"), "\"Y\"");
  EXPECT_DOUBLE_EQ(stage.number("timeCodesPerSecond"), 24.0);
  for (const Answer& a : frames) {
    const double code = *a.frame;
    const VirtualCamera& c = a.camera;
    // Focal length and apertures are tenths of a scene unit.
    const double tenth_mm = unit_m * 1000.0 / 10.0;
    const double focal = stage.number("focalLength", code) * tenth_mm;
    const double width = stage.number("horizontalAperture", code) * tenth_mm;
    EXPECT_NEAR(2 * std::atan(width / (2 * focal)), c.horizontal_picture_view().radians(), 1e-8);
    // The schema's opening: focalLength / fStop.
    EXPECT_NEAR(focal / stage.number("fStop", code), 2.0 * c.aperture_radius.mm(), 1e-6);
    EXPECT_NEAR(stage.number("focusDistance", code) * unit_m / c.focus.m(), 1.0, 1e-8);
    const auto m = PlainReader::matrix(stage.samples.at("xformOp:transform").at(code));
    ASSERT_EQ(m.size(), 16U);
    for (std::size_t i = 0; i < 3; ++i) {
      EXPECT_NEAR(m[12 + i] * unit_m, a.place.translation[i], 1e-7);
      // A camera looks along −z of its own: the third row, in world space.
      EXPECT_NEAR(m[8 + i], a.place.linear(i, 2), 1e-7);
    }
  }
}

TEST(Usda, HasTheExposureWhereLightsAreInAUnit) {
  const TempFolder folder;
  LoadSettings settings;
  settings.tried = {{"scene.light", "cd/m2"}};
  LoadedShot l = load_shot(demo("drift.shot.toml"), settings);
  const auto frames = answers_at(l.shot, &*l.scene, frames_of(*l.shot.frames, 48));
  const PlainReader stage(camera_usda(frames, "c", 24.0));
  for (const Answer& a : frames) {
    // Its stop closes, so its exposure falls; the shutter stays.
    EXPECT_NEAR(std::exp2(stage.number("exposure", *a.frame)), 0.18 / (0.125 * std::exp2(*a.ev100)),
                1e-6);
    EXPECT_NEAR(stage.number("shutter:close", *a.frame), 0.24, 1e-9);
  }
  EXPECT_EQ(PlainReader(camera_usda(drift(48), "c", 24.0)).values.count("exposure"), 0U);
}

TEST(Usda, GoesThereAndBack) {
  const TempFolder folder;
  const auto frames = drift(1);
  const auto path = folder.write("c.usda", camera_usda(frames, "c", 24.0));
  LoadedShot l = load_shot(demo("drift.shot.toml"));
  for (const double frame : {1001.0, 1040.0, 1097.0}) {
    const Answer a = answer_at(l.shot, &*l.scene, frame);
    Scene scene = read_usda(path, frame);
    pose_at_frame(scene, l.shot, frame);
    const PlacedCamera found = camera_in(scene, std::nullopt, a.camera.picture);
    for (const Deviation& d : deviations(found, shot_at(l.shot, frame), a)) {
      ADD_FAILURE() << "frame " << frame << ": " << d.message;
    }
  }
}

constexpr const char* rig = R"(#usda 1.0
(
    doc = "a rig, in centimetres, z up"
    metersPerUnit = 0.01
    upAxis = "Z"
)
def Xform "rig" (
    kind = "group"
)
{
    double3 xformOp:translate = (0, 0, 150)
    float3 xformOp:rotateXYZ.timeSamples = {
        0: (90, 0, 0),
        24: (90, 0, 90),
    }
    uniform token[] xformOpOrder = ["xformOp:translate", "xformOp:rotateXYZ"]
    custom string note = "it's \"quoted\"" # with a comment
    variantSet "look" = { "a" { } }

    def Camera "view"
    {
        float focalLength = 35
        float horizontalAperture = 24
        float verticalAperture = 16
        float verticalApertureOffset = 2
        float fStop = 2.8
        float focusDistance.timeSamples = { 0: 200, 24: 400 }
    }
}
)";

TEST(Usda, ReadsARigWithAnotherUpAndAnimatedOps) {
  const TempFolder folder;
  const auto path = folder.write("rig.usda", rig);
  Scene scene = read_usda(path, 12.0);
  EXPECT_DOUBLE_EQ(*scene.cameras.at(0).focus_m, 3.0);
  EXPECT_DOUBLE_EQ(*scene.cameras.at(0).gate_width_mm, 24.0);
  EXPECT_DOUBLE_EQ(*scene.cameras.at(0).shift_up_mm, 2.0);
  EXPECT_NEAR(scene.cameras.at(0).yfov, 2.0 * std::atan(8.0 / 35.0), 1e-12);
  // z up, turned by 90° about x: it stands 1.5 m up and looks along +y of the stage, our −z.
  const Pose start = camera_place(scene, "view");
  EXPECT_TRUE(nearly_equal(start.translation, Vec3(0, 1.5, 0), 1e-9));
  EXPECT_TRUE(nearly_equal(-start.linear.column(2), -Vec3::unit_z(), 1e-9));
  // A second later it has turned a quarter to the left; half-way there, an eighth.
  pose(scene, 0.5);
  const Vec3 half = -camera_place(scene, "view").linear.column(2);
  EXPECT_TRUE(nearly_equal(half, Vec3(-std::sqrt(0.5), 0, -std::sqrt(0.5)), 1e-6));
}

struct BrokenStage {
  const char* name;
  const char* was;
  const char* is;
  const char* part;
};
std::ostream& operator<<(std::ostream& out, const BrokenStage& w) { return out << w.name; }
class BrokenStages : public ::testing::TestWithParam<BrokenStage> {};
TEST_P(BrokenStages, AreRefusedWithALine) {
  std::string text = rig;
  const auto at = text.find(GetParam().was);
  ASSERT_NE(at, std::string::npos);
  text.replace(at, std::string(GetParam().was).size(), GetParam().is);
  const TempFolder folder;
  const auto path = folder.write("rig.usda", text);
  EXPECT_TRUE(holds(message_of<FileError>([&] { (void)read_usda(path); }), "rig.usda:"));
  EXPECT_TRUE(holds(message_of<FileError>([&] { (void)read_usda(path); }), GetParam().part));
}
INSTANTIATE_TEST_SUITE_P(
    All, BrokenStages,
    ::testing::Values(
        BrokenStage{"no_header", "#usda 1.0", "PXR-USDC", "does not begin with"},
        BrokenStage{"cut_off", "def Camera \"view\"", "def Camera \"vi", "ends in the middle"},
        BrokenStage{"no_type", "float fStop = 2.8", "fStop = 2.8", "its type is missing"},
        BrokenStage{"two_numbers", "(0, 0, 150)", "(0, 0)", "has 2 numbers; it needs 3"},
        BrokenStage{"not_finite", "float fStop = 2.8", "float fStop = inf", "not a number"},
        BrokenStage{"focal_zero", "focalLength = 35", "focalLength = 0", "not above zero"},
        BrokenStage{"unit_zero", "metersPerUnit = 0.01", "metersPerUnit = 0", "above zero"},
        BrokenStage{"inverted", "[\"xformOp:translate\"", "[\"!invert!xformOp:translate\"",
                    "not supported"},
        BrokenStage{"missing_op", "[\"xformOp:translate\"", "[\"xformOp:translat\"",
                    "which is not there"},
        BrokenStage{"no_brace", "def Xform \"rig\"", "def Xform rig", "no name in quotes"}),
    [](const auto& each) { return each.param.name; });

}  // namespace usda_test
}  // namespace jolly_iris
