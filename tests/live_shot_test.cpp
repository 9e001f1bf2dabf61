// A shot in somebody's hand.
#include "jolly_iris/workflow/live_shot.hpp"

#include <gtest/gtest.h>

#include <filesystem>
#include <random>
#include <sstream>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace live_shot_test {

using testing::holds;
using testing::message_of;
using testing::replaced;
using testing::slurp;
using testing::TempFolder;

constexpr const char* text = R"(# the boats, as noted on the quay
unit = "cm"
[body]
gate   = "25.9 x 14.6 mm"     # all of it
pixels = "960 x 540"
[lens]
focal = "53 mm"
[lens.iris]
blades   = 7                  # counted
rotation = "0.2 rad"
[take]
  stop  =  "f/2.2"            # the ring said
mark = "240 cm"
iso = 800

[focus]
at = "235 cm"                 # a tape

[[subject]]
name = "boat"
at   = "235 cm"

[[subject]]
name = "bridge"
at   = "18.5 m"

[guessed]
take.stop = "nobody wrote it down"
focus.at = "by eye"
)";

// Time stamps of files are coarse: a second save shall be another one.
void save(const std::string& file, const std::string& what) {
  const auto before = std::filesystem::exists(file) ? std::filesystem::last_write_time(file)
                                                    : std::filesystem::file_time_type::min();
  std::ofstream(file, std::ios::binary) << what;
  if (std::filesystem::last_write_time(file) <= before) {
    std::filesystem::last_write_time(file, before + std::chrono::milliseconds(10));
  }
}

struct Hand {
  TempFolder folder{};
  std::string file = folder.write("a.shot.toml", text);
  LiveShot shot{{.file = file}};
  double stop() const { return shot.loaded().now.take.stop.value; }
  double focus_m() const { return shot.loaded().answer.camera.focus.m(); }
};

TEST(LiveShot, TurnsTakesBackAndTurnsAgain) {
  Hand h;
  EXPECT_FALSE(h.shot.can_undo());
  h.shot.change({{"take.stop", "f/4"}});
  h.shot.change({{"focus.on", "bridge"}});
  EXPECT_DOUBLE_EQ(h.stop(), 4.0);
  EXPECT_NEAR(h.focus_m(), 18.5, 1e-9);
  h.shot.undo();
  EXPECT_NEAR(h.focus_m(), 2.35, 1e-9);
  h.shot.undo();
  EXPECT_DOUBLE_EQ(h.stop(), 2.2);
  EXPECT_FALSE(h.shot.can_undo());
  h.shot.redo();
  h.shot.redo();
  EXPECT_NEAR(h.focus_m(), 18.5, 1e-9);
  EXPECT_FALSE(h.shot.can_redo());
  h.shot.undo();
  h.shot.change({{"take.iso", "400"}});  // another way: what was undone is gone
  EXPECT_FALSE(h.shot.can_redo());
  h.shot.reset();
  EXPECT_TRUE(h.shot.values().empty());
  h.shot.undo();
  EXPECT_EQ(h.shot.values().size(), 2U);
}

TEST(LiveShot, ADragIsTakenBackAsOne) {
  Hand h;
  for (const char* stop : {"f/2.5", "f/2.8", "f/3.2", "f/4"}) {
    h.shot.change({{"take.stop", stop}}, "drag 1");
  }
  for (const char* stop : {"f/4.5", "f/5.6"}) h.shot.change({{"take.stop", stop}}, "drag 2");
  h.shot.undo();
  EXPECT_DOUBLE_EQ(h.stop(), 4.0);
  h.shot.undo();
  EXPECT_DOUBLE_EQ(h.stop(), 2.2);
  EXPECT_FALSE(h.shot.can_undo());
}

TEST(LiveShot, TenThousandTurnsOfOneDragLeaveOneStep) {
  Hand h;
  const int turns = testing::cases(10000, 200);
  for (int i = 0; i < turns; ++i) {
    h.shot.change({{"take.stop", "f/" + std::to_string(2.0 + 0.0001 * i)}}, "drag");
  }
  h.shot.undo();
  EXPECT_FALSE(h.shot.can_undo());
}

