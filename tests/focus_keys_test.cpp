// The focus over frames, played with: keys set, moved, taken out, and written.
#include "jolly_iris/workflow/focus_keys.hpp"

#include <gtest/gtest.h>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace focus_keys_test {

using testing::holds;
using testing::message_of;
using testing::slurp;
using testing::TempFolder;

constexpr const char* head = R"(unit = "cm"
[body]
gate   = "25.9 x 14.6 mm"
pixels = "960 x 540"
[lens]
focal = "53 mm"
[take]
stop = "f/2.2"
mark = "2.4 m"
[frames]
first = 1
last  = 101
[[subject]]
name = "boat"
at   = "2 m"
[[subject]]
name = "bridge"
at   = "20 m"
)";
constexpr const char* pulls = R"(
# it begins on the boat
[[pull]]
frame = 1
on    = "boat"

# up to here
[[pull]]                # the boat
frame = 41              # is followed
on    = "boat"

[[pull]]
frame = 81
on    = "bridge"
ease  = "linear"

[cheat]
blur = 1
)";

double focus_at(const LoadedShot& loaded, double frame) {
  return at_frame(loaded, frame).answer.camera.focus.m();
}

LoadedShot opened(const std::string& file, const std::string& variant = {}) {
  std::vector<std::string> files;
  ShotRequest request{.file = file};
  if (!variant.empty()) request.overrides = {{"variant", variant}};
  return open_shot(request, files);
}

TEST(FocusCurve, GoesEvenlyInDioptresBetweenItsKeys) {
  TempFolder folder;
  const LoadedShot loaded = opened(folder.write("a.shot.toml", std::string(head) + pulls));
  const FocusCurve curve = focus_curve(loaded);
  ASSERT_EQ(curve.keys.size(), 3U);
  EXPECT_EQ(curve.keys[2].on, "bridge");
  EXPECT_EQ(curve.keys[2].ease, "linear");
  EXPECT_NEAR(curve.keys[2].axial.m(), 20.0, 1e-9);
  EXPECT_EQ(curve.frames.front(), 1.0);
  EXPECT_EQ(curve.frames.back(), 101.0);
  ASSERT_EQ(curve.frames.size(), curve.axial.size());
  // Half of the time from 1/2 to 1/20 per metre.
  EXPECT_NEAR(1.0 / focus_at(loaded, 61.0), (0.5 + 0.05) / 2.0, 1e-9);
  EXPECT_EQ(focus_curve(loaded, 11).frames.size(), 11U);
  EXPECT_EQ(focus_curve(loaded, 11).frames[1], 11.0);
}

TEST(FocusKeys, AFocusWithoutKeysStaysWhatItWasAtTheFirstFrame) {
  TempFolder folder;
  const std::string file =
      folder.write("a.shot.toml", std::string(head) + "[focus]\non = \"boat\"\n");
  LiveShot shot({.file = file, .frame = 51.0});
  shot.change(as_focus_key(shot.loaded(), 51.0, {{"focus.on", "bridge"}}));
  EXPECT_NEAR(focus_at(shot.loaded(), 1.0), 2.0, 1e-9);
  EXPECT_NEAR(focus_at(shot.loaded(), 51.0), 20.0, 1e-9);
  shot.undo();
  EXPECT_NEAR(focus_at(shot.loaded(), 51.0), 2.0, 1e-9);
  shot.redo();
  (void)shot.write();
  const LoadedShot again = opened(file);
  EXPECT_NEAR(focus_at(again, 1.0), 2.0, 1e-9);
  EXPECT_NEAR(focus_at(again, 51.0), 20.0, 1e-9);
  EXPECT_TRUE(holds(slurp(file), "[[pull]]\nframe = 51\non = \"bridge\"\n"));
  EXPECT_FALSE(holds(slurp(file), "[focus]\non"));
  // Without a focus it is the mark that stays.
  const std::string marked = folder.write("b.shot.toml", head);
  LiveShot other({.file = marked});
  other.change(as_focus_key(other.loaded(), 51.0, {{"focus.at", "20 m"}}));
  EXPECT_NEAR(focus_at(other.loaded(), 1.0), 2.4, 0.1);
  EXPECT_NEAR(focus_at(other.loaded(), 51.0), 20.0, 1e-9);
  // At the first frame there is nothing before it.
  LiveShot first({.file = marked});
  first.change(as_focus_key(first.loaded(), 1.0, {{"focus.at", "20 m"}}));
  EXPECT_EQ(first.loaded().shot.pulls.size(), 1U);
}

