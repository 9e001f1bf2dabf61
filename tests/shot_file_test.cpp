#include "jolly_iris/files/shot_file.hpp"

#include <gtest/gtest.h>

#include <algorithm>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace shot_file_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::plain_shot;
using testing::TempFolder;

std::string mistakes_in(const std::string& text, const std::vector<Override>& tried = {}) {
  const TempFolder folder;
  const std::string path = folder.write("a.shot.toml", text);
  return message_of<ShotFileError>([&] { (void)read_shot(path, tried); });
}

TEST(ShotFile, ReadsTheDemo) {
  const Shot shot = read_shot(demo("hero.shot.toml"));
  EXPECT_EQ(shot.body.name, "tansy");
  EXPECT_EQ(shot.body.gate, (Extent{25.9_mm, 14.6_mm}));
  EXPECT_DOUBLE_EQ(shot.lens.focal.mm(), 53);
  EXPECT_DOUBLE_EQ(shot.lens.adapter, 0.76);
  EXPECT_EQ(shot.lens.iris.blades, 7);
  EXPECT_DOUBLE_EQ(shot.lens.iris.blade_radius.times, 1.5);
  EXPECT_DOUBLE_EQ(shot.take.mark->m(), 2.4);
  EXPECT_EQ(shot.focus.on, "boat");
  EXPECT_DOUBLE_EQ(shot.unit.mm(), 10);
  EXPECT_EQ(shot.plate->transfer, Transfer::srgb);
  EXPECT_EQ(shot.files.size(), 3U);
}

TEST(ShotFile, EveryValueKnowsWhereItCameFrom) {
  const Shot shot = read_shot(demo("hero.shot.toml"), {{"take.stop", "f/2.8"}});
  EXPECT_TRUE(holds(shot.origins.at("lens.focal").place, "linden-53.lens.toml:3:"));
  EXPECT_TRUE(holds(shot.origins.at("take.mark").place, "hero.shot.toml:13:"));
  EXPECT_EQ(shot.origins.at("take.mark").source, Origin::Source::noted);
  EXPECT_EQ(shot.origins.at("take.stop").source, Origin::Source::tried);
  EXPECT_EQ(shot.origins.at("take.stop").text, "f/2.8");
  EXPECT_DOUBLE_EQ(shot.take.stop.value, 2.8);
}

