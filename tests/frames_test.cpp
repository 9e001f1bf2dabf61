#include "jolly_iris/scene/frames.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <nlohmann/json.hpp>
#include <numbers>
#include <sstream>

#include "jolly_iris/files/frame_table.hpp"
#include "jolly_iris/files/gltf.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "small_gltf.hpp"

namespace jolly_iris {
namespace frames_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::plain_shot;
using testing::small_gltf;
using testing::TempFolder;
using testing::write_gltf;
using Json = nlohmann::json;

// The small scene with its node "float" moved by an animation. The first accessor behind the mesh's
// two are the times.
struct Moved {
  std::string path = "translation";
  std::string step = "LINEAR";
  std::vector<float> times{0, 2};
  std::vector<float> values{0, 0, -3, 4, 0, -5};
};

std::string write_moved(const TempFolder& folder, const Moved& moved,
                        const std::function<void(Json&)>& change = {}) {
  Json j = small_gltf();
  std::vector<float> numbers{0, 0, 0, 2, 0, 0, 0, 2, 0};
  const int width = moved.path == "rotation" ? 4 : 3;
  const auto values = moved.values.size() / static_cast<std::size_t>(width);
  const auto add = [&](const std::vector<float>& v, std::size_t count, const char* type) {
    j["bufferViews"].push_back(
        {{"buffer", 0}, {"byteOffset", numbers.size() * 4}, {"byteLength", v.size() * 4}});
    j["accessors"].push_back({{"bufferView", j["bufferViews"].size() - 1},
                              {"componentType", 5126},
                              {"count", count},
                              {"type", type}});
    numbers.insert(numbers.end(), v.begin(), v.end());
  };
  add(moved.times, moved.times.size(), "SCALAR");
  add(moved.values, values, width == 4 ? "VEC4" : "VEC3");
  j["bufferViews"][1]["byteOffset"] = numbers.size() * 4;  // the indices come last
  j["buffers"][0]["byteLength"] = numbers.size() * 4 + 12;
  j["animations"] = {
      {{"samplers", {{{"input", 2}, {"output", 3}, {"interpolation", moved.step}}}},
       {"channels", {{{"sampler", 0}, {"target", {{"node", 1}, {"path", moved.path}}}}}}}};
  if (change) change(j);
  return write_gltf(folder, j, numbers);
}

Vec3 place_at(Scene& scene, double seconds) {
  pose(scene, seconds);
  return scene.nodes[1].world.translation;
}

TEST(Pose, LinearStepAndHeldEnds) {
  const TempFolder folder;
  Scene scene = read_gltf(write_moved(folder, {}));
  EXPECT_TRUE(nearly_equal(place_at(scene, 1.0), Vec3(2, 0, -4), 1e-6));
  EXPECT_TRUE(nearly_equal(place_at(scene, -3.0), Vec3(0, 0, -3), 1e-6));
  EXPECT_TRUE(nearly_equal(place_at(scene, 9.0), Vec3(4, 0, -5), 1e-6));
  EXPECT_DOUBLE_EQ(duration_of(scene), 2.0);
  // What hangs below moves along.
  EXPECT_TRUE(nearly_equal(scene.nodes[2].world.translation, Vec3(4, 1, -6), 1e-6));
  Scene stepped = read_gltf(write_moved(folder, {.step = "STEP"}));
  EXPECT_TRUE(nearly_equal(place_at(stepped, 1.99), Vec3(0, 0, -3), 1e-6));
  EXPECT_TRUE(nearly_equal(place_at(stepped, 2.0), Vec3(4, 0, -5), 1e-6));
}

TEST(Pose, CubicFollowsTheCubic) {
  // A cubic spline through samples of a cubic with its own tangents is that cubic: x(t) = t³ − t.
  const TempFolder folder;
  const auto x = [](double t) { return static_cast<float>(t * t * t - t); };
  const auto slope = [](double t) { return static_cast<float>(3 * t * t - 1); };
  std::vector<float> values;
  const std::vector<float> times{0, 0.5, 2};
  for (const float t : times) {
    values.insert(values.end(), {slope(t), 0, 0, x(t), 0, -3, slope(t), 0, 0});
  }
  Scene scene =
      read_gltf(write_moved(folder, {.step = "CUBICSPLINE", .times = times, .values = values}));
  for (const double t : {0.1, 0.3, 0.5, 0.9, 1.4, 1.9}) {
    EXPECT_NEAR(place_at(scene, t).x, t * t * t - t, 1e-6) << t;
  }
}

TEST(Pose, RotationsGoTheShortWayAtAnEvenRate) {
  const TempFolder folder;
  const auto turn = [](double degrees) {
    const double half = degrees * std::numbers::pi / 360.0;
    return std::vector<float>{0, static_cast<float>(std::sin(half)), 0,
                              static_cast<float>(std::cos(half))};
  };
  std::vector<float> values = turn(0);
  for (const float v : turn(90)) values.push_back(-v);  // the same turn, the other sign
  Scene scene = read_gltf(write_moved(folder, {.path = "rotation", .values = values}));
  pose(scene, 2.0 / 3.0);
  const Quaternion turned = Quaternion::from(scene.nodes[1].world.linear);
  EXPECT_NEAR(turned.angle() * 180.0 / std::numbers::pi, 30.0, 1e-4);
}

struct BrokenMove {
  const char* name;
  Moved moved;
  std::function<void(Json&)> change;
  const char* part;
};
std::ostream& operator<<(std::ostream& out, const BrokenMove& w) { return out << w.name; }
class BrokenAnimations : public ::testing::TestWithParam<BrokenMove> {};
TEST_P(BrokenAnimations, AreRefusedByElement) {
  const TempFolder folder;
  const auto path = write_moved(folder, GetParam().moved, GetParam().change);
  const auto message = message_of<FileError>([&] { (void)read_gltf(path); });
  EXPECT_TRUE(holds(message, "small.gltf"));
  EXPECT_TRUE(holds(message, GetParam().part));
}
INSTANTIATE_TEST_SUITE_P(
    All, BrokenAnimations,
    ::testing::Values(
        BrokenMove{"times_fall", {.times = {2, 0}}, {}, "times rise"},
        BrokenMove{"nan_time", {.times = {0, std::nanf("")}}, {}, "not a number"},
        BrokenMove{"values_missing", {.values = {0, 0, -3}}, {}, "2 times but 1 values"},
        BrokenMove{"unknown_step", {.step = "BOUNCE"}, {}, "'BOUNCE'"},
        BrokenMove{"no_sampler",
                   {},
                   [](Json& j) { j["animations"][0]["channels"][0]["sampler"] = 7; },
                   "sampler 7"},
        BrokenMove{"no_node",
                   {},
                   [](Json& j) { j["animations"][0]["channels"][0]["target"]["node"] = 70; },
                   "node 70"},
        BrokenMove{"no_accessor",
                   {},
                   [](Json& j) { j["animations"][0]["samplers"][0]["output"] = 99; },
                   "accessor 99"},
        BrokenMove{"wrong_rows",
                   {},
                   [](Json& j) { j["animations"][0]["samplers"][0]["input"] = 3; },
                   "rows of 1 numbers"},
        BrokenMove{"matrix_node",
                   {},
                   [](Json& j) {
                     j["nodes"][1].erase("translation");
                     j["nodes"][1]["matrix"] = {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1};
                   },
                   "has a matrix"},
        BrokenMove{"twice",
                   {},
                   [](Json& j) {
                     auto& channels = j["animations"][0]["channels"];
                     const Json copy = channels[0];
                     channels.push_back(copy);
                   },
                   "a second time"}),
    [](const auto& each) { return each.param.name; });

std::string moving_shot(const TempFolder& folder, const std::string& more) {
  write_moved(folder, {});
  return folder.write(
      "a.shot.toml", std::string(plain_shot) + "fps = 24\n[scene]\nfile = \"small.gltf\"\n" + more);
}

TEST(Frames, FocusFollowsANode) {
  const TempFolder folder;
  LoadedShot l =
      load_shot(moving_shot(folder, "[frames]\nfirst = 101\nlast = 149\n[focus]\non = \"flag\"\n"));
  EXPECT_DOUBLE_EQ(*l.answer.frame, 101);
  EXPECT_NEAR(l.answer.camera.focus.m(), 4.0, 1e-6);
  const auto answers = answers_at(l.shot, &*l.scene, frames_of({101, 149}, 24));
  ASSERT_EQ(answers.size(), 3U);
  EXPECT_NEAR(answers[1].camera.focus.m(), 5.0, 1e-6);
  EXPECT_NEAR(answers[2].camera.focus.m(), 6.0, 1e-6);
}

TEST(Frames, APullIsEvenInDioptres) {
  const TempFolder folder;
  const auto path = moving_shot(folder, R"(
[[subject]]
name = "near"
at = "1 m"
[[subject]]
name = "far"
at = "4 m"
[[pull]]
frame = 0
on = "near"
[[pull]]
frame = 10
on = "far"
ease = "linear"
)");
  const auto focus = [&](double frame) {
    return load_shot(path, {.frame = frame}).answer.camera.focus.m();
  };
  EXPECT_NEAR(focus(0), 1.0, 1e-12);
  EXPECT_NEAR(1.0 / focus(5), (1.0 + 0.25) / 2.0, 1e-12);
  EXPECT_NEAR(focus(10), 4.0, 1e-12);
  // Even steps of blur: what is in focus at the end loses the same amount every frame.
  const auto blur = [&](double frame) {
    const Answer a = load_shot(path, {.frame = frame}).answer;
    return circle_of_confusion(a.camera, 4_m).mm() / a.camera.focal.mm();
  };
  EXPECT_NEAR(blur(2) - blur(3), blur(7) - blur(8), 1e-9);
}

TEST(Frames, AFocusThatPassesBehindTheCameraIsToldWithItsFrame) {
  const TempFolder folder;
  write_moved(folder, {.values = {0, 0, -3, 0, 0, 5}});
  const auto path = folder.write(
      "a.shot.toml", std::string(plain_shot) +
                         "fps = 24\n[scene]\nfile = \"small.gltf\"\n[focus]\non = \"flag\"\n"
                         "[frames]\nfirst = 1001\nlast = 1049\n");
  LoadedShot l = load_shot(path);
  const auto message = message_of<OpticsError>(
      [&] { (void)answers_at(l.shot, &*l.scene, frames_of(*l.shot.frames, 1)); });
  EXPECT_TRUE(holds(message, "at frame 1025"));  // one second on: a metre behind
  EXPECT_TRUE(holds(message, "'flag'"));
}

TEST(Frames, AnAnimatedSceneNeedsAFrameRate) {
  const TempFolder folder;
  write_moved(folder, {});
  const auto path =
      folder.write("a.shot.toml", std::string(plain_shot) + "[scene]\nfile = \"small.gltf\"\n");
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)load_shot(path, {.frame = 3.0}); }), "fps = 24"));
}

