// Shot files: the lens's distortion, a level camera, what was drawn on the plate; and how each part
// is refused.
#include <gtest/gtest.h>

#include <cmath>
#include <ostream>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace shot_marks_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::TempFolder;

Shot read(const std::string& more) {
  const TempFolder folder;
  return read_shot(folder.write("a.shot.toml", std::string(testing::plain_shot) + more));
}

Answer answered(const std::string& more) {
  const TempFolder folder;
  return load_shot(folder.write("a.shot.toml", std::string(testing::plain_shot) + more)).answer;
}

bool noted(const Answer& a, const std::string& part) {
  for (const std::string& note : a.notes) {
    if (note.find(part) != std::string::npos) return true;
  }
  return false;
}

TEST(ShotMarks, EveryKindIsRead) {
  const Shot shot = read(R"(
[[plate.line]]
name   = "mast"
runs   = "vertical"
points = [[10, 20.5], [12, 900]]
[[plate.line]]
points = [[10, 20], [400, 22], [900, 21]]
[[plate.circle]]
points = [[10, 20], [40, 22], [30, 61]]
[[plate.lamp]]
at       = [800, 300]
diameter = 42.5
[[plate.lamp]]
at = [810, 320]
[[plate.grey]]
box = [100, 200, 60, 40]
[[plate.box]]
name = "sail"
box  = [0, 0, 1920, 1080]
)");
  ASSERT_TRUE(shot.plate);
  EXPECT_TRUE(shot.plate->file.empty());
  const PlateMarks& m = shot.plate->marks;
  ASSERT_EQ(m.lines.size(), 2U);
  EXPECT_EQ(m.lines[0].runs, Runs::vertical);
  EXPECT_EQ(m.lines[0].name, "mast");
  EXPECT_EQ(m.lines[0].points[0], (std::array{10.0, 20.5}));
  EXPECT_EQ(m.lines[1].runs, Runs::anyhow);
  EXPECT_EQ(m.lines[1].points.size(), 3U);
  EXPECT_EQ(m.circles.at(0).points.size(), 3U);
  EXPECT_EQ(m.lamps.at(0).diameter, 42.5);
  EXPECT_FALSE(m.lamps.at(1).diameter);
  ASSERT_EQ(m.boxes.size(), 2U);
  EXPECT_EQ(m.boxes[0].kind, DrawnBox::Kind::grey);
  EXPECT_EQ(m.boxes[1].name, "sail");
}

TEST(ShotDistortion, ReachesTheCameraAndTheReport) {
  const Answer a = answered("[lens.distortion]\nk1 = 0.04\np2 = 0.001\n");
  EXPECT_EQ(a.camera.distortion.k[0], 0.04);
  // Half the diagonal of the gate, unless the file says otherwise.
  EXPECT_NEAR(a.camera.distortion.radius->mm(), std::hypot(19.1, 10.7) / 2.0, 1e-9);
  EXPECT_TRUE(noted(a, "Distortion, which the CG camera has not: barrel, 4."));
  EXPECT_TRUE(noted(a, "stands level: no perspective makes verticals lean"));
  const Answer other = answered("[lens.distortion]\nk1 = 0.04\nradius = \"20 mm\"\n");
  EXPECT_NEAR(other.camera.distortion.radius->mm(), 20.0, 1e-12);
  EXPECT_FALSE(noted(answered(""), "istortion")) << "nothing is said where nothing bends";
}

TEST(ShotDistortion, PerspectiveIsSaidToBeNoDistortion) {
  const TempFolder folder;
  const Answer a = load_shot(demo("quay.shot.toml")).answer;
  EXPECT_TRUE(noted(a,
                    "No distortion is given; perspective, which the CG camera has too: it looks "
                    "13.0 deg up"));
}

TEST(ShotDistortion, APlacePointedAtInThePlateIsStraightenedFirst) {
  const std::string subject = "[[subject]]\nname = \"bell\"\nradial = \"5 m\"\npixel = [60, 60]\n";
  const double straight = answered(subject).subjects.at(0).axial.m();
  const double bent = answered(subject + "[lens.distortion]\nk1 = 0.06\n").subjects.at(0).axial.m();
  // Barrel drew the place in: in truth it is farther from the axis, so nearer along it.
  EXPECT_LT(bent, straight - 0.002);
}

TEST(ShotLevel, TakesTiltAndRollOutOfTheCamera) {
  const auto stand = [](bool level) {
    std::vector<Override> tried;
    if (level) tried.push_back({"scene.level", "true"});
    return load_shot(demo("quay.shot.toml"), {.tried = tried}).answer.place;
  };
  EXPECT_NEAR(lean_of(stand(false)).tilt.degrees(), 13.0, 1e-9);
  EXPECT_NEAR(lean_of(stand(true)).tilt.degrees(), 0.0, 1e-9);
  EXPECT_TRUE(nearly_equal(stand(true).translation, stand(false).translation, 1e-12));
  // It looks to the same side.
  const Vec3 a = -stand(false).linear.column(2);
  const Vec3 b = -stand(true).linear.column(2);
  EXPECT_NEAR(std::atan2(a.x, a.z), std::atan2(b.x, b.z), 1e-12);
}

struct Wrong {
  const char* name;
  const char* toml;
  const char* says;
};
void PrintTo(const Wrong& wrong, std::ostream* out) { *out << wrong.name; }