TEST(ShotFile, WhatTheShotSaysLeadsOverTheBodyAndLensFiles) {
  const TempFolder folder;
  folder.write("show.body.toml",
               "gate = \"24 x 14 mm\"\npixels = \"1920 x 1080\"\nname = \"tansy\"\n");
  folder.write("long.lens.toml", "focal = \"85 mm\"\n[iris]\nblades = 9\n");
  const Shot shot = read_shot(folder.write("a.shot.toml", R"(
    body = "show.body.toml"
    [lens]
    file = "long.lens.toml"
    [lens.iris]
    blades = 5
    [take]
    stop = "T2.1"
  )"));
  EXPECT_EQ(shot.body.name, "tansy");
  EXPECT_DOUBLE_EQ(shot.lens.focal.mm(), 85);
  EXPECT_EQ(shot.lens.iris.blades, 5);
}

TEST(ShotFile, AnotherLensFileCanBeTried) {
  const TempFolder folder;
  folder.write("a.lens.toml", "focal = \"35 mm\"\n");
  folder.write("b.lens.toml", "focal = \"85 mm\"\n");
  std::string text = plain_shot;
  text.replace(text.find("focal   = \"53 mm\""), 17, "file = \"a.lens.toml\"");
  const std::string path = folder.write("a.shot.toml", text);
  EXPECT_DOUBLE_EQ(read_shot(path).lens.focal.mm(), 35);
  EXPECT_DOUBLE_EQ(read_shot(path, {{"lens.file", "b.lens.toml"}}).lens.focal.mm(), 85);
  EXPECT_DOUBLE_EQ(read_shot(path, {{"lens.focal", "40 mm"}}).lens.focal.mm(), 40);
}

TEST(ShotFile, TellsAllMistakesInOneGo) {
  const std::string text = mistakes_in(R"(
[body]
gate   = "19.1 x 10.7"
pixels = "1920 x 1080"
colour = "black"

[lens]
focal  = 58
adaptor = 0.76
[lens.iris]
blades = 2

[take]
stop = "f/-2"
mark = "0 m"
iso  = "fast"
)");
  EXPECT_TRUE(holds(text, "a.shot.toml:3:10: body.gate: '19.1 x 10.7'"));
  EXPECT_TRUE(holds(text, ":5:10: body.colour: is not a key"));
  EXPECT_TRUE(holds(text, ":8:10: lens.focal: 58 is a bare number"));
  EXPECT_TRUE(
      holds(text, "lens.adaptor: is not a key of a shot file. Did you mean 'lens.adapter'?"));
  EXPECT_TRUE(holds(text, "lens.iris.blades: '2' is not a number of blades"));
  EXPECT_TRUE(holds(text, ":14:8: take.stop: the stop 'f/-2' is not above zero"));
  EXPECT_TRUE(holds(text, ":15:8: take.mark: '0 m' is not above zero"));
  EXPECT_TRUE(holds(text, "take.iso: 'fast'"));
  EXPECT_EQ(std::count(text.begin(), text.end(), '\n'), 7);
  EXPECT_LT(text.find("body.colour"), text.find("lens.adaptor"));  // from top to bottom
  EXPECT_LT(text.find("lens.adaptor"), text.find("take.stop"));
}

TEST(ShotFile, KeyInTheWrongSectionIsSentToTheRightOne) {
  EXPECT_TRUE(holds(mistakes_in(std::string(plain_shot) + "[focus]\niso = 800\n"), "'take.iso'"));
}

TEST(ShotFile, MissingKeysAreNamedWithAnExample) {
  const std::string text = mistakes_in("[body]\n");
  for (const char* key : {"body.gate: is missing", "body.pixels: is missing",
                          "lens.focal: is missing", "take.stop: is missing"}) {
    EXPECT_TRUE(holds(text, key));
  }
}

TEST(ShotFile, SyntaxErrorHasItsPlace) {
  EXPECT_TRUE(holds(mistakes_in("[body\ngate = 3"), "a.shot.toml:1:"));
}

TEST(ShotFile, BlanksOfAStarterFileAreTold) {
  std::string text = plain_shot;
  text.replace(text.find("53 mm"), 5, "");
  EXPECT_TRUE(holds(mistakes_in(text), "lens.focal: is still blank"));
}

TEST(ShotFile, OddKindsAreRefused) {
  for (const char* line : {"iso = nan", "iso = inf", "iso = true", "iso = 2024-01-01", "fps = [24]",
                           "shutter = { a = 1 }", "mark = 1979-05-27"}) {
    EXPECT_FALSE(mistakes_in(std::string(plain_shot) + line + "\n").empty()) << line;
  }
}

TEST(ShotFile, FocusIsOneThing) {
  EXPECT_TRUE(holds(mistakes_in(std::string(plain_shot) + "[focus]\non = \"a\"\nat = \"2 m\"\n"),
                    "focus.on and focus.at are both given"));
}

TEST(ShotFile, SubjectsNeedANameAndAPlace) {
  const std::string head = plain_shot;
  EXPECT_TRUE(holds(mistakes_in(head + "[[subject]]\nat = \"2 m\"\n"), "has no name"));
  EXPECT_TRUE(holds(mistakes_in(head + "[[subject]]\nname = \"a\"\n"), "is nowhere"));
  const std::string twice = "[[subject]]\nname = \"a\"\nat = \"2 m\"\n";
  EXPECT_TRUE(holds(mistakes_in(head + twice + twice), "'a' is a subject already"));
  EXPECT_TRUE(
      holds(mistakes_in(head + "[[subject]]\nname = \"a\"\nat = \"2 m\"\nplace = [0, 0, 1]\n"),
            "both given"));
  EXPECT_TRUE(
      holds(mistakes_in(head + "[[subject]]\nname = \"a\"\nplace = [0, 1]\n"), "three numbers"));
  EXPECT_TRUE(
      holds(mistakes_in(head + "[[subject]]\nname = \"a\"\nat = \"-1 m\"\n"), "not above zero"));
}

TEST(ShotFile, TriedValuesReplaceNotedOnesAndAreCheckedAlike) {
  const TempFolder folder;
  const std::string path = folder.write(
      "a.shot.toml", std::string(plain_shot) +
                         "[focus]\non = \"boat\"\n[[subject]]\nname = \"boat\"\nat = \"2 m\"\n");
  EXPECT_DOUBLE_EQ(read_shot(path, {{"take.iso", "400"}}).take.iso.value(), 400);
  EXPECT_DOUBLE_EQ(read_shot(path, {{"subject.boat.at", "3 m"}}).subjects[0].distance->length.m(),
                   3);
  const Shot moved = read_shot(path, {{"focus.at", "5 m"}});
  EXPECT_FALSE(moved.focus.on.has_value());
  EXPECT_DOUBLE_EQ(moved.focus.distance->length.m(), 5);
  EXPECT_TRUE(read_shot(path, {{"focus.at", "inf"}}).focus.distance->length.is_infinite());
  EXPECT_TRUE(holds(message_of<ShotFileError>([&] {
                      (void)read_shot(path, {{"take.stop", "2"}});
                    }),
                    "tried: take.stop"));
  EXPECT_TRUE(holds(message_of<ShotFileError>([&] {
                      (void)read_shot(path, {{"take.sotp", "f/2"}});
                    }),
                    "take.stop"));
  EXPECT_TRUE(holds(message_of<UsageError>([&] {
                      (void)read_shot(path, {{"subject.baot.at", "3 m"}});
                    }),
                    "'boat'"));
}

TEST(ShotFile, OutOfScopeProjectionsAreSaid) {
  const TempFolder folder;
  for (const char* kind : {"fisheye", "panorama", "orthographic", "stereo pair"}) {
    std::string text = plain_shot;
    text.insert(text.find("adapter"), std::string("projection = \"") + kind + "\"\n");
    const std::string path = folder.write("a.shot.toml", text);
    EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)read_shot(path); }), "out of scope"))
        << kind;
  }
}

