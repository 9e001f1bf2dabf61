// Changes to a shot file: only the lines of what changes.
#include "jolly_iris/files/shot_edit.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <random>
#include <sstream>

#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace shot_edit_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::slurp;
using testing::TempFolder;

std::string edited(const std::string& text, const std::string& key,
                   const std::optional<std::string>& value) {
  return edited_shot(text, "a.shot.toml", {{key, value}});
}

std::vector<std::string> lines_of(const std::string& text) {
  std::istringstream all(text);
  std::vector<std::string> lines;
  for (std::string line; std::getline(all, line);) lines.push_back(line);
  return lines;
}

// How many lines differ, one after the other; lines put in or taken out count too.
std::size_t lines_that_differ(const std::string& a, const std::string& b) {
  const auto x = lines_of(a);
  const auto y = lines_of(b);
  std::size_t front = 0;
  while (front < std::min(x.size(), y.size()) && x[front] == y[front]) ++front;
  std::size_t back = 0;
  while (back < std::min(x.size(), y.size()) - front &&
         x[x.size() - 1 - back] == y[y.size() - 1 - back]) {
    ++back;
  }
  return std::max(x.size(), y.size()) - front - back;
}

TEST(ShotEdit, ReplacesAValueWhereItStands) {
  const std::string text =
      "# a shot\n[take]\n  stop  =  \"f/2\"   # the ring\nmark = \"2 m\"#no gap\n[lens]\nfocal = "
      "\"53 "
      "mm\"\n";
  EXPECT_EQ(
      edited(text, "take.stop", "\"f/5.6\""),
      "# a shot\n[take]\n  stop  =  \"f/5.6\" # the ring\nmark = \"2 m\"#no gap\n[lens]\nfocal = "
      "\"53 mm\"\n");
  EXPECT_EQ(
      edited(text, "take.mark", "\"3 m\""),
      "# a shot\n[take]\n  stop  =  \"f/2\"   # the ring\nmark = \"3 m\"#no gap\n[lens]\nfocal = "
      "\"53 mm\"\n");
  EXPECT_EQ(edited(text, "take.stop", "\"f/2\""), text);
}

TEST(ShotEdit, PutsWhatIsNewBelowItsLike) {
  const std::string text = "[take]\nstop = \"f/2\"\n\n# the glass\n[lens]\nfocal = \"53 mm\"\n";
  EXPECT_EQ(edited(text, "take.iso", "800"),
            "[take]\nstop = \"f/2\"\niso = 800\n\n# the glass\n[lens]\nfocal = \"53 mm\"\n");
  EXPECT_EQ(edited(text, "lens.iris.blades", "6"), text + "\n[lens.iris]\nblades = 6\n");
  EXPECT_EQ(edited(text, "unit", "\"cm\""), "unit = \"cm\"\n" + text);
  EXPECT_EQ(edited(text, "variant.at night.take.stop", "\"f/1.4\""),
            text + "\n[variant.\"at night\".take]\nstop = \"f/1.4\"\n");
  EXPECT_EQ(edited("[take]\n# nothing yet\n[lens]\n", "take.stop", "\"f/2\""),
            "[take]\nstop = \"f/2\"\n# nothing yet\n[lens]\n");
}

TEST(ShotEdit, KeepsTheWayThatItIsWrittenIn) {
  // Dotted keys, braces, short forms, a file that ends without a line's end.
  EXPECT_EQ(edited("take.stop = \"f/2\"", "take.iso", "800"),
            "take.stop = \"f/2\"\ntake.iso = 800\n");
  EXPECT_EQ(edited("[lens]\niris.blades = 5\n", "lens.iris.rotation", "\"3 deg\""),
            "[lens]\niris.blades = 5\niris.rotation = \"3 deg\"\n");
  EXPECT_EQ(edited("take = { stop = \"f/2\" } # set\n", "take.iso", "800"),
            "take = { stop = \"f/2\", iso = 800 } # set\n");
  EXPECT_EQ(edited("take = {}\n", "take.iso", "800"), "take = { iso = 800 }\n");
  EXPECT_EQ(edited("lens = { focal = \"5 cm\" }\n", "lens.iris.blades", "5"),
            "lens = { focal = \"5 cm\", iris.blades = 5 }\n");
  EXPECT_EQ(edited("lens = \"linden.lens.toml\"  # ours\n", "lens.adapter", "0.8"),
            "lens = { file = \"linden.lens.toml\", adapter = 0.8 }  # ours\n");
  EXPECT_EQ(edited("[take]\r\nstop = \"f/2\"\r\n", "take.iso", "800"),
            "[take]\r\nstop = \"f/2\"\r\niso = 800\r\n");
}

