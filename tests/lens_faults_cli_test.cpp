// What a lens's faults, its squeeze and its gate do to what the report says; and small things that
// were found wrong on the command line.
#include <OpenImageIO/imageio.h>
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <random>

#include "cli_support.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "small_dusk.hpp"

namespace jolly_iris {
namespace lens_faults_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

std::string faulty(const TempFolder& folder, double spherical_mm, const std::string& more = {}) {
  return folder.write(
      "a.shot.toml",
      fmt::format(
          "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"1920 x 1080\"\n[lens]\nfocal = "
          "\"50 mm\"\nwidest = \"f/2\"\n[lens.faults]\nspherical = \"{:g} mm\"\n[take]\nstop "
          "= \"f/2\"\n[focus]\non = \"boat\"\n[[subject]]\nname = \"boat\"\nat = \"2 "
          "m\"\n[[subject]]\nname = \"pier\"\nat = \"2.3 m\"\n{}",
          spherical_mm, more));
}

const Json& subject(const Json& report, const std::string& name) {
  for (const Json& s : report["subjects"]) {
    if (s["name"] == name) return s;
  }
  throw std::runtime_error("no subject " + name);
}

// A ray through ρ lands at ρ c / 2 + a (ρ³ − 2 ρ / 3) (Welford, third order): the diameter that
// holds 80 % of the light, over √0.8.
double seen_blur_mm(double coc_mm, double a_mm) {
  std::vector<double> places;
  for (int i = 0; i < 100000; ++i) {
    const double rho = std::sqrt((i + 0.5) / 100000);
    places.push_back(std::abs(0.5 * rho * coc_mm + a_mm * (rho * rho * rho - 2.0 * rho / 3.0)));
  }
  std::nth_element(places.begin(), places.begin() + 80000, places.end());
  return 2.0 * places[80000] / std::sqrt(0.8);
}

TEST(LensFaults, WhoIsSharpIsCountedWithThem) {
  const TempFolder folder;
  for (const double a : {0.02, 0.08, 0.2}) {
    const Json plain = Json::parse(run({"report", faulty(folder, 1e-9), "--json"}).out);
    const Json j = Json::parse(run({"report", faulty(folder, a), "--json"}).out);
    for (const char* name : {"boat", "pier"}) {
      const double c = subject(plain, name)["coc_mm"].get<double>();
      EXPECT_NEAR(std::abs(subject(j, name)["coc_mm"].get<double>()), seen_blur_mm(c, a),
                  0.01 * seen_blur_mm(c, a))
          << name << ", " << a;
    }
    const double limit = j["sharpness"]["coc_limit_mm"].get<double>();
    EXPECT_EQ(subject(j, "boat")["sharp"].get<bool>(), seen_blur_mm(0.0, a) <= limit);
  }
  // What softens everything visibly is said, and nothing is called sharp.
  const Ran r = run({"report", faulty(folder, 0.2)});
  EXPECT_TRUE(holds(r.out, "WHO IS SHARP: nobody")) << r.out;
  EXPECT_TRUE(Json::parse(run({"report", faulty(folder, 0.2), "--json"}).out)["sharpness"]["near_m"]
                  .is_null());
}

TEST(LensFaults, APictureOfTheIrisNearTheFocusIsBounded) {
  const TempFolder folder;
  const Ran r =
      run({"bokeh", faulty(folder, 0.1), "--kernel", folder / "k.exr", "--at", "2.001 m"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(read_picture(folder / "k.exr").colour.width(), 256);
}

TEST(BokehCli, AnOddNumberOfTriesIsDrawnAsTheScene) {
  const TempFolder folder;
  const auto [shot, cg] = testing::small_dusk(folder);
  const Ran r = run({"bokeh", shot, "--vary", "take.stop=f/2,f/2.8,f/4", "--as", "defocus",
                     "--sharp", cg, "-o", folder / "a.png"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(read_picture(folder / "a.png").colour.width(), 1280);
}

TEST(BokehCli, TheSheetShowsTheColouringAndTheTextsNumbers) {
  const TempFolder folder;
  const std::string plain = faulty(folder, 1e-9);
  ASSERT_EQ(run({"bokeh", plain, "--at", "8m", "-o", folder / "plain.png"}).code, 0);
  const std::string red = faulty(folder, 1e-9,
                                 "[[lens.colouring]]\nright = \"0 mm\"\nup = \"0 mm\"\ncolour = "
                                 "[1, 0.2, 0.2]\nreach = \"20 mm\"\n");
  const Ran r = run({"bokeh", red, "--at", "8m", "-o", folder / "red.png"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Picture a = read_picture(folder / "plain.png").colour;
  const Picture b = read_picture(folder / "red.png").colour;
  double redder = 0.0;
  for (std::size_t i = 0; i < a.pixels().size(); ++i) {
    redder += static_cast<double>(a.pixels()[i][1] - b.pixels()[i][1]);
  }
  EXPECT_GT(redder, 100.0);
  // The numbers on the sheet are those of the text.
  ASSERT_EQ(run({"bokeh", plain, "--at", "8m", "-o", folder / "a.svg"}).code, 0);
  const Json j =
      Json::parse(run({"bokeh", plain, "--at", "8m", "--json", "-o", folder / "b.svg"}).out);
  const std::string svg = slurp(folder / "a.svg");
  EXPECT_FALSE(svg.empty());
  EXPECT_GT(j["discs"][0]["wide_px"].get<double>(), 10.0);
}

TEST(BokehCli, ATintOfDiscsIsReadChecksItselfAndShows) {
  const TempFolder folder;
  const std::string plain = faulty(folder, 1e-9);
  ASSERT_EQ(run({"bokeh", plain, "--at", "8m", "-o", folder / "plain.png"}).code, 0);
  const std::vector<std::string> tint{"--set", "lens.tint.colour=[1, 0.3, 0.2]", "--set",
                                      "lens.tint.reach=10 mm"};
  std::vector<std::string> args{"bokeh", plain, "--at", "8m", "-o", folder / "tint.png"};
  args.insert(args.end(), tint.begin(), tint.end());
  const Ran r = run(args);
  ASSERT_EQ(r.code, 0) << r.err;
  const Picture a = read_picture(folder / "plain.png").colour;
  const Picture b = read_picture(folder / "tint.png").colour;
  double redder = 0.0;
  for (std::size_t i = 0; i < a.pixels().size(); ++i) {
    redder += static_cast<double>(a.pixels()[i][1] - b.pixels()[i][1]);
  }
  EXPECT_GT(redder, 50.0);
  args.insert(args.end(), {"--set", "lens.tint.most=140 %"});
  const Ran odd = run(args);
  EXPECT_NE(odd.code, 0);
  EXPECT_TRUE(holds(odd.err, "lens.tint.most")) << odd.err;
}

TEST(BokehCli, NoiseIsAskedAtWhatIsNamed) {
  const TempFolder folder;
  const std::string shot = faulty(folder, 1e-9);
  const Ran r = run({"bokeh", shot, "--noise", "5%", "--at", "8m,20m", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_EQ(Json::parse(r.out)["rays"].size(), 2U);
  EXPECT_EQ(run({"bokeh", shot, "--noise", "5 of 9"}).code, 2);
  // Each try at each distance.
  const Ran v =
      run({"bokeh", shot, "--vary", "take.stop=f/2,f/4", "--at", "8m,20m", "-o", folder / "v.svg"});
  EXPECT_EQ(v.code, 0) << v.err;
  const Ran many = run({"bokeh", shot, "--vary", "take.stop=f/2,f/2.8,f/4,f/5.6,f/8", "--at",
                        "3m,8m,20m", "-o", folder / "w.svg"});
  EXPECT_EQ(many.code, 2);
  EXPECT_TRUE(holds(many.err, "15 rows")) << many.err;
}

TEST(Gates, APictureHigherThanTheSensorIsSaid) {
  const TempFolder folder;
  const std::string shot = folder.write(
      "a.shot.toml",
      "[body]\ngate = \"super 35\"\npixels = \"1920 x 1080\"\n[lens]\nfocal = \"50 mm\"\nsqueeze = "
      "2\n[take]\nstop = \"f/2\"\n[focus]\nat = \"2 m\"\n");
  EXPECT_TRUE(holds(run({"report", shot}).out, "nothing fills it")) << run({"report", shot}).out;
}

TEST(Gates, AVaryingSqueezesPixelAspectIsToldInEveryForm) {
  const TempFolder folder;
  const std::string shot = folder.write(
      "a.shot.toml",
      "[body]\ngate = \"12.95 x 14.6 mm\"\npixels = \"1920 x 1080\"\n[lens]\nfocal = \"53 "
      "mm\"\nsqueeze = 2\n[[lens.squeezes]]\nmark = \"1 m\"\nsqueeze = "
      "1.8\n[[lens.squeezes]]\nmark "
      "= \"9 m\"\nsqueeze = 2\n[take]\nstop = \"f/2.2\"\nmark = \"1 m\"\n");
  EXPECT_TRUE(holds(run({"report", shot}).out, "pixel aspect")) << run({"report", shot}).out;
  const Json j = Json::parse(run({"report", shot, "--json"}).out);
  EXPECT_NEAR(j["camera"]["pixel_aspect"].get<double>(), 0.9, 1e-6);
  EXPECT_TRUE(holds(run({"report", shot, "--for", "fixed-gate"}).out, "Pixels, width / height"));
  ASSERT_EQ(run({"handoff", shot, "--to", folder.path().string()}).code, 0);
  EXPECT_TRUE(holds(slurp(folder / "a.camera.usda"), "pixelAspectRatio = 0.9"));
  // One word, one meaning: the gate is the recorded one in text, JSON and pictures.
  EXPECT_TRUE(holds(run({"report", shot}).out,
                    fmt::format("{:.3f} x {:.3f} mm", j["camera"]["gate_mm"][0].get<double>(),
                                j["camera"]["gate_mm"][1].get<double>())));
}

void write_exif(const std::string& file, const std::vector<std::pair<std::string, float>>& numbers,
                const std::string& make, const std::string& model) {
  OIIO::ImageSpec spec(64, 36, 3, OIIO::TypeDesc::UINT8);
  for (const auto& [name, value] : numbers) {
    if (name.ends_with("Unit") || name.ends_with("Dimension") || name.ends_with("Film")) {
      spec.attribute(name, static_cast<int>(value));
    } else {
      spec.attribute(name, value);
    }
  }
  if (!make.empty()) spec.attribute("Make", make);
  if (!model.empty()) spec.attribute("Model", model);
  const std::vector<unsigned char> grey(64 * 36 * 3, 100);
  const auto out = OIIO::ImageOutput::create(file);
  ASSERT_TRUE(out && out->open(file, spec)) << OIIO::geterror();
  ASSERT_TRUE(out->write_image(OIIO::TypeDesc::UINT8, grey.data()) && out->close());
}

TEST(Start, TheFocalPlanesResolutionTellsTheGate) {
  const TempFolder folder;
  write_exif(folder / "a.jpg",
             {{"Exif:FocalLength", 50.0F},
              {"Exif:FocalPlaneXResolution", 6400.0F / 3.2F},
              {"Exif:FocalPlaneYResolution", 6400.0F / 3.2F},
              {"Exif:FocalPlaneResolutionUnit", 3.0F},
              {"Exif:PixelXDimension", 6400.0F},
              {"Exif:PixelYDimension", 3600.0F}},
             "Tansy Works", "Tansy Works Nine");
  const Ran r = run({"start", folder / "a.jpg", "-o", folder / "a.shot.toml"});
  ASSERT_EQ(r.code, 0) << r.err;
  const std::string text = slurp(folder / "a.shot.toml");
  EXPECT_TRUE(holds(text, "gate = \"32.00 x 18.00 mm\"")) << text;
  EXPECT_TRUE(holds(text, "focal plane's resolution"));
  EXPECT_TRUE(holds(text, "\"Tansy Works Nine\"")) << text;
}

TEST(Start, SaysWhatItAssumesOfAnEquivalent) {
  const TempFolder folder;
  write_exif(folder / "a.jpg", {{"Exif:FocalLength", 50.0F}, {"Exif:FocalLengthIn35mmFilm", 75.0F}},
             "", "");
  const Ran r = run({"start", folder / "a.jpg", "-o", folder / "a.shot.toml"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "taken to mean the same")) << r.out;
}

TEST(Small, ThingsThatWereFoundWrong) {
  const TempFolder folder;
  // A name is listed once.
  const std::string twice =
      faulty(folder, 1e-9,
             "[variant.night]\ntake.stop = \"f/4\"\ntake.iso = 800\nlens.focal = \"35 mm\"\n");
  const Ran known = run({"report", twice, "--variant", "zzzzzzzzzzzz"});
  const auto first = known.err.find("'night'");
  ASSERT_NE(first, std::string::npos) << known.err;
  EXPECT_EQ(known.err.find("'night'", first + 1), std::string::npos) << known.err;
  // A folder that is not there.
  EXPECT_TRUE(holds(run({"handoff", twice, "--to", folder / "none"}).err, "make it first"));
  // A dialect by its name or its file's, wherever the numbers lie.
  for (const char* name : {"focal-and-gate", "focal-and-gate.dialect.toml"}) {
    const std::string typed = folder.write(
        "t.typed.toml",
        fmt::format("dialect = \"{}\"\n[typed]\n\"Focal length\" = 50\n\"Gate width\" = 24\n",
                    name));
    const Ran r = run({"report", twice, "--against", typed});
    EXPECT_EQ(r.code, 0) << r.err;
  }
  // A frame outside the shot's.
  const std::string moving = faulty(folder, 1e-9, "[frames]\nfirst = 1\nlast = 10\n");
  EXPECT_TRUE(holds(run({"report", moving, "--frame", "50"}).out, "outside the shot's frames"));
  EXPECT_TRUE(
      holds(run({"report", moving, "--frames", "5-50"}).err, "reach outside the shot's own"));
  // The opening is the lens's, whatever a cheat makes of the blur.
  const std::string cheat = faulty(folder, 1e-9, "[cheat]\nblur = 2\n");
  EXPECT_TRUE(holds(run({"report", cheat}).out, "is an opening of 25 mm"))
      << run({"report", cheat}).out;
}

TEST(Small, ABorderThatStaysEmptyIsSaid) {
  const TempFolder folder;
  const std::string shot = folder.write(
      "a.shot.toml",
      "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"192 x 108\"\n[lens]\nfocal = \"24 "
      "mm\"\n[lens.distortion]\nk1 = 0.06\n[take]\nstop = \"f/2\"\n[focus]\nat = \"2 m\"\n");
  write_picture(folder / "cg.exr", {Picture({192, 108}, {0.2F, 0.2F, 0.2F, 1.0F}), {}, {}});
  bool said = false;
  for (const char* k1 : {"0.06", "-0.06"}) {
    std::vector<std::string> args{"redistort", shot, folder / "cg.exr", "--set"};
    args.push_back(std::string("lens.distortion.k1=") + k1);
    args.insert(args.end(), {"-o", folder / "bent.exr"});
    const Ran r = run(args);
    ASSERT_EQ(r.code, 0) << r.err;
    std::size_t empty = 0;
    const Picture bent = read_picture(folder / "bent.exr").colour;
    for (const Rgba& p : bent.pixels()) {
      empty += p[3] == 0.0F ? 1U : 0U;
    }
    EXPECT_EQ(empty > 0, holds(r.err, "is empty, at its border")) << r.err;
    said = said || empty > 0;
  }
  EXPECT_TRUE(said);
}

}  // namespace lens_faults_cli_test
}  // namespace jolly_iris
