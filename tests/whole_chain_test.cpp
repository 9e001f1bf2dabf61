// The whole way on the demo's plate, and truths traced by many rays. Under the sanitizers each of
// these takes minutes, and the code below them is run there by the other tests: the optimised build
// alone has them.
#include <array>
#include <cmath>

#include "cli_support.hpp"
#include "jolly_iris/picture/psnr.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {
namespace whole_chain_test {

using testing::data_of;
using testing::demo;
using testing::holds;
using testing::parameter;
using testing::Ran;
using testing::run;
using testing::said;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

// A copy of the demo, so that what is solved has a place of its own.
std::string copied_notes(const TempFolder& folder) {
  for (const char* name : {"notes.shot.toml", "tansy.body.toml", "linden-53.lens.toml",
                           "regatta.gltf", "regatta.bin", "plate.jpg", "pinhole.exr"}) {
    std::filesystem::copy_file(demo(name), folder / name);
  }
  return folder / "notes.shot.toml";
}

// The artist's whole way: plate → match → report → defocus → compare, once with the notes and once
// with what was solved.
TEST(MatchCli, SolvedNotesMakeCgThatIsLikeThePlate) {
  const TempFolder folder;
  const std::string shot = copied_notes(folder);
  Ran r = run({"match", shot, "--accept"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "focal length     53 mm, noted 40.3 mm: a reducer of 0.76"));
  const std::string solved = slurp(folder / "notes.solved.toml");
  EXPECT_TRUE(holds(solved, "lens.adapter = 0.76"));
  EXPECT_EQ(slurp(shot), slurp(demo("notes.shot.toml")));  // notes are never written to
  r = run({"report", shot});
  EXPECT_TRUE(holds(r.out, "solved from the plate (notes.solved.toml), not noted: "));
  const auto larger = [&](const std::vector<std::string>& more, const std::string& name) {
    std::vector<std::string> blur{"defocus", shot, folder / "pinhole.exr", "-o", folder / name};
    blur.insert(blur.end(), more.begin(), more.end());
    EXPECT_EQ(run(blur).code, 0);
    std::vector<std::string> compare{"compare", shot, folder / name, "--json"};
    compare.insert(compare.end(), more.begin(), more.end());
    const Ran c = run(compare);
    EXPECT_EQ(c.code, 0) << c.err;
    return Json::parse(c.out);
  };
  const Json noted = larger({"--as-noted"}, "noted.exr");
  EXPECT_LT(noted["discs"]["larger"]["value"].get<double>(), -0.2);
  EXPECT_EQ(noted["moves"][0]["key"], "take.stop");
  const Json again = larger({}, "solved.exr");
  const double left = again["discs"]["larger"]["value"].get<double>();
  EXPECT_LT(std::abs(left), again["discs"]["larger"]["margin"].get<double>());
  EXPECT_GT(again["psnr_db"].get<double>(), noted["psnr_db"].get<double>() + 8.0);
  for (const Json& m : again["moves"]) EXPECT_NE(m["key"], "take.stop");
}

TEST(MatchCli, AgreesWithTheTrueNotesOfTheSamePlate) {
  const Ran r = run({"match", demo("hero.shot.toml"), "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = Json::parse(r.out);
  EXPECT_TRUE(j["notes_agree"].get<bool>());
  for (const Json& u : j["match"]["unknowns"]) {
    if (u["name"] != "stop") continue;
    EXPECT_NEAR(u["value"].get<double>(), 2.2, u["margin"].get<double>());
  }
}

TEST(MatchCli, FindsTheMistakePlantedInTheNotes) {
  const Ran r = run({"match", demo("notes.shot.toml")});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "1. adapter 0.76 left out of the stop: explains"));
}

TEST(MatchCli, ShotsOfOneCameraAreMatchedTogether) {
  const TempFolder folder;
  const std::string shot = copied_notes(folder);
  const std::string other = folder / "second.shot.toml";
  std::filesystem::copy_file(shot, other);
  Ran r = run({"match", shot, "--with", other, "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = Json::parse(r.out);
  ASSERT_EQ(j["together"].size(), 1U);
  const Json& first = j["match"];
  const Json& second = j["together"][0]["match"];
  EXPECT_EQ(parameter(first, "focal length")["value"], parameter(second, "focal length")["value"]);
  EXPECT_TRUE(holds(j["explanations"][0]["mistakes"][0].get<std::string>(),
                    "adapter 0.76 left out of the stop"));
  r = run({"match", shot, "--with", shot});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "that is the shot itself"));
}

TEST(MatchCli, ADoubtSaysHowMuch) {
  const auto message = [](const std::string& doubt) {
    return run({"match", demo("hero.shot.toml"), "--doubt", doubt}).err;
  };
  EXPECT_TRUE(holds(message("take.stop=x"), "'x' is no deviation; write e.g."));
  EXPECT_TRUE(holds(message("take.stop=0.5 stops"), "is no deviation"));
  EXPECT_TRUE(holds(message("take.ev=3 %"), "0.5 stops"));
  EXPECT_TRUE(holds(message("take.stpo"), "Did you mean 'take.stop'?"));
  const Ran vain = run({"match", demo("hero.shot.toml"), "--doubt", "take.white"});
  EXPECT_TRUE(holds(vain.out, "Doubting the white changes nothing: the plate does not show it."));
  EXPECT_TRUE(holds(vain.out, "[[plate.grey]] light"));
}

// What the sensor behind the lens has, traced, is the desqueezed picture squeezed; and back.
TEST(SqueezeCli, BothWaysAgreeWithTheTracer) {
  const TempFolder folder;
  const std::string shot = demo("oval.shot.toml");
  for (const bool squeezed : {false, true}) {
    std::vector<std::string> args{"trace", shot, "--half", "--samples", "64", "-o"};
    args.push_back(folder / (squeezed ? "narrow.exr" : "wide.exr"));
    if (squeezed) args.emplace_back("--squeezed");
    ASSERT_EQ(run(args).code, 0);
  }
  const Ran s = run({"squeeze", shot, folder / "wide.exr", "-o", folder / "s.exr"});
  ASSERT_EQ(s.code, 0) << s.err;
  EXPECT_TRUE(holds(s.out, "480 x 540, squeezed 2 x"));
  const Ran d = run({"desqueeze", shot, folder / "narrow.exr", "-o", folder / "d.exr"});
  ASSERT_EQ(d.code, 0) << d.err;
  EXPECT_TRUE(holds(d.out, "960 x 540, desqueezed 2 x"));
  EXPECT_EQ(d.err, "");
  const auto read = [&](const char* name) { return read_picture(folder / name).colour; };
  EXPECT_GT(psnr(read("s.exr"), read("narrow.exr")), 43.0);
  EXPECT_GT(psnr(read("d.exr"), read("wide.exr")), 36.0);
  EXPECT_DOUBLE_EQ(read_plate_facts(folder / "s.exr").pixel_aspect.value_or(0.0), 2.0);
  EXPECT_FALSE(read_plate_facts(folder / "d.exr").pixel_aspect) << "square ones";
  // Squeezed twice is a mistake that the file itself tells.
  const Ran twice = run({"squeeze", shot, folder / "s.exr", "-o", folder / "x.exr"});
  EXPECT_EQ(twice.code, 2);
  EXPECT_TRUE(holds(twice.err, "is squeezed already"));
}

TEST(DefocusCli, SqueezedPicturesKeepTheirShape) {
  const TempFolder folder;
  const Ran t = run({"trace", demo("oval.shot.toml"), "--pinhole", "--half", "--squeezed",
                     "--samples", "4", "-o", folder / "p.exr"});
  ASSERT_EQ(t.code, 0) << t.err;
  EXPECT_EQ(read_picture(folder / "p.exr").colour.width(), 480);
  const Ran d = run(
      {"defocus", demo("oval.shot.toml"), folder / "p.exr", "--squeezed", "-o", folder / "d.exr"});
  ASSERT_EQ(d.code, 0) << d.err;
  const Ran whole = run({"trace", demo("oval.shot.toml"), "--half", "--squeezed", "--samples", "32",
                         "-o", folder / "t.exr"});
  ASSERT_EQ(whole.code, 0) << whole.err;
  EXPECT_GT(psnr(read_picture(folder / "d.exr").colour, read_picture(folder / "t.exr").colour),
            34.0);
}

TEST(PageData, SaysWhatMatchAndCompareSayDrawnBoxesIncluded) {
  const TempFolder folder;
  const std::string page = folder / "p.html";
  const std::string cg = demo("pinhole.exr");
  const Ran made = run({"page", demo("notes.shot.toml"), "--match", "--cg", cg, "-o", page});
  ASSERT_EQ(made.code, 0) << made.err;
  const Json data = data_of(slurp(page));

  const Ran matched = run({"match", demo("notes.shot.toml"), "--json"});
  ASSERT_EQ(matched.code, 0) << matched.err;
  const Json match = Json::parse(matched.out);
  ASSERT_EQ(data["match"]["found"].size(), match["match"]["unknowns"].size());
  for (std::size_t i = 0; i < match["match"]["unknowns"].size(); ++i) {
    const Json& found = match["match"]["unknowns"][i];
    const Json& row = data["match"]["found"][i];
    EXPECT_EQ(row[0], found["name"]);
    if (found["name"] == "stop") {
      EXPECT_TRUE(
          holds(row[1], said(found["value"], "%.3f") + " ± " + said(found["margin"], "%.3f")));
    }
    if (found["name"] == "focal length") {
      EXPECT_TRUE(holds(row[1], said(found["value"], "%.2f mm")));
    }
  }
  EXPECT_TRUE(holds(data["match"]["words"].dump(), match["explanations"][0]["mistakes"][0]));
}

}  // namespace whole_chain_test
}  // namespace jolly_iris