TEST(LiveShot, WhatCannotBeChangesNothing) {
  Hand h;
  h.shot.change({{"take.stop", "f/4"}});
  const auto version = h.shot.version();
  EXPECT_THROW(h.shot.change({{"take.stop", "f/-1"}}), Error);
  EXPECT_THROW(h.shot.change({{"take.stopp", "f/2"}}), Error);
  EXPECT_THROW(h.shot.change({{"focus.on", "swan"}}), Error);
  EXPECT_DOUBLE_EQ(h.stop(), 4.0);
  EXPECT_EQ(h.shot.version(), version);
  EXPECT_EQ(h.shot.values().size(), 1U);
}

TEST(LiveShot, TriesAreKeptAndFlippedBetween) {
  Hand h;
  h.shot.change({{"take.stop", "f/1.4"}});
  EXPECT_EQ(h.shot.keep("wide"), 0U);
  h.shot.change({{"take.stop", "f/4"}});
  EXPECT_EQ(h.shot.keep(""), 1U);
  EXPECT_EQ(h.shot.tries()[1].name, "try 2");
  EXPECT_THROW(h.shot.keep("wide"), UsageError);
  h.shot.take(0);
  EXPECT_DOUBLE_EQ(h.stop(), 1.4);
  h.shot.take(1);
  EXPECT_DOUBLE_EQ(h.stop(), 4.0);
  h.shot.undo();
  EXPECT_DOUBLE_EQ(h.stop(), 1.4);
  h.shot.drop(0);
  EXPECT_EQ(h.shot.tries().size(), 1U);
  EXPECT_THROW(h.shot.take(5), UsageError);
}

TEST(LiveShot, WritesOnlyTheLinesOfWhatChangedInTheWritersOwnUnits) {
  Hand h;
  h.shot.change({{"take.stop", "f/1.4"}, {"focus.at", "2.4 m"}, {"lens.iris.rotation", "30 deg"}});
  const VirtualCamera before = h.shot.loaded().answer.camera;
  const LiveWritten done = h.shot.write();
  EXPECT_EQ(done.keys.size(), 3U);
  std::string wanted = replaced(text, "\"f/2.2\"            #", "\"f/1.4\"            #");
  wanted =
      replaced(wanted, "at = \"235 cm\"                 #", "at = \"240 cm\"                 #");
  wanted = replaced(wanted, "take.stop = \"nobody wrote it down\"\n", "");
  wanted = replaced(wanted, "focus.at = \"by eye\"\n", "");
  const std::string now = slurp(h.file);
  // The angle stays in radians, whatever its last figures.
  const auto line = now.find("rotation = \"0.5235987");
  ASSERT_NE(line, std::string::npos) << now;
  const auto end = now.find('\n', line);
  EXPECT_EQ(now, replaced(wanted, "rotation = \"0.2 rad\"", now.substr(line, end - line)));
  EXPECT_TRUE(h.shot.values().empty());
  EXPECT_NEAR(h.shot.loaded().answer.camera.focus.m(), before.focus.m(), 1e-9);
  EXPECT_NEAR(h.shot.loaded().answer.camera.iris.rotation.degrees(), 30.0, 1e-6);
  // Nothing is in the hand: nothing to write again.
  EXPECT_THROW(h.shot.write(), UsageError);
  EXPECT_EQ(slurp(h.file), now);
  h.shot.undo();  // what was written can still be taken back into the hand
  EXPECT_EQ(h.shot.values().size(), 3U);
}

TEST(LiveShot, WritesAVariantThatReportsTheSame) {
  Hand h;
  h.shot.change({{"take.stop", "f/1.4"}, {"focus.on", "bridge"}, {"subject.boat.at", "2 m"}});
  (void)h.shot.keep("first");
  h.shot.change({{"take.stop", "f/8"}});
  const LiveWritten done = h.shot.write("dreamy", 0);
  EXPECT_EQ(done.variant, "dreamy");
  EXPECT_TRUE(slurp(h.file).starts_with(text));  // all that was there is there
  std::vector<std::string> files;
  const LoadedShot loaded =
      open_shot({.file = h.file, .overrides = {{"variant", "dreamy"}}}, files);
  EXPECT_DOUBLE_EQ(loaded.now.take.stop.value, 1.4);
  EXPECT_NEAR(loaded.answer.camera.focus.m(), 18.5, 1e-9);
  EXPECT_DOUBLE_EQ(h.stop(), 8.0);  // the hand is as it was
  const std::string once = slurp(h.file);
  (void)h.shot.write("dreamy", 0);
  EXPECT_EQ(slurp(h.file), once);  // twice written is once written
  EXPECT_THROW(h.shot.write("two words"), UsageError);
  EXPECT_THROW(h.shot.write("x", 7), UsageError);
  EXPECT_EQ(slurp(h.file), once);
}