TEST(ShotFile, MissingFilesAreNamedWithWhoNamedThem) {
  const TempFolder folder;
  EXPECT_THROW((void)read_shot(folder / "nowhere.shot.toml"), FileError);
  const std::string path = folder.write("a.shot.toml", "body = \"nowhere.body.toml\"\n");
  const auto message = message_of<FileError>([&] { (void)read_shot(path); });
  EXPECT_TRUE(holds(message, "a.shot.toml:1:"));
  EXPECT_TRUE(holds(message, "nowhere.body.toml"));
}

// ---- guesses

constexpr const char* guessed_shot = R"([body]
gate = "24 x 13.5 mm"
pixels = "1920 x 1080"
[lens]
focal = "35 mm"
[take]
stop = "f/2.8"
[focus]
on = "boat"
[[subject]]
name = "boat"
at = "3 m"
[variant.open.take]
stop = "f/1.4"
)";

Origin::Source source_of(const Shot& shot, const std::string& key) {
  return shot.origins.at(key).source;
}

TEST(Guessed, IsToldOfItsValuesUntilAnotherOneLeads) {
  const TempFolder folder;
  const std::string file =
      folder.write("a.shot.toml", std::string(guessed_shot) +
                                      "[guessed]\ntake.stop = \"A middle one\"\n"
                                      "subject.boat.at = \"By eye\"\n");
  const Shot shot = read_shot(file);
  EXPECT_EQ(source_of(shot, "take.stop"), Origin::Source::guessed);
  EXPECT_EQ(shot.origins.at("take.stop").why, "A middle one");
  EXPECT_EQ(source_of(shot, "subject[0].at"), Origin::Source::guessed);
  EXPECT_EQ(source_of(shot, "lens.focal"), Origin::Source::noted);
  const Answer a = answer(shot, nullptr);
  EXPECT_EQ(std::count_if(a.notes.begin(), a.notes.end(),
                          [](const std::string& n) { return n.starts_with("Guessed: "); }),
            2);
  EXPECT_EQ(source_of(read_shot(file, {{"take.stop", "f/4", "--set"}}), "take.stop"),
            Origin::Source::tried);
  EXPECT_EQ(source_of(read_shot(file, {{"variant", "open", "--variant"}}), "take.stop"),
            Origin::Source::noted);
}

TEST(Guessed, NamesAValueAndSaysWhy) {
  const TempFolder folder;
  const std::string file = folder.write(
      "a.shot.toml", std::string(guessed_shot) + "[guessed]\ntake.stp = \"x\"\nlens.focal = 3\n");
  const auto message = message_of<ShotFileError>([&] { (void)read_shot(file); });
  EXPECT_TRUE(holds(message, "a.shot.toml:16:")) << message;
  EXPECT_TRUE(holds(message, "guessed.take.stp: names no value of this file")) << message;
  EXPECT_TRUE(holds(message, "guessed.lens.focal: says why, as text in quotes")) << message;
}

}  // namespace shot_file_test
}  // namespace jolly_iris
