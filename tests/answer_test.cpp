#include "jolly_iris/scene/answer.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "jolly_iris/files/gltf.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "small_gltf.hpp"

namespace jolly_iris {
namespace answer_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::plain_shot;
using testing::small_gltf;
using testing::TempFolder;
using testing::write_gltf;

Shot shot_with(const std::string& more, const TempFolder& folder) {
  return read_shot(folder.write("a.shot.toml", std::string(plain_shot) + more));
}

const SubjectBlur& named(const Answer& a, const std::string& name) {
  for (const SubjectBlur& s : a.subjects) {
    if (s.name == name) return s;
  }
  throw std::runtime_error("no subject " + name);
}

bool notes_hold(const Answer& a, const std::string& part) {
  for (const std::string& note : a.notes) {
    if (note.find(part) != std::string::npos) return true;
  }
  return false;
}

TEST(Answer, DemoFocusesOnTheBoat) {
  const Shot shot = read_shot(demo("hero.shot.toml"));
  const Scene scene = read_gltf(shot.scene->file);
  const Answer a = answer(shot, &scene);
  EXPECT_NEAR(a.camera.focus.m(), 2.35, 1e-3);
  EXPECT_TRUE(named(a, "boat").sharp);
  EXPECT_FALSE(named(a, "second boat").sharp);
  EXPECT_GT(named(a, "second boat").radial, named(a, "second boat").axial);
  EXPECT_TRUE(notes_hold(a, "mark of 2.4 m"));
  EXPECT_GT(a.infinity.coc_px, named(a, "houses").coc_px);
  for (std::size_t i = 1; i < a.subjects.size(); ++i) {
    EXPECT_LE(a.subjects[i - 1].axial, a.subjects[i].axial);
  }
}

TEST(Answer, SubjectIsTheMiddleOfItsBoundsSeenFromTheCamera) {
  const TempFolder folder;
  auto json = small_gltf();
  json["nodes"][0]["translation"] = {0, 0, 1};
  const Scene scene = read_gltf(write_gltf(folder, json));
  const Answer a =
      answer(shot_with("[focus]\non = \"flag\"\n[scene]\nfile = \"small.gltf\"\n", folder), &scene);
  EXPECT_NEAR(a.camera.focus.m(), 5.0, 1e-9);
  EXPECT_NEAR(named(a, "flag").radial.m(), std::sqrt(25.0 + 1.0 + 4.0), 1e-9);
}

TEST(Answer, SubjectsOutsideThePictureAreNamedAsSuch) {
  const Shot shot = read_shot(demo("hero.shot.toml"));
  const Scene scene = read_gltf(shot.scene->file);
  const Answer a = answer(shot, &scene);
  EXPECT_TRUE(named(a, "boat").in_picture);
  EXPECT_TRUE(named(a, "water").in_picture);  // its middle is below the frame, its bounds are not
  EXPECT_FALSE(named(a, "reeds").in_picture);
  EXPECT_TRUE(notes_hold(a, "Outside the picture: reeds"));
}

TEST(Answer, SizeOfNobodyIsAMistakeNotNothing) {
  const TempFolder folder;
  write_gltf(folder, small_gltf());
  const std::string subject =
      "[scene]\nfile = \"small.gltf\"\n[[subject]]\nsize = \"1 m\"\nname = ";
  const Shot right = shot_with(subject + "\"flag\"\n", folder);
  const Scene scene = read_gltf(right.scene->file);
  EXPECT_TRUE(named(answer(right, &scene), "flag").size_px.has_value());
  const Shot wrong = shot_with(subject + "\"falg\"\n", folder);
  const auto message = message_of<UsageError>([&] { (void)answer(wrong, &scene); });
  EXPECT_TRUE(holds(message, "subject[0].name: 'falg' has no place"));
  EXPECT_TRUE(holds(message, "Did you mean 'flag'?"));
}

TEST(Answer, PlacesAreInTheArtistsUnits) {
  const TempFolder folder;
  const std::string text =
      std::string("unit = \"cm\"\n") + plain_shot +
      "[focus]\non = \"post\"\n[[subject]]\nname = \"post\"\nplace = [30, 0, -400]\n";
  const Answer a = answer(read_shot(folder.write("a.shot.toml", text)), nullptr);
  EXPECT_NEAR(a.camera.focus.m(), 4.0, 1e-12);
  EXPECT_NEAR(named(a, "post").radial.m(), std::hypot(4.0, 0.3), 1e-12);
}

TEST(Answer, FocusCanBeADistanceOrAMarkOrInfinity) {
  const TempFolder folder;
  EXPECT_NEAR(answer(shot_with("[focus]\nat = \"3 m\"\n", folder), nullptr).camera.focus.m(), 3.0,
              1e-12);
  EXPECT_NEAR(answer(shot_with("[focus]\nmark = \"2.6 m\"\n", folder), nullptr).camera.focus.m(),
              2.545873, 5e-7);
  const Answer far = answer(shot_with("[focus]\nat = \"infinity\"\n", folder), nullptr);
  EXPECT_TRUE(far.camera.focus.is_infinite());
  EXPECT_TRUE(far.infinity.sharp);
}

TEST(Answer, UnknownSubjectNamesTheNearest) {
  const Shot shot = read_shot(demo("hero.shot.toml"), {{"focus.on", "baot", "--set"}});
  const Scene scene = read_gltf(shot.scene->file);
  const auto message = message_of<UsageError>([&] { (void)answer(shot, &scene); });
  EXPECT_TRUE(holds(message, "--set: focus.on: there is no subject 'baot'. Did you mean 'boat'?"));
}

TEST(Answer, SubjectBehindTheCameraIsRefusedAsFocusAndToldElsewhere) {
  const TempFolder folder;
  const std::string post = "[[subject]]\nname = \"post\"\nplace = [0, 0, 2]\n";
  const auto message = message_of<OpticsError>(
      [&] { (void)answer(shot_with("[focus]\non = \"post\"\n" + post, folder), nullptr); });
  EXPECT_TRUE(holds(message, "2 m behind the camera"));
  EXPECT_TRUE(holds(message, "a.shot.toml:"));
  const Answer a = answer(shot_with(post, folder), nullptr);
  EXPECT_TRUE(notes_hold(a, "Behind the camera: post"));
}

TEST(Answer, MarkTooCloseHasItsPlaceInTheFile) {
  const TempFolder folder;
  std::string text = plain_shot;
  text.replace(text.find("2.6 m"), 5, "0.2 m");
  const Shot shot = read_shot(folder.write("a.shot.toml", text));
  const auto message = message_of<OpticsError>([&] { (void)answer(shot, nullptr); });
  EXPECT_TRUE(holds(message, "a.shot.toml:12:8: take.mark: "));
}

TEST(Answer, NoFocusAtAllIsSaid) {
  const TempFolder folder;
  std::string text = plain_shot;
  text.erase(text.find("mark"));
  const Shot shot = read_shot(folder.write("a.shot.toml", text));
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)answer(shot, nullptr); }), "there is no focus"));
}

TEST(Answer, SaysWhenDepthOfFieldWouldChangeNothing) {
  const TempFolder folder;
  std::string text = plain_shot;
  text.replace(text.find("f/2.2"), 5, "f/90");
  text.replace(text.find("2.6 m"), 5, "90 m");
  EXPECT_TRUE(
      notes_hold(answer(read_shot(folder.write("a.shot.toml", text)), nullptr), "change nothing"));
}

TEST(Answer, SizeOfAKnownThingFollowsFromTheMagnification) {
  const TempFolder folder;
  const Answer a = answer(
      shot_with("[[subject]]\nname = \"rod\"\nat = \"10 m\"\nsize = \"1 m\"\n", folder), nullptr);
  EXPECT_NEAR(*named(a, "rod").size_px, a.camera.focal.mm() / 10.0 / 19.1 * 1920.0, 1e-9);
}

}  // namespace answer_test
}  // namespace jolly_iris