TEST(LiveShot, AnotherWayOfSayingTheFocusTakesThePlaceOfTheOld) {
  Hand h;
  h.shot.change({{"focus.on", "bridge"}});
  (void)h.shot.write();
  const std::string now = slurp(h.file);
  EXPECT_TRUE(holds(now, "on = \"bridge\""));
  EXPECT_EQ(now.find("at = \"235 cm\"                 # a tape"), std::string::npos) << now;
  EXPECT_NEAR(h.focus_m(), 18.5, 1e-9);
}

TEST(LiveShot, AFileSavedMeanwhileIsTakenIn) {
  Hand h;
  h.shot.change({{"take.stop", "f/4"}});
  EXPECT_FALSE(h.shot.look_again());
  save(h.file, replaced(text, "18.5 m", "20 m"));
  EXPECT_TRUE(h.shot.look_again());
  EXPECT_FALSE(h.shot.look_again());
  EXPECT_NEAR(h.shot.loaded().answer.subjects.back().axial.m(), 20.0, 1e-9);
  EXPECT_DOUBLE_EQ(h.stop(), 4.0);
  EXPECT_TRUE(h.shot.conflicts().empty());
}

TEST(LiveShot, WhereBothChangedTheSameOneIsAsked) {
  Hand h;
  h.shot.change({{"take.stop", "f/4"}});
  save(h.file, replaced(text, "f/2.2", "f/5.6"));
  EXPECT_TRUE(h.shot.look_again());
  ASSERT_EQ(h.shot.conflicts().size(), 1U);
  EXPECT_EQ(h.shot.conflicts()[0].key, "take.stop");
  EXPECT_EQ(h.shot.conflicts()[0].in_hand, "f/4");
  EXPECT_EQ(h.shot.conflicts()[0].in_file, "\"f/5.6\"");
  h.shot.settle("take.stop", false);
  EXPECT_DOUBLE_EQ(h.stop(), 5.6);
  EXPECT_TRUE(h.shot.conflicts().empty());
  // Both to the same: no question.
  h.shot.change({{"take.stop", "f/8"}});
  save(h.file, replaced(text, "f/2.2", "f/8"));
  EXPECT_TRUE(h.shot.look_again());
  EXPECT_TRUE(h.shot.conflicts().empty());
}

TEST(LiveShot, AHalfSavedFileIsToldAndTriedAgain) {
  Hand h;
  save(h.file, "[take\nstop = ");
  EXPECT_THROW(h.shot.look_again(), Error);
  EXPECT_DOUBLE_EQ(h.stop(), 2.2);
  EXPECT_THROW(h.shot.look_again(), Error);
  save(h.file, replaced(text, "f/2.2", "f/3.2"));
  EXPECT_TRUE(h.shot.look_again());
  EXPECT_DOUBLE_EQ(h.stop(), 3.2);
}

TEST(LiveShot, DoesNotWriteOverWhatSomebodyElseSaved) {
  Hand h;
  h.shot.change({{"take.iso", "400"}});
  const std::string theirs = replaced(text, "18.5 m", "20 m");
  save(h.file, theirs);
  EXPECT_TRUE(holds(message_of<FileError>([&] { (void)h.shot.write(); }), "somebody else"));
  EXPECT_EQ(slurp(h.file), theirs);
  (void)h.shot.look_again();
  (void)h.shot.write();
  EXPECT_EQ(slurp(h.file), replaced(theirs, "iso = 800", "iso = 400"));
}

TEST(LiveShot, InAnOpenVariantThatIsWrittenInto) {
  TempFolder folder;
  const std::string file =
      folder.write("a.shot.toml", std::string(text) + "\n[variant.night.take]\niso = 3200\n");
  LiveShot shot({.file = file, .overrides = {{"variant", "night"}}});
  shot.change({{"take.iso", "1600"}});
  EXPECT_THROW(shot.write("day"), UsageError);
  (void)shot.write();
  EXPECT_TRUE(holds(slurp(file), "[variant.night.take]\niso = 1600\n"));
  EXPECT_TRUE(holds(slurp(file), "\niso = 800\n"));
}

