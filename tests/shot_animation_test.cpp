// Shot files: what the first half of the day needs beyond a plain shot, and how each part is
// refused.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace shot_animation_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::TempFolder;

// A shot whose sections can be added to.
struct Parts {
  std::string top{};
  std::string body{};
  std::string lens{};
  std::string take{};
  std::string rest{};
};

std::string text_of(const Parts& p) {
  return p.top + "[body]\ngate = \"24 x 16 mm\"\npixels = \"2400 x 1600\"\n" + p.body +
         "[lens]\nfocal = \"50 mm\"\n" + p.lens + "[take]\nstop = \"f/2\"\nmark = \"2 m\"\n" +
         p.take + p.rest;
}

Answer answer_to(const Parts& p, const std::vector<Override>& tried = {}) {
  const TempFolder folder;
  return load_shot(folder.write("a.shot.toml", text_of(p)), {.tried = tried}).answer;
}

bool noted(const Answer& a, const std::string& part) {
  for (const std::string& note : a.notes) {
    if (note.find(part) != std::string::npos) return true;
  }
  return false;
}

TEST(ShotParts, BodyAndLensReachTheCamera) {
  const Answer a = answer_to(
      {.body = "photosites = \"5850 x 3900\"\nwindow = \"2925 x 1950\"\nflange = \"44 mm\"\n",
       .lens = "zoom = \"19 to 53 mm\"\nconverter = 1.4\nclose_focus = \"3 m\"\npupil = \"90 mm\"\n"
               "shift_up = \"1 mm\"\n"});
  EXPECT_DOUBLE_EQ(a.camera.gate.width.mm(), 12.0);
  EXPECT_DOUBLE_EQ(a.camera.lens_focal.mm(), 70.0);
  EXPECT_DOUBLE_EQ(a.camera.shift_up.mm(), 1.0);
  EXPECT_TRUE(noted(a, "window reads 2925 x 1950"));
  EXPECT_TRUE(noted(a, "converter (1.4 x)"));
  EXPECT_TRUE(noted(a, "Warning: the barrel would have to stand at 2 m"));
  EXPECT_TRUE(noted(a, "90 mm in front of the sensor plane, 46 mm in front of the mount"));
  EXPECT_TRUE(noted(a, "1 mm up"));
}