TEST(FocusKeys, AKeyIsWrittenAmongTheOthersAndNothingElseChanges) {
  TempFolder folder;
  const std::string text = std::string(head) + pulls;
  const std::string file = folder.write("a.shot.toml", text);
  LiveShot shot({.file = file});
  shot.change(as_focus_key(shot.loaded(), 60.0, {{"focus.at", "3 m"}}));
  (void)shot.write();
  std::string wanted = text;
  const auto at = wanted.find("[[pull]]\nframe = 81");
  wanted.insert(at, "[[pull]]\nframe = 60\nat = \"3 m\"\n\n");
  EXPECT_EQ(slurp(file), wanted);
  // On a frame that has a key, that one goes to something else.
  shot.change(as_focus_key(shot.loaded(), 41.0, {{"focus.on", "bridge"}}));
  (void)shot.write();
  wanted.replace(wanted.rfind("on    = \"boat\""), 14, "on    = \"bridge\"");
  EXPECT_EQ(slurp(file), wanted);
  shot.change(as_focus_key(shot.loaded(), 41.0, {{"focus.at", "5 m"}}));
  (void)shot.write();
  EXPECT_NEAR(focus_at(opened(file), 41.0), 5.0, 1e-9);
  EXPECT_TRUE(holds(slurp(file), "frame = 41              # is followed\n"));
}

TEST(FocusKeys, MoveAndGo) {
  TempFolder folder;
  const std::string text = std::string(head) + pulls;
  const std::string file = folder.write("a.shot.toml", text);
  LiveShot shot({.file = file});
  shot.change(moved_focus_key(shot.loaded(), 81.0, 71.0), "drag");
  shot.change(moved_focus_key(shot.loaded(), 71.0, 75.0), "drag");
  ASSERT_EQ(shot.loaded().shot.pulls.size(), 3U);
  EXPECT_EQ(shot.loaded().shot.pulls[2].frame, 75.0);
  EXPECT_EQ(shot.loaded().shot.pulls[2].ease.kind, Ease::Kind::linear);
  EXPECT_NEAR(focus_at(shot.loaded(), 75.0), 20.0, 1e-9);
  shot.change(moved_focus_key(shot.loaded(), 75.0, 75.0, Length::from_m(10.0)), "drag");
  EXPECT_NEAR(focus_at(shot.loaded(), 75.0), 10.0, 1e-9);
  shot.change(moved_focus_key(shot.loaded(), 75.0, 81.0), "drag");  // back where it was
  EXPECT_NEAR(focus_at(shot.loaded(), 81.0), 10.0, 1e-9);
  EXPECT_EQ(shot.loaded().shot.pulls.size(), 3U);
  shot.undo();  // a drag is taken back as one
  EXPECT_TRUE(shot.values().empty());
  shot.change(moved_focus_key(shot.loaded(), 81.0, 70.0, Length::infinity()));
  shot.change(without_focus_key(shot.loaded(), 41.0));
  EXPECT_EQ(shot.loaded().shot.pulls.size(), 2U);
  (void)shot.write();
  const LoadedShot again = opened(file);
  ASSERT_EQ(again.shot.pulls.size(), 2U);
  EXPECT_EQ(again.shot.pulls[1].frame, 70.0);
  EXPECT_EQ(again.shot.pulls[1].ease.kind, Ease::Kind::linear);
  EXPECT_TRUE(again.shot.pulls[1].focus.distance);
  EXPECT_TRUE(holds(slurp(file), "# it begins on the boat\n[[pull]]\nframe = 1\n"));
  EXPECT_TRUE(holds(slurp(file), "[cheat]\nblur = 1\n"));
}