TEST(ShotEdit, TakesOutAndLeavesTheRest) {
  EXPECT_EQ(edited("[take]\nstop = \"f/2\"\niso = 800 # hm\nfps = 24\n", "take.iso", std::nullopt),
            "[take]\nstop = \"f/2\"\nfps = 24\n");
  const std::string braces = "take = { stop = \"f/2\", iso = 800, fps = 24 }\n";
  EXPECT_EQ(edited(braces, "take.iso", std::nullopt), "take = { stop = \"f/2\", fps = 24 }\n");
  EXPECT_EQ(edited(braces, "take.fps", std::nullopt), "take = { stop = \"f/2\", iso = 800 }\n");
  EXPECT_EQ(edited(braces, "take.mark", std::nullopt), braces);
  EXPECT_EQ(
      edited("[plate]\n[[plate.line]]\npoints = [[1, 2],\n  [3, 4]]  # over lines\nname = \"a\"\n",
             "plate.line[0].points", std::nullopt),
      "[plate]\n[[plate.line]]\nname = \"a\"\n");
}

TEST(ShotEdit, KnowsSubjectsByName) {
  const std::string text =
      "[[subject]]\nname = \"boat\"\nat = \"2 m\"\n\n[[subject]]\nname = \"buoy 3\"\nat = \"7 m\" "
      "# "
      "tape\n\n[take]\nstop = \"f/2\"\n";
  EXPECT_EQ(
      edited(text, "subject.buoy 3.at", "\"8 m\""),
      "[[subject]]\nname = \"boat\"\nat = \"2 m\"\n\n[[subject]]\nname = \"buoy 3\"\nat = \"8 m\" "
      "# tape\n\n[take]\nstop = \"f/2\"\n");
  EXPECT_EQ(
      edited(text, "subject.boat.size", "\"30 cm\""),
      "[[subject]]\nname = \"boat\"\nat = \"2 m\"\nsize = \"30 cm\"\n\n[[subject]]\nname = \"buoy "
      "3\"\nat = \"7 m\" # tape\n\n[take]\nstop = \"f/2\"\n");
  EXPECT_EQ(edited(text, "subject.quay.at", "\"40 m\""),
            text + "\n[[subject]]\nname = \"quay\"\nat = \"40 m\"\n");
}