class WrongMarks : public ::testing::TestWithParam<Wrong> {};

TEST_P(WrongMarks, AreToldWithPlaceValueAndWhatWouldBeRight) {
  const std::string message = message_of<ShotFileError>([] { (void)read(GetParam().toml); });
  EXPECT_TRUE(holds(message, GetParam().says));
  EXPECT_TRUE(holds(message, "a.shot.toml:1")) << "line ten or later";
}

INSTANTIATE_TEST_SUITE_P(
    All, WrongMarks,
    ::testing::Values(
        Wrong{"k_text", "[lens.distortion]\nk1 = \"much\"\n", "'much' is not a coefficient"},
        Wrong{"k_huge", "[lens.distortion]\nk2 = 1e6\n", "within ±100"},
        Wrong{"p_huge", "[lens.distortion]\np1 = 2\n", "a decentring within ±1"},
        Wrong{"wide_long", "[lens.distortion]\nwide = [1, 2, 3, 4]\n", "one to three coefficients"},
        Wrong{"wide_text", "[lens.distortion]\nwide = [\"a\"]\n", "one to three coefficients"},
        Wrong{"radius_zero", "[lens.distortion]\nk1 = 0.1\nradius = \"0 mm\"\n", "not above zero"},
        Wrong{"radius_alone", "[lens.distortion]\nradius = \"14 mm\"\n", "no coefficient"},
        Wrong{"k_misspelt", "[lens.distortion]\nk4 = 0.1\n", "Did you mean 'lens.distortion.k"},
        Wrong{"level_text", "[scene]\nfile = \"a.gltf\"\nlevel = \"yes\"\n",
              "'yes' is neither true nor false"},
        Wrong{"level_alone", "[scene]\nlevel = true\n", "scene.file (or scene.track) is missing"},
        Wrong{"line_nowhere", "[[plate.line]]\nruns = \"level\"\n", "points = [[x, y], [x, y]]"},
        Wrong{"line_one_point", "[[plate.line]]\npoints = [[1, 2]]\n", "2 or more places"},
        Wrong{"line_flat_list", "[[plate.line]]\npoints = [1, 2, 3, 4]\n", "2 or more places"},
        Wrong{"line_uneven", "[[plate.line]]\npoints = [[1, 2], [3, 4, 5]]\n", "2 or more places"},
        Wrong{"line_text", "[[plate.line]]\npoints = [[1, 2], [3, \"x\"]]\n", "2 or more places"},
        Wrong{"line_nan", "[[plate.line]]\npoints = [[1, 2], [3, nan]]\n", "2 or more places"},
        Wrong{"line_outside", "[[plate.line]]\npoints = [[1, 2], [1930, 5]]\n",
              "[1930, 5] is outside the picture of 1920 x 1080 px"},
        Wrong{"line_twice", "[[plate.line]]\npoints = [[1, 2], [1, 2]]\n",
              "the place [1, 2] twice"},
        Wrong{"line_runs", "[[plate.line]]\nruns = \"up\"\npoints = [[1, 2], [3, 4]]\n",
              "'up' is not one of: vertical, level, across, anyhow"},
        Wrong{"line_key", "[[plate.line]]\npoints = [[1, 2], [3, 4]]\npionts = 3\n",
              "Did you mean 'plate.line.points'?"},
        Wrong{"circle_two", "[[plate.circle]]\npoints = [[1, 2], [3, 4]]\n", "3 or more places"},
        Wrong{"lamp_nowhere", "[[plate.lamp]]\ndiameter = 4\n", "at = [x, y]"},
        Wrong{"lamp_size", "[[plate.lamp]]\nat = [1, 2]\ndiameter = 0\n", "a diameter in pixels"},
        Wrong{"lamp_outside", "[[plate.lamp]]\nat = [-1, 2]\n", "[-1, 2] is outside"},
        Wrong{"grey_flat", "[[plate.grey]]\nbox = [1, 2, 0, 5]\n", "is 0 x 5 pixels"},
        Wrong{"grey_three", "[[plate.grey]]\nbox = [1, 2, 3]\n",
              "write [left, top, width, height]"},
        Wrong{"box_outside", "[[plate.box]]\nbox = [1900, 2, 30, 5]\n", "[1930, 7] is outside"},
        Wrong{"box_nowhere", "[[plate.box]]\nname = \"a\"\n", "box = [left, top, width, height]"}),
    [](const auto& each) { return std::string(each.param.name); });

TEST(ShotDistortion, ALensThatFoldsThePictureIsRefusedWithItsLine) {
  const std::string message =
      message_of<OpticsError>([] { (void)answered("[lens.distortion]\nk1 = -0.6\n"); });
  EXPECT_TRUE(holds(message, "a.shot.toml:14:6: lens.distortion: "));
  EXPECT_TRUE(holds(message, "folds the picture onto itself"));
}

TEST(ShotLevel, ACameraThatLooksStraightUpHasNoLevelSide) {
  const TempFolder folder;
  folder.write("up.csv", "frame,x,y,z,pan,tilt,roll\n1,0,0,0,0,85,0\n");
  const std::string shot =
      folder.write("a.shot.toml", std::string(testing::plain_shot) +
                                      "[scene]\ntrack = \"up.csv\"\nlevel = true\n");
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)load_shot(shot); }),
                    "scene.level: this camera looks within 10 deg"));
}

}  // namespace shot_marks_test
}  // namespace jolly_iris