TEST(Frames, RangesAreListedToTheirEnd) {
  EXPECT_EQ(frames_of({1, 10}, 4), (std::vector<double>{1, 5, 9, 10}));
  EXPECT_EQ(frames_of({7, 7}, 1), (std::vector<double>{7}));
  EXPECT_THROW((void)frames_of({10, 1}, 1), UsageError);
  EXPECT_THROW((void)frames_of({1, 10}, 0), UsageError);
  EXPECT_THROW((void)frames_of({1, 1e9}, 1), UsageError);
}

TEST(Frames, ACameraThatAimsLooksAtItsSubject) {
  const TempFolder folder;
  const auto path = moving_shot(folder, "aim = \"flag\"\n[focus]\non = \"flag\"\n");
  for (const double frame : {0.0, 20.0, 48.0}) {
    const Answer a = load_shot(path, {.frame = frame}).answer;
    for (const SubjectBlur& s : a.subjects) {
      if (s.name == "flag") {
        EXPECT_NEAR(s.axial / s.radial, 1.0, 1e-12) << frame;
      }
    }
  }
}

TEST(FrameTable, CsvHasALineAFrameAndEverySubject) {
  LoadedShot l = load_shot(demo("drift.shot.toml"));
  const auto answers = answers_at(l.shot, &*l.scene, frames_of({1001, 1097}, 48));
  std::istringstream csv(frames_csv(answers));
  std::string head;
  std::getline(csv, head);
  EXPECT_TRUE(head.starts_with("frame,focus_m,focus_units,mark_m,near_m,far_m,focal_mm,f_number"));
  EXPECT_TRUE(holds(head, "second boat axial_m,second boat coc_px,second boat depth_code"));
  const auto cells = [](const std::string& line) {
    return std::count(line.begin(), line.end(), ',');
  };
  int lines = 0;
  for (std::string line; std::getline(csv, line); ++lines) EXPECT_EQ(cells(line), cells(head));
  EXPECT_EQ(lines, 3);
}

TEST(FrameTable, JsonTellsDepthAsTheDepthPicturesCount) {
  LoadedShot l = load_shot(demo("drift.shot.toml"));
  const Json j = Json::parse(frames_json(answers_at(l.shot, &*l.scene, {1001})));
  const Json& boat = j["frames"][0]["subjects"]["boat"];
  const double z = boat["axial_m"];
  EXPECT_NEAR(z, 2.35, 1e-6);
  // Normalised, 0.5 to 50 m, white near.
  EXPECT_NEAR(boat["depth_code"].get<double>(), 1.0 - (z - 0.5) / 49.5, 1e-9);
}

}  // namespace frames_test
}  // namespace jolly_iris