TEST(ShotEdit, KnowsKeysOfTheFocusByTheirFrames) {
  const std::string text =
      "[[pull]]\nframe = 1 # here\non = \"boat\"\n\n# later\n[[pull]] # two\nframe = 20\nat = \"3 "
      "m\"\n\n[take]\nstop = \"f/2\"\n";
  EXPECT_EQ(edited(text, "pull.20.at", "\"4 m\""), testing::replaced(text, "\"3 m\"", "\"4 m\""));
  EXPECT_EQ(edited(text, "pull.20.0.ease", "\"step\""),
            testing::replaced(text, "\"3 m\"\n", "\"3 m\"\nease = \"step\"\n"));
  EXPECT_EQ(edited(text, "pull.9.on", "\"quay\""),
            testing::replaced(text, "# later", "[[pull]]\nframe = 9\non = \"quay\"\n\n# later"));
  EXPECT_EQ(
      edited(text, "pull.30.on", "\"quay\""),
      testing::replaced(text, "\"3 m\"\n", "\"3 m\"\n\n[[pull]]\nframe = 30\non = \"quay\"\n"));
  EXPECT_EQ(edited(text, "pull.20.frame", "25"),
            testing::replaced(text, "frame = 20", "frame = 25"));
  EXPECT_EQ(edited(text, "pull.20.frame", std::nullopt),
            "[[pull]]\nframe = 1 # here\non = \"boat\"\n\n# later\n[take]\nstop = \"f/2\"\n");
  EXPECT_EQ(edited(text, "pull.7.frame", std::nullopt), text);
  EXPECT_EQ(edited("[take]\n", "variant.night.pull.5.on", "\"quay\""),
            "[take]\n\n[[variant.night.pull]]\nframe = 5\non = \"quay\"\n");
  EXPECT_EQ(written_value(text, "a.toml", "pull.20.at"), "\"3 m\"");
  EXPECT_FALSE(written_value(text, "a.toml", "pull.21.at"));
}

TEST(ShotEdit, ChangesNothingThatItCannot) {
  EXPECT_TRUE(holds(message_of<FileError>([] { (void)edited("take = 3\n", "take.stop", "1"); }),
                    "take.stop stands below a value, take; nothing is changed"));
  EXPECT_TRUE(holds(message_of<FileError>([] { (void)edited("[take]\n", "take.stop", "f/2"); }),
                    "take.stop cannot be set to f/2"));
  EXPECT_THROW((void)edited("[take\n", "take.stop", "1"), ShotFileError);
  EXPECT_THROW((void)edited("", "take.stop", "1\nfps = 2"), FileError);
}

// Shot files as anybody might write them: the same keys as tables, dotted or in braces, with odd
// spacing and comments.
class Scribe {
 public:
  explicit Scribe(unsigned seed) : random_(seed) {}

  std::string shot() {
    std::string text;
    if (chance(50)) text += comment() + "\n";
    if (chance(60)) text += "unit" + equals() + "\"cm\"" + tail();
    const Values take{{"stop", "\"f/2\""}, {"mark", "\"2.4 m\""}, {"iso", "800"}};
    const int way = below(3);
    if (way == 0) text += in_braces("take", take);
    if (way == 1) text += dotted("take", take);
    text += table("body", {{"gate", "\"24 x 13.5 mm\""}, {"pixels", "\"96 x 54\""}});
    text += table("lens", {{"focal", "\"53 mm\""}, {"adapter", "0.76"}});
    if (chance(60)) text += table("lens.iris", {{"blades", "7"}, {"rotation", "\"3 deg\""}});
    if (way == 2) text += table("take", take);
    for (int i = below(3); i > 0; --i) {
      text += "[[subject]]" + tail() + "name" + equals() + "\"ö " + std::to_string(i) + "\"" +
              tail() + "at" + equals() + "\"3 m\"" + tail();
    }
    const int keys = below(4);
    for (int i = 0; i < keys; ++i) {
      text += "[[pull]]" + tail() + "frame" + equals() + std::to_string(1001 + 20 * i) + tail() +
              "on" + equals() + "\"ö 1\"" + tail();
    }
    if (chance(20)) text.pop_back();
    return text;
  }

  ShotEdit edit() {
    const std::vector<ShotEdit> all{{"take.stop", "\"f/8\""},
                                    {"take.iso", std::nullopt},
                                    {"take.fps", "24"},
                                    {"lens.focal", "\"5 cm\""},
                                    {"lens.iris.blades", "9"},
                                    {"lens.iris.rotation", std::nullopt},
                                    {"lens.faults.spherical", "\"0.1 mm\""},
                                    {"unit", "\"ft\""},
                                    {"focus.at", "\"7' 10\\\"\""},
                                    {"subject.ö 1.at", "\"4 m\""},
                                    {"subject.new.at", "\"5 m\""},
                                    {"variant.night.take.stop", "\"f/1.4\""},
                                    {"pull.1021.at", "\"3 m\""},
                                    {"pull.1021.on", "\"boat\""},
                                    {"pull.1010.on", "\"boat\""},
                                    {"pull.1500.at", "\"4 m\""},
                                    {"pull.1001.on", std::nullopt},
                                    {"variant.night.pull.1010.on", "\"boat\""},
                                    {"guessed.take.stop", "\"by eye\""}};
    return all[static_cast<std::size_t>(below(static_cast<int>(all.size())))];
  }