TEST(LiveShot, APulledFocusIsNotSilentlyReplaced) {
  TempFolder folder;
  std::string pulled = replaced(text, "[focus]\nat = \"235 cm\"                 # a tape\n",
                                "[[pull]]\nframe = 1\non = \"boat\"\n[[pull]]\nframe = 9\non = "
                                "\"bridge\"\n");
  pulled = replaced(pulled, "focus.at = \"by eye\"\n", "");
  const std::string file = folder.write("a.shot.toml", pulled);
  LiveShot shot({.file = file});
  shot.go_to_frame(9.0);
  EXPECT_NEAR(shot.loaded().answer.camera.focus.m(), 18.5, 1e-9);
  EXPECT_FALSE(shot.can_undo());
  shot.change({{"focus.on", "boat"}});
  EXPECT_THROW(shot.write(), UsageError);
  EXPECT_EQ(slurp(file), pulled);
  (void)shot.write("held");
  std::vector<std::string> files;
  const LoadedShot held =
      open_shot({.file = file, .overrides = {{"variant", "held"}}, .frame = 9.0}, files);
  EXPECT_NEAR(held.answer.camera.focus.m(), 2.35, 1e-9);
}

// Whatever was written says what the hand said, over files with odd spacing.
TEST(LiveShot, WhatIsWrittenIsWhatWasInTheHand) {
  std::mt19937 random(11);
  const std::vector<LiveChange> all{{"take.stop", "f/3.3"},
                                    {"take.iso", "1250"},
                                    {"lens.focal", "61.5 mm"},
                                    {"focus.at", "3.21 m"},
                                    {"focus.on", "bridge"},
                                    {"lens.iris.blades", "9"},
                                    {"lens.iris.blade_radius", "1.2 x"},
                                    {"take.nd", "2 stops"},
                                    {"subject.boat.at", "2.1 m"},
                                    {"lens.iris.rotation", "-12 deg"},
                                    {"cheat.blur", "1.5"},
                                    {"criterion", "1 px"}};
  for (int round = 0; round < testing::cases(120, 12); ++round) {
    std::string odd;
    for (const char c : std::string(text)) {
      odd += c;
      if (c == '=' && random() % 3 == 0) odd += std::string(random() % 4, ' ');
      if (c == '\n' && random() % 4 == 0) odd += random() % 2 == 0 ? "# a note\n" : "\n";
      if (c == '\n' && random() % 5 == 0) odd += "  ";
    }
    TempFolder folder(std::to_string(round));
    const std::string file = folder.write("a.shot.toml", odd);
    LiveShot shot({.file = file});
    for (int i = 0; i < 3; ++i) shot.change({all[random() % all.size()]});
    const bool variant = random() % 2 == 0;
    const VirtualCamera camera = shot.loaded().answer.camera;
    (void)shot.write(variant ? "v" : "");
    std::vector<std::string> files;
    ShotRequest again{.file = file};
    if (variant) again.overrides = {{"variant", "v"}};
    const VirtualCamera read = open_shot(again, files).answer.camera;
    EXPECT_NEAR(read.focal.mm(), camera.focal.mm(), 1e-6);
    EXPECT_NEAR(read.focus.m(), camera.focus.m(), 1e-6);
    EXPECT_NEAR(read.aperture_radius.mm(), camera.aperture_radius.mm(), 1e-6);
    EXPECT_EQ(read.iris.blades, camera.iris.blades);
    // Every comment is still there.
    std::istringstream lines(odd);
    const std::string now = slurp(file);
    for (std::string line; std::getline(lines, line);) {
      const auto comment = line.find('#');
      if (comment == std::string::npos || holds(line, "tape")) continue;
      EXPECT_TRUE(holds(now, line.substr(comment)));
    }
  }
}

TEST(Spelling, KeepsTheWritersUnit) {
  EXPECT_EQ(toml_spelling("2.4 m", "\"235 cm\""), "\"240 cm\"");
  // The shortest that is the same length to a part in a thousand million.
  EXPECT_EQ(toml_spelling("2.4 m", "\"2 ft\""), "\"7.87401575 ft\"");
  EXPECT_EQ(toml_spelling("2.4 m", "\"infinity\""), "\"2.4 m\"");
  EXPECT_EQ(toml_spelling("f/2.8", "\"f/2\""), "\"f/2.8\"");
  EXPECT_EQ(toml_spelling("180 deg", "\"0.2 rad\""), "\"3.141592654 rad\"");
  EXPECT_EQ(toml_spelling("400", "800"), "400");
  EXPECT_EQ(toml_spelling("a \"boat\""), R"("a \"boat\"")");
  EXPECT_EQ(toml_spelling("[1, 2]"), "[1, 2]");
}

}  // namespace live_shot_test
}  // namespace jolly_iris