TEST(FocusKeys, AVariantBeginsWithAllKeysOfTheFile) {
  TempFolder folder;
  const std::string text = std::string(head) + pulls;
  const std::string file = folder.write("a.shot.toml", text);
  LiveShot shot({.file = file});
  shot.change(as_focus_key(shot.loaded(), 91.0, {{"focus.at", "4 m"}}));
  (void)shot.write("late");
  EXPECT_TRUE(slurp(file).starts_with(text));
  EXPECT_EQ(opened(file).shot.pulls.size(), 3U);
  const LoadedShot late = opened(file, "late");
  ASSERT_EQ(late.shot.pulls.size(), 4U);
  EXPECT_NEAR(focus_at(late, 91.0), 4.0, 1e-9);
  EXPECT_NEAR(focus_at(late, 41.0), 2.0, 1e-9);
  // A variant with keys of a shot that has none steps into the place of its focus.
  const std::string still =
      folder.write("b.shot.toml", std::string(head) + "[focus]\non = \"boat\"\n");
  LiveShot other({.file = still});
  other.change(as_focus_key(other.loaded(), 91.0, {{"focus.on", "bridge"}}));
  (void)other.write("late");
  EXPECT_TRUE(opened(still).shot.pulls.empty());
  EXPECT_NEAR(focus_at(opened(still, "late"), 91.0), 20.0, 1e-9);
}

TEST(FocusKeys, WhatCannotBeIsSaid) {
  TempFolder folder;
  const std::string file = folder.write("a.shot.toml", std::string(head) + pulls);
  const LoadedShot loaded = opened(file);
  EXPECT_TRUE(holds(message_of<UsageError>([&] { (void)moved_focus_key(loaded, 7.0, 9.0); }),
                    "no key at frame 7"));
  EXPECT_TRUE(holds(message_of<UsageError>([&] { (void)moved_focus_key(loaded, 1.0, 41.0); }),
                    "a key at frame 41 already"));
  std::string one = std::string(head) + "[[pull]]\nframe = 1\non = \"boat\"\n";
  const LoadedShot last = opened(folder.write("b.shot.toml", one));
  EXPECT_TRUE(
      holds(message_of<UsageError>([&] { (void)without_focus_key(last, 1.0); }), "the last key"));
  const std::string no_frames = folder.write(
      "c.shot.toml", testing::replaced(head, "[frames]\nfirst = 1\nlast  = 101\n", ""));
  const LoadedShot still = opened(no_frames);
  EXPECT_THROW((void)focus_curve(still), UsageError);
  EXPECT_THROW((void)as_focus_key(still, 1.0, {{"focus.at", "3 m"}}), UsageError);
  const std::string keyed = folder.write(
      "d.shot.toml", std::string(head) + "[over.focus.at]\n1 = \"2 m\"\n9 = \"3 m\"\n");
  EXPECT_TRUE(holds(message_of<UsageError>([&] {
                      (void)as_focus_key(opened(keyed), 5.0, {{"focus.at", "3 m"}});
                    }),
                    "[over.focus."));
  // A list in braces stays as it is.
  const std::string braces =
      folder.write("e.shot.toml", "pull = [{ frame = 1, on = \"boat\" }]\n" + std::string(head));
  LiveShot shot({.file = braces});
  shot.change(as_focus_key(shot.loaded(), 50.0, {{"focus.on", "bridge"}}));
  const std::string before = slurp(braces);
  EXPECT_TRUE(holds(message_of<FileError>([&] { (void)shot.write(); }), "[[pull]]"));
  EXPECT_EQ(slurp(braces), before);
}

// As anybody may ask for it at a shell.
TEST(FocusKeys, CanBeTriedByTheirFrames) {
  TempFolder folder;
  const std::string file = folder.write("a.shot.toml", std::string(head) + pulls);
  std::vector<std::string> files;
  const auto with = [&](std::vector<Override> tried) {
    return open_shot({.file = file, .overrides = std::move(tried)}, files);
  };
  EXPECT_NEAR(focus_at(with({{"pull.60.at", "4 m"}}), 60.0), 4.0, 1e-9);
  EXPECT_NEAR(focus_at(with({{"pull.81.at", "4 m"}}), 81.0), 4.0, 1e-9);
  EXPECT_EQ(with({{"pull.41.frame", "none"}}).shot.pulls.size(), 2U);
  EXPECT_EQ(with({{"pull.41.frame", "31"}}).shot.pulls[1].frame, 31.0);
  EXPECT_THROW((void)with({{"pull.60.ease", "linear"}}), ShotFileError);
  EXPECT_THROW((void)with({{"pull.60.om", "boat"}}), ShotFileError);
}

}  // namespace focus_keys_test
}  // namespace jolly_iris