 private:
  using Values = std::vector<std::pair<std::string, std::string>>;

  int below(int n) { return std::uniform_int_distribution<int>(0, n - 1)(random_); }
  bool chance(int percent) { return below(100) < percent; }
  std::string blanks() {
    return std::string(static_cast<std::size_t>(below(3)), chance(80) ? ' ' : '\t');
  }
  std::string equals() { return blanks() + "=" + blanks(); }
  std::string comment() { return chance(50) ? "# [take] is = not \"here\"" : "#µ ¾ ende"; }
  std::string tail() {
    std::string end = chance(40) ? blanks() + comment() : blanks();
    end += "\n";
    if (chance(15)) end += "\n";
    if (chance(15)) end += blanks() + comment() + "\n";
    return end;
  }

  std::string table(const std::string& name, const Values& values) {
    std::string text = blanks() + "[" + blanks() + name + blanks() + "]" + tail();
    for (const auto& [key, value] : values) {
      if (!chance(20)) text += blanks() + key + equals() + value + tail();
    }
    return text;
  }
  std::string dotted(const std::string& name, const Values& values) {
    std::string text;
    for (const auto& [key, value] : values) {
      if (!chance(20)) text += blanks() + name + "." + key + equals() + value + tail();
    }
    return text;
  }
  std::string in_braces(const std::string& name, const Values& values) {
    std::string text;
    for (const auto& [key, value] : values) {
      if (chance(20)) continue;
      text += (text.empty() ? "" : blanks() + ",") + blanks() + key + equals() + value;
    }
    return name + equals() + "{" + text + blanks() + "}" + tail();
  }

  std::mt19937 random_;
};

TEST(ShotEdit, ChangesOnlyTheLinesOfItsValuesHoweverTheyAreWritten) {
  for (unsigned seed = 1; seed <= 3000; ++seed) {
    Scribe scribe(seed);
    const std::string text = scribe.shot();
    const ShotEdit edit = scribe.edit();
    const std::string now = edited_shot(text, "a.shot.toml", {edit});
    // A line; where a table, a subject or a key of the focus of its own is begun, four; and the end
    // of a last line that had none.
    const bool begun = now.find(text) == 0 || edit.key.find("pull.") != std::string::npos;
    const std::size_t lines = begun ? 4 : 1;
    EXPECT_LE(lines_that_differ(text, now), lines) << seed << "\n" << text << "\n->\n" << now;
    EXPECT_EQ(edited_shot(now, "a.shot.toml", {edit}), now) << seed << "\n" << text;
  }
}

// The demo's shots are as people write them; each of their values can be changed alone.
TEST(ShotEdit, ChangesEveryTextOfTheDemo) {
  const TempFolder folder;
  int changed = 0;
  for (const char* name : {"hero", "drift", "quay", "oval", "bank", "reeds", "dusk", "triangles"}) {
    const std::string file = demo(std::string(name) + ".shot.toml");
    const std::string text = slurp(file);
    for (const auto& [key, origin] : read_shot(file, {}, Solved::left_out).origins) {
      const bool over_lines = origin.text.starts_with("[");
      if (!origin.place.starts_with(file) || over_lines) continue;
      const std::string now = edited_shot(text, file, {{key, "\"another\""}});
      EXPECT_LE(lines_that_differ(text, now), 1U) << key << "\n" << now;
      ++changed;
    }
  }
  EXPECT_GE(changed, 80);
}

}  // namespace shot_edit_test
}  // namespace jolly_iris
