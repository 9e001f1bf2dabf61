// Values solved from a plate, beside the notes; and what a picture file says against them.
#include "jolly_iris/files/solved_file.hpp"

#include <gtest/gtest.h>

#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/metadata_check.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace solved_file_test {

using testing::holds;
using testing::TempFolder;

constexpr const char* notes =
    "[body]\ngate = \"25.9 x 14.6 mm\"\npixels = \"1920 x 1080\"\n[lens]\nfocal = \"40.3 mm\"\n"
    "[take]\nstop = \"f/2\"\nmark = \"2.4 m\"\niso = 800\n[focus]\nat = \"2 m\"\n";

TEST(SolvedFile, LeadsOverTheNotesAndEveryValueKnowsIt) {
  const TempFolder folder;
  const std::string shot = folder.write("a.shot.toml", notes);
  EXPECT_EQ(solved_file_of(shot).filename(), "a.solved.toml");
  EXPECT_EQ(solved_file_of("x/b.toml").filename(), "b.solved.toml");
  folder.write("a.solved.toml", solved_text(shot, "the adapter was forgotten",
                                            {{"lens.focal", "\"53 mm\"", "noted 40.3 mm"},
                                             {"lens.adapter", "0.76", ""},
                                             {"focus.at", "\"2.5 m\"", ""}}));
  const Shot read = read_shot(shot);
  EXPECT_NEAR(read.lens.focal.mm(), 53.0, 1e-12);
  EXPECT_EQ(read.lens.adapter, 0.76);
  EXPECT_NEAR(read.focus.distance->length.m(), 2.5, 1e-12);
  EXPECT_EQ(read.take.stop.value, 2.0);
  EXPECT_EQ(read.origins.at("lens.focal").source, Origin::Source::solved);
  EXPECT_EQ(read.origins.at("take.stop").source, Origin::Source::noted);
  EXPECT_TRUE(holds(read.origins.at("lens.focal").place, "a.solved.toml:"));
  EXPECT_TRUE(holds(read.solved, "a.solved.toml"));
  EXPECT_TRUE(read.solved_left.empty());
  // Tried values lead over solved ones, and all of it can be left out.
  EXPECT_NEAR(read_shot(shot, {{"lens.focal", "50 mm"}}).lens.focal.mm(), 50.0, 1e-12);
  EXPECT_NEAR(read_shot(shot, {}, Solved::left_out).lens.focal.mm(), 40.3, 1e-12);
}

TEST(SolvedFile, IsLeftOutOnceTheNotesAreOthers) {
  const TempFolder folder;
  const std::string shot = folder.write("a.shot.toml", notes);
  folder.write("a.solved.toml", solved_text(shot, "why", {{"lens.focal", "\"53 mm\"", ""}}));
  std::string changed = notes;
  changed.replace(changed.find("f/2"), 3, "f/4");
  folder.write("a.shot.toml", changed);
  const Shot read = read_shot(shot);
  EXPECT_NEAR(read.lens.focal.mm(), 40.3, 1e-12);
  EXPECT_TRUE(read.solved.empty());
  EXPECT_TRUE(holds(read.solved_left, "a.solved.toml is left out"));
  // What was drawn on the plate is no note of the camera.
  folder.write("a.shot.toml", std::string(notes) + "[[plate.lamp]]\nat = [10, 20]\n");
  EXPECT_FALSE(read_shot(shot).solved.empty());
  // A key that no shot file has is told with its place.
  folder.write("a.shot.toml", notes);
  folder.write("a.solved.toml", solved_text(shot, "why", {{"lens.fokal", "\"53 mm\"", ""}}));
  EXPECT_TRUE(
      holds(testing::message_of<ShotFileError>([&] { (void)read_shot(shot); }), "a.solved.toml:6"));
}

const MetadataFinding* row_of(const std::vector<MetadataFinding>& rows, const std::string& what) {
  for (const MetadataFinding& r : rows) {
    if (r.what == what) return &r;
  }
  return nullptr;
}

TEST(FactsAgainst, TellsWhatIsAsNotedNewOrOtherwise) {
  const TempFolder folder;
  const Shot shot = read_shot(folder.write("a.shot.toml", notes));
  PlateFacts facts;
  facts.pixels = {960, 540};  // smaller, of the same shape
  facts.focal = 53_mm;
  facts.f_number = 2.0;
  facts.iso = 400.0;
  facts.exposure_time = Duration::from_seconds(0.02);
  facts.distance = 2.45_m;
  const auto rows = check_metadata(facts, shot);
  using Verdict = MetadataFinding::Verdict;
  ASSERT_NE(row_of(rows, "focal length"), nullptr);
  EXPECT_EQ(row_of(rows, "focal length")->verdict, Verdict::conflict);
  EXPECT_TRUE(holds(row_of(rows, "focal length")->message, "reducer of 0.76"));
  EXPECT_EQ(row_of(rows, "stop")->verdict, Verdict::same);
  EXPECT_EQ(row_of(rows, "iso")->verdict, Verdict::conflict);
  EXPECT_TRUE(holds(row_of(rows, "iso")->message, "1.0 stops apart"));
  EXPECT_EQ(row_of(rows, "exposure time")->verdict, Verdict::proposed);
  EXPECT_EQ(row_of(rows, "exposure time")->entry, "take.shutter = \"1/50 s\"");
  EXPECT_EQ(row_of(rows, "focus distance")->verdict, Verdict::same);
  EXPECT_EQ(row_of(rows, "pixels")->verdict, Verdict::same);
  facts.pixels = {960, 400};
  facts.equivalent_mm = 58.0;  // says a gate of 36 x 24 mm's diagonal
  const auto other = check_metadata(facts, shot);
  EXPECT_EQ(row_of(other, "pixels")->verdict, Verdict::conflict);
  EXPECT_EQ(row_of(other, "gate's diagonal")->verdict, Verdict::conflict);
  EXPECT_TRUE(check_metadata({}, shot).empty());
}

}  // namespace solved_file_test
}  // namespace jolly_iris