TEST(ShotParts, MeasuredTablesAreRead) {
  const Answer a = answer_to({.rest = R"(
[[lens.breathing]]
mark = "1 m"
focal = "56 mm"
[[lens.breathing]]
mark = "infinity"
focal = "50 mm"
[[lens.squeezes]]
mark = "1 m"
squeeze = 1.2
[[lens.squeezes]]
mark = "10 m"
squeeze = 1.0
)"});
  EXPECT_NEAR(a.camera.focal.mm(), 53.0, 1e-9);  // mark 2 m: half a dioptre
  EXPECT_NEAR(a.camera.squeeze, 1.0 + 0.2 * (0.5 - 0.1) / 0.9, 1e-9);
  EXPECT_TRUE(noted(a, "desqueezed by the nominal 1 x"));
}

TEST(ShotParts, AListInTheShotReplacesTheOneInTheLensFile) {
  const TempFolder folder;
  folder.write("a.lens.toml",
               "focal = \"50 mm\"\n[[breathing]]\nmark = \"1 m\"\nfocal = \"60 mm\"\n"
               "[[breathing]]\nmark = \"2 m\"\nfocal = \"55 mm\"\n"
               "[[breathing]]\nmark = \"3 m\"\nfocal = \"53 mm\"\n");
  const std::string head =
      "[body]\ngate = \"24 x 16 mm\"\npixels = \"2400 x 1600\"\n[take]\nstop = \"f/2\"\n"
      "mark = \"2 m\"\n[lens]\nfile = \"a.lens.toml\"\n";
  const auto focal = [&](const std::string& more) {
    return load_shot(folder.write("a.shot.toml", head + more)).answer.camera.focal.mm();
  };
  EXPECT_NEAR(focal(""), 55.0, 1e-9);
  EXPECT_NEAR(focal("[[lens.breathing]]\nmark = \"1.5 m\"\nfocal = \"53 mm\"\n"
                    "[[lens.breathing]]\nmark = \"2 m\"\nfocal = \"57 mm\"\n"),
              57.0, 1e-9);
}

TEST(ShotParts, FiveKindsOfDistanceBecomeAxial) {
  const Answer a = answer_to({.lens = "pupil = \"80 mm\"\n",
                              .take = "height = \"1.5 m\"\ntilt = \"-30 deg\"\n",
                              .rest = R"(
[[subject]]
name = "axial"
at = "3 m"
[[subject]]
name = "radial"
radial = "4 m"
off_axis = "30 deg"
[[subject]]
name = "tape"
tape = "3 m"
[[subject]]
name = "mark"
mark = "3.2 m"
[[subject]]
name = "floor"
floor = "2 m"
height = "0 m"
)"});
  const auto axial = [&](const std::string& name) {
    for (const SubjectBlur& s : a.subjects) {
      if (s.name == name) return s.axial.m();
    }
    return 0.0;
  };
  EXPECT_NEAR(axial("axial"), 3.0, 1e-12);
  EXPECT_NEAR(axial("radial"), 3.4641, 5e-5);
  EXPECT_NEAR(axial("tape"), 2.92, 1e-12);
  EXPECT_NEAR(axial("mark"), 3.12, 1e-12);
  EXPECT_NEAR(axial("floor"), std::sqrt(3.0) + 0.75, 1e-12);
  // And each is told in the other ways.
  EXPECT_NEAR(a.subjects.at(0).mark->m() - a.subjects.at(0).axial.m(), 0.08, 1e-12);
}

TEST(ShotParts, FloorDistancesAreThoseOfThePlan) {
  const TempFolder folder;
  const Answer a = load_shot(folder.write("a.shot.toml",
                                          text_of({.take = "height = \"2 m\"\ntilt = \"-30 deg\"\n",
                                                   .rest = "[[subject]]\nname = \"a\"\n"
                                                           "place = [3, 0, -4]\n"})))
                       .answer;
  EXPECT_NEAR(a.subjects.at(0).floor->m(), 5.0, 1e-12);
}

TEST(ShotParts, ARadialDistanceAtAPixelSettlesWithTheFraming) {
  // 18 mm wide of 24: the pixel at the right edge, 12 mm off the axis.
  const Answer a = answer_to({.rest = "[focus]\nradial = \"1 m\"\npixel = [2400, 800]\n"});
  const double tangent = 12.0 / a.camera.focal.mm();
  EXPECT_NEAR(a.camera.focus.m(), 1.0 / std::sqrt(1.0 + tangent * tangent), 1e-12);
}

TEST(ShotParts, AnythingDeepHasAFrontAndABack) {
  const Answer a =
      answer_to({.rest = "[[subject]]\nname = \"fence\"\nat = \"2 m\"\ndeep = \"1 m\"\n"
                         "[focus]\non = \"fence\"\n"});
  const SubjectBlur& fence = a.subjects.at(0);
  EXPECT_DOUBLE_EQ(fence.front.m(), 1.5);
  EXPECT_DOUBLE_EQ(fence.back.m(), 2.5);
  EXPECT_LT(*fence.coc_front_px, 0.0);
  EXPECT_GT(fence.coc_back_px, 0.0);
  EXPECT_TRUE(fence.partly_sharp);
  EXPECT_DOUBLE_EQ(answer_to({.rest = "[[subject]]\nname = \"fence\"\nat = \"2 m\"\n"
                                      "deep = \"1 m\"\n[focus]\non = \"fence\"\n"
                                      "part = \"nearest\"\noffset = \"-10 cm\"\n"})
                       .camera.focus.m(),
                   1.4);
}

TEST(ShotParts, OddUnitsScaleWhatIsTypedIn) {
  const Answer a = answer_to({.top = "unit = \"0.353 mm\"\n"});
  EXPECT_NEAR(a.camera.focus / a.unit, a.camera.focus.mm() / 0.353, 1e-9);
}

TEST(ShotParts, AVariantIsLaidOver) {
  const Parts parts{.rest = R"(
[focus]
on = "boat"
[[subject]]
name = "boat"
at = "2 m"
[variant.night.take]
stop = "f/1.4"
[variant.night.focus]
at = "5 m"
[variant.far.subject.boat]
at = "9 m"
)"};
  EXPECT_DOUBLE_EQ(answer_to(parts).camera.focus.m(), 2.0);
  const Answer night = answer_to(parts, {{"variant", "night"}});
  EXPECT_DOUBLE_EQ(night.camera.focus.m(), 5.0);
  EXPECT_NEAR(night.camera.lens_f_number, 1.4, 1e-12);
  EXPECT_DOUBLE_EQ(answer_to(parts, {{"variant", "far"}}).camera.focus.m(), 9.0);
  // Stacked, the last one leads where both say something.
  const Answer both = answer_to(parts, {{"variant", "far,night"}});
  EXPECT_DOUBLE_EQ(both.camera.focus.m(), 5.0);
  EXPECT_NEAR(both.camera.lens_f_number, 1.4, 1e-12);
  EXPECT_DOUBLE_EQ(answer_to(parts, {{"variant", "night + far"}}).camera.focus.m(), 5.0);
  EXPECT_THROW((void)answer_to(parts, {{"variant", "night,"}}), UsageError);
  EXPECT_TRUE(holds(message_of<UsageError>([&] {
                      (void)answer_to(parts, {{"variant", "nigth"}});
                    }),
                    "night"));
  EXPECT_TRUE(holds(message_of<UsageError>([] { (void)answer_to({.top = "variant = \"x\"\n"}); }),
                    "no such variant"));
}

TEST(ShotParts, KeysAloneNeedNoPlainValue) {
  const TempFolder folder;
  const auto path = folder.write(
      "a.shot.toml",
      "[body]\ngate = \"24 x 16 mm\"\npixels = \"2400 x 1600\"\n[lens]\nfocal = \"50 mm\"\n"
      "[over.take.stop]\n10 = \"f/2\"\n20 = \"f/8\"\nease = \"linear\"\n"
      "[over.take.iso]\n10 = 100\n20 = 400\n"
      "[over.subject.boat.place]\n10 = [0, 0, -2]\n20 = [0, 0, -4]\nease = \"linear\"\n"
      "[[subject]]\nname = \"boat\"\n[focus]\non = \"boat\"\n");
  const Answer a = load_shot(path, {.frame = 15.0}).answer;
  EXPECT_NEAR(a.camera.lens_f_number, 4.0, 1e-12);
  EXPECT_NEAR(a.camera.focus.m(), 3.0, 1e-12);
  // A value that is tried holds at all frames.
  const Answer tried = load_shot(path, {.tried = {{"take.stop", "f/3"}}, .frame = 15.0}).answer;
  EXPECT_NEAR(tried.camera.lens_f_number, 3.0, 1e-12);
}

TEST(ShotParts, CheatsAreNamedAsSuch) {
  const Answer a = answer_to(
      {.rest =
           "[cheat]\nblur = 2\nsharp_from = \"1.5 m\"\nsharp_to = \"3 m\"\nat_most = \"20 px\"\n"});
  EXPECT_TRUE(noted(a, "CHEAT: all blur is 2 times"));
  EXPECT_TRUE(noted(a,
                    "CHEAT: 1.5 m to 3 m is wholly sharp; no disc is larger than 20.0 px; no "
                    "lens does this"));
  EXPECT_NEAR(a.infinity.coc_px, 20.0, 1e-9);
}

struct Wrong {
  const char* name;
  Parts parts;
  const char* part;  // of the message
};
std::ostream& operator<<(std::ostream& out, const Wrong& w) { return out << w.name; }
class WrongParts : public ::testing::TestWithParam<Wrong> {};
TEST_P(WrongParts, AreTold) {
  const auto message = message_of<Error>([] { (void)answer_to(GetParam().parts); });
  EXPECT_TRUE(holds(message, "a.shot.toml"));
  EXPECT_TRUE(holds(message, GetParam().part));
}
INSTANTIATE_TEST_SUITE_P(
    All, WrongParts,
    ::testing::Values(
        Wrong{"window_without_photosites", {.body = "window = \"100 x 100\"\n"}, "photosites"},
        Wrong{"window_too_large",
              {.body = "photosites = \"10 x 10\"\nwindow = \"100 x 100\"\n"},
              "larger than all photosites"},
        Wrong{"keeps", {.body = "keeps = \"everything\"\n"}, "gate width, gate height, whole gate"},
        Wrong{"pixel_aspect", {.body = "pixel_aspect = 0\n"}, "a pixel's width against its height"},
        Wrong{"flange", {.body = "flange = \"-1 mm\"\n"}, "above zero"},
        Wrong{"zoom", {.lens = "zoom = \"53 to 19 mm\"\n"}, "19 to 53 mm"},
        Wrong{
            "beyond_zoom", {.lens = "zoom = \"18 to 35 mm\"\n"}, "not within the zoom's 18 to 35"},
        Wrong{"converter", {.lens = "converter = 0\n"}, "tele converter"},
        Wrong{"close_up", {.lens = "close_up = \"2\"\n"}, "2 dioptres"},
        Wrong{"close_up_below", {.lens = "close_up = \"-2 dioptres\"\n"}, "below zero"},
        Wrong{"close_focus", {.lens = "close_focus = 3\n"}, "bare number"},
        Wrong{"shift", {.lens = "shift_up = \"much\"\n"}, "is not a length"},
        Wrong{
            "breathing_both",
            {.rest = "[[lens.breathing]]\nmark = \"1 m\"\nfocal = \"50 mm\"\nfield = \"20 deg\"\n"},
            "one of focal"},
        Wrong{"breathing_once",
              {.rest = "[[lens.breathing]]\nmark = \"1 m\"\nfocal = \"50 mm\"\n"},
              "one mark only"},
        Wrong{"breathing_of_a_zoom",
              {.lens = "zoom = \"19 to 53 mm\"\n",
               .rest = "[[lens.breathing]]\nmark = \"1 m\"\nfocal = \"50 mm\"\n"},
              "breathing_at"},
        Wrong{"squeezes", {.rest = "[[lens.squeezes]]\nmark = \"1 m\"\n"}, "squeeze = 1.87"},
        Wrong{"pupil", {.lens = "pupil = 90\n"}, "bare number"},
        Wrong{"breathing_at", {.lens = "breathing_at = \"0 mm\"\n"}, "above zero"},
        Wrong{"height", {.take = "height = \"tall\"\n"}, "is not a length"},
        Wrong{"tilt", {.take = "tilt = \"5\"\n"}, "is not an angle"},
        Wrong{"deep_node",
              {.rest = "[[subject]]\nname = \"a\"\nsize = \"1 m\"\ndeep = \"1 m\"\n"},
              "told by the scene's node"},
        Wrong{"deep",
              {.rest = "[[subject]]\nname = \"a\"\nat = \"1 m\"\ndeep = \"-1 m\"\n"},
              "above zero"},
        Wrong{"depth_kind", {.rest = "[depth]\nkind = \"log\"\n"}, "axial, radial, inverse"},
        Wrong{"depth_unit", {.rest = "[depth]\nunit = \"0 m\"\n"}, "above zero"},
        Wrong{"depth_white",
              {.rest = "[depth]\nkind = \"normalised\"\nnear = \"1 m\"\nfar = \"2 m\"\n"
                       "white = \"up\"\n"},
              "near, far"},
        Wrong{"cheat_band_turned",
              {.rest = "[cheat]\nsharp_from = \"3 m\"\nsharp_to = \"1 m\"\n"},
              "turned round"},
        Wrong{"track_missing", {.rest = "[scene]\ntrack = \"no.csv\"\n"}, "no.csv"},
        Wrong{"usda_missing", {.rest = "[scene]\nfile = \"no.usda\"\n"}, "no.usda"},
        Wrong{"frames_text", {.rest = "[frames]\nfirst = \"a\"\nlast = 2\n"}, "a frame"},
        Wrong{"two_distances",
              {.rest = "[[subject]]\nname = \"a\"\nat = \"1 m\"\ntape = \"2 m\"\n"},
              "a subject is in one place"},
        Wrong{"off_axis_alone",
              {.rest = "[[subject]]\nname = \"a\"\nat = \"1 m\"\noff_axis = \"20 deg\"\n"},
              "belongs to a radial, tape or floor"},
        Wrong{"off_axis_behind",
              {.rest = "[[subject]]\nname = \"a\"\nradial = \"1 m\"\noff_axis = \"100 deg\"\n"},
              "under 90 deg"},
        Wrong{"height_alone",
              {.rest = "[[subject]]\nname = \"a\"\nat = \"1 m\"\nheight = \"1 m\"\n"},
              "belongs to a floor distance"},
        Wrong{"floor_without_height",
              {.rest = "[[subject]]\nname = \"a\"\nfloor = \"1 m\"\n"},
              "take.height"},
        Wrong{"tape_in_the_lens",
              {.lens = "pupil = \"90 mm\"\n", .rest = "[focus]\ntape = \"8 cm\"\n"},
              "ends inside the lens"},
        Wrong{"pixel", {.rest = "[focus]\nradial = \"1 m\"\npixel = [1]\n"}, "[960, 540]"},
        Wrong{"pixel_without_depth", {.rest = "[focus]\npixel = [1, 2]\n"}, "[depth] file"},
        Wrong{"part_alone", {.rest = "[focus]\nat = \"1 m\"\npart = \"nearest\"\n"}, "on ="},
        Wrong{"area", {.rest = "[focus]\narea = \"mean\"\n"}, "nearest, median"},
        Wrong{"offset_behind",
              {.rest = "[focus]\nat = \"1 m\"\noffset = \"-2 m\"\n"},
              "behind the camera"},
        Wrong{"normalised_without_ends",
              {.rest = "[depth]\nkind = \"normalised\"\nnear = \"3 m\"\n"},
              "near before far"},
        Wrong{"ends_without_normalised", {.rest = "[depth]\nnear = \"3 m\"\n"}, "normalised"},
        Wrong{"cheat_half", {.rest = "[cheat]\nsharp_from = \"1 m\"\n"}, "two ends"},
        Wrong{"cheat_factor", {.rest = "[cheat]\nblur = -1\n"}, "above zero"},
        Wrong{"cheat_limit", {.rest = "[cheat]\nat_most = \"20\"\n"}, "12 px"},
        Wrong{"frames_half", {.rest = "[frames]\nfirst = 1\n"}, "give both"},
        Wrong{"frames_turned", {.rest = "[frames]\nfirst = 9\nlast = 1\n"}, "comes before"},
        Wrong{"over_unknown", {.rest = "[over.take.fps]\n1 = 24\n"}, "cannot change over frames"},
        Wrong{"over_no_frame", {.rest = "[over.take.stop]\nlate = \"f/2\"\n"}, "is not a key"},
        Wrong{"over_kind", {.rest = "[over.take.stop]\n1 = \"T2\"\n"}, "keep to one"},
        Wrong{
            "over_nobody", {.rest = "[over.subject.boat.at]\n1 = \"2 m\"\n"}, "no subject 'boat'"},
        Wrong{"over_place",
              {.rest = "[[subject]]\nname = \"b\"\nplace = [0, 0, -1]\n[over.subject.b.place]\n"
                       "1 = [1, 2]\n"},
              "three numbers"},
        Wrong{"ease", {.rest = "[over.take.stop]\n1 = \"f/2\"\nease = \"bouncy\"\n"}, "slow start"},
        Wrong{"by_without_hunt",
              {.rest = "[over.take.stop]\n1 = \"f/2\"\nby = 0.2\n"},
              "belongs to ease = \"overshoot\""},
        Wrong{"swings",
              {.rest = "[[pull]]\nframe = 1\nat = \"1 m\"\nease = \"overshoot\"\nswings = 0\n"},
              "1 to 20"},
        Wrong{"stray",
              {.rest = "[[pull]]\nframe = 1\nat = \"1 m\"\nease = \"search\"\nstray = \"1 m\"\n"},
              "dioptres"},
        Wrong{"pull_nowhere", {.rest = "[[pull]]\nframe = 1\n"}, "goes nowhere"},
        Wrong{"pull_without_frame", {.rest = "[[pull]]\nat = \"1 m\"\n"}, "frame = 1001"},
        Wrong{"pulls_out_of_order",
              {.rest = "[[pull]]\nframe = 9\nat = \"1 m\"\n[[pull]]\nframe = 3\nat = \"2 m\"\n"},
              "in their order"},
        Wrong{"pull_and_focus",
              {.rest = "[focus]\nat = \"1 m\"\n[[pull]]\nframe = 9\nat = \"1 m\"\n"},
              "keep one of them"},
        Wrong{"variant_misspelt", {.rest = "[variant.night.take]\nstpo = \"f/2\"\n"}, "take.stop"},
        Wrong{"aim_nowhere", {.rest = "[scene]\naim = \"boat\"\n"}, "scene.file"},
        Wrong{"scale", {.rest = "[scene]\nscale = 0\nfile = \"a.gltf\"\n"}, "a factor above zero"},
        Wrong{"origin", {.rest = "[scene]\norigin = \"tripod\"\n"}, "pupil, sensor, mount"}),
    [](const auto& each) { return each.param.name; });

// ---- camera tracks ----

Answer on_track(const TempFolder& folder, const std::string& csv, double frame,
                const std::string& more = "") {
  folder.write("move.csv", csv);
  const Parts parts{.top = "unit = \"cm\"\n",
                    .rest =
                        "[scene]\ntrack = \"move.csv\"\n[[subject]]\nname = \"card\"\n"
                        "place = [0, 0, -400]\nsize = \"50 cm\"\n[focus]\non = \"card\"\n" +
                        more};
  return load_shot(folder.write("a.shot.toml", text_of(parts)), {.frame = frame}).answer;
}

TEST(Track, MovesTheCameraWithoutAScene) {
  const TempFolder folder;
  const std::string csv =
      "# tracked\nframe,x,y,z,pan,tilt,roll,focal_mm\n"
      "1,0,0,0,0,0,0,50\n11,0,0,-100,0,0,0,100\n";
  EXPECT_NEAR(on_track(folder, csv, 1).camera.focus.m(), 4.0, 1e-12);
  const Answer half = on_track(folder, csv, 6);
  EXPECT_NEAR(half.camera.focus.m(), 3.5, 1e-12);
  EXPECT_NEAR(half.camera.lens_focal.mm(), std::sqrt(50.0 * 100.0), 1e-9);
}

TEST(Track, PanTiltAndRollHaveTheirSenses) {
  const TempFolder folder;
  const auto turned = [&](const std::string& angles) {
    return on_track(folder, "frame,x,y,z,pan,tilt,roll\n1,0,0,0," + angles + "\n", 1).place.linear;
  };
  // Panned right by 30° it looks to +x; tilted up to +y; rolled clockwise its up leans to +x.
  EXPECT_NEAR((-turned("30,0,0").column(2)).x, 0.5, 1e-12);
  EXPECT_NEAR((-turned("0,30,0").column(2)).y, 0.5, 1e-12);
  EXPECT_NEAR(turned("0,0,30").column(1).x, 0.5, 1e-12);
}

TEST(Track, QuaternionsGoToo) {
  const TempFolder folder;
  const double half = std::sin(15.0 * std::numbers::pi / 180.0);
  const Answer a = on_track(folder,
                            "qx,qy,qz,qw,frame,x,y,z\n0," + std::to_string(half) + ",0," +
                                std::to_string(std::sqrt(1 - half * half)) + ",1,0,0,0\n",
                            1);
  EXPECT_NEAR((-a.place.linear.column(2)).x, -0.5, 1e-5);  // + about y turns to the left
}

TEST(Track, BrokenTablesAreToldWithTheirLine) {
  const TempFolder folder;
  const auto message = [&](const std::string& csv) {
    return message_of<FileError>([&] { (void)on_track(folder, csv, 1); });
  };
  const std::string head = "frame,x,y,z,pan,tilt,roll\n";
  EXPECT_TRUE(holds(message("frame,x,y,z,pan\n"), "pan, tilt, roll"));
  EXPECT_TRUE(holds(message("frame,x,y,z,pan,tilt,rol\n"), "roll"));
  EXPECT_TRUE(holds(message("frame,x,x,y,z,pan,tilt,roll\n"), "twice"));
  EXPECT_TRUE(holds(message(head + "1,0,0,0,0,0\n"), "move.csv:2: has 6 values for 7"));
  EXPECT_TRUE(holds(message(head + "1,0,zero,0,0,0,0\n"), "'zero' in the column y"));
  EXPECT_TRUE(holds(message(head + "2,0,0,0,0,0,0\n1,0,0,0,0,0,0\n"), "move.csv:3: frame 1"));
  EXPECT_TRUE(holds(message(head), "no row"));
  EXPECT_TRUE(holds(message("frame,x,y,z,qx,qy,qz,qw\n1,0,0,0,0,0,0,0\n"), "all zeros"));
  EXPECT_TRUE(
      holds(message("frame,x,y,z,pan,tilt,roll,focal_mm\n1,0,0,0,0,0,0,0\n"), "not above zero"));
  EXPECT_TRUE(holds(message(head + "1,0,inf,0,0,0,0\n"), "not a number"));
}

// ---- scale and origin ----

std::string regatta(const std::string& more, const std::string& lens = "") {
  return "[body]\ngate = \"24 x 16 mm\"\npixels = \"2400 x 1600\"\nflange = \"44 mm\"\n"
         "[lens]\nfocal = \"50 mm\"\n" +
         lens + "[take]\nstop = \"f/2\"\nmark = \"2 m\"\n[scene]\nfile = \"" +
         demo("regatta.gltf") + "\"\ncamera = \"taking camera\"\n" + more;
}

TEST(ScaleCheck, NamesTheFactor) {
  const TempFolder folder;
  const auto message = [&](const std::string& more) {
    const Answer a = load_shot(folder.write("a.shot.toml", regatta(more))).answer;
    return a.scale.empty() ? std::string() : a.scale[0].message;
  };
  const std::string boat = "[[subject]]\nname = \"boat\"\nsize = ";
  EXPECT_EQ(message(boat + "\"30 cm\"\n"), "");
  EXPECT_TRUE(holds(message(boat + "\"3 mm\"\n"), "near 100: centimetres were taken for metres"));
  EXPECT_TRUE(holds(message(boat + "\"11.8 m\"\n"), "near 1/39.37: metres were taken for inches"));
  EXPECT_TRUE(holds(message(boat + "\"1 cm\"\n"), "near 30.48: centimetres were taken for feet"));
  EXPECT_TRUE(holds(message("scale = 100\n" + boat + "\"30 cm\"\n"), "scene.scale = 1"));
  EXPECT_EQ(message("scale = 100\n" + boat + "\"30 m\"\n"), "");
}

TEST(SceneScale, MovesAllDistancesAndTheCamera) {
  const TempFolder folder;
  const auto axial = [&](const std::string& more) {
    const Answer a = load_shot(folder.write("a.shot.toml", regatta(more))).answer;
    for (const SubjectBlur& s : a.subjects) {
      if (s.name == "footbridge") return s.axial.m();
    }
    return 0.0;
  };
  EXPECT_NEAR(axial("scale = 0.5\n") / axial(""), 0.5, 1e-9);
}

TEST(CameraOrigin, TheRigsCameraIsMovedToThePupil) {
  const TempFolder folder;
  const auto z = [&](const std::string& more, const std::string& lens) {
    return load_shot(folder.write("a.shot.toml", regatta(more, lens))).answer.place.translation.z;
  };
  EXPECT_NEAR(z("", "pupil = \"90 mm\"\n"), 0.0, 1e-12);
  EXPECT_NEAR(z("origin = \"sensor\"\n", "pupil = \"90 mm\"\n"), -0.090, 1e-12);
  EXPECT_NEAR(z("origin = \"mount\"\n", "pupil = \"90 mm\"\n"), -0.046, 1e-12);
  const auto message = message_of<OpticsError>([&] { (void)z("origin = \"sensor\"\n", ""); });
  EXPECT_TRUE(holds(message, "lens.pupil"));
}

TEST(Frame, TheReedsRakeAcrossTheirOwnDepth) {
  const Answer a = load_shot(demo("reeds.shot.toml")).answer;
  const auto found = std::find_if(a.subjects.begin(), a.subjects.end(),
                                  [](const SubjectBlur& s) { return s.name == "reeds"; });
  ASSERT_NE(found, a.subjects.end());
  const SubjectBlur& reeds = *found;
  EXPECT_LT(*reeds.coc_front_px, reeds.coc_px);
  EXPECT_LT(reeds.coc_px, reeds.coc_back_px);
  EXPECT_GT(a.margin.beside, 30);
}

}  // namespace shot_animation_test
}  // namespace jolly_iris
