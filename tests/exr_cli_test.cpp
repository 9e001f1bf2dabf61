// What EXRs say and carry beside the picture: standard attributes, as OpenEXR's own tool reads
// them; channels and header entries of others that go through unchanged.
#include <OpenImageIO/imageio.h>
#include <gtest/gtest.h>

#include <array>
#include <cmath>
#include <cstdio>
#include <cstring>
#include <fstream>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace jolly_iris {
namespace exr_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::slurp;
using testing::TempFolder;
using Json = nlohmann::json;

std::string header_by_openexr(const std::string& file, const TempFolder& folder) {
  const std::string said = folder / "header.txt";
  EXPECT_EQ(std::system(("exrheader " + file + " > " + said).c_str()), 0);
  return slurp(said);
}

// The number behind `name (type float):`.
double number_of(const std::string& header, const std::string& name) {
  const std::string head = "\n" + name + " (type float): ";
  const auto at = header.find(head);
  EXPECT_NE(at, std::string::npos) << name << " in\n" << header;
  return at == std::string::npos ? std::nan("")
                                 : std::strtod(header.c_str() + at + head.size(), nullptr);
}

TEST(StandardAttributes, OpenExrsOwnToolReadsThem) {
  const TempFolder folder;
  const std::string file = folder / "t.exr";
  const Ran r = run({"trace", demo("hero.shot.toml"), "--half", "--samples", "1", "--box",
                     "0,0,64,64", "-o", file});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json j = Json::parse(run({"report", demo("hero.shot.toml"), "--json"}).out);
  const std::string header = header_by_openexr(file, folder);
  std::vector<std::string> files;
  const LoadedShot loaded = open_shot({.file = demo("hero.shot.toml")}, files);
  EXPECT_NEAR(number_of(header, "pinholeFocalLength"), j["camera"]["focal_mm"].get<double>(), 1e-4);
  EXPECT_NEAR(number_of(header, "aperture"), loaded.now.take.stop.value, 1e-5) << "as marked";
  EXPECT_NEAR(number_of(header, "tStop"),
              loaded.answer.camera.lens_t_number / loaded.now.lens.adapter, 1e-5);
  EXPECT_NEAR(number_of(header, "isoSpeed"), *loaded.now.take.iso, 1e-3);
  EXPECT_NEAR(number_of(header, "expTime"), loaded.answer.shutter->seconds(), 1e-7);
  EXPECT_NEAR(number_of(header, "focus"), loaded.answer.mark->m(), 1e-5);
  EXPECT_NEAR(number_of(header, "nominalFocalLength"), loaded.now.lens.focal.mm(), 1e-4);
  EXPECT_TRUE(holds(header, "framesPerSecond (type rational): 24/1")) << header;
  EXPECT_TRUE(holds(header, "worldToCamera (type m44f)"));
  EXPECT_TRUE(holds(header, "worldToNDC (type m44f)"));
  EXPECT_TRUE(holds(header, "chromaticities (type chromaticities)")) << header;
  // And they come back as what a camera is told by.
  const PlateFacts facts = read_plate_facts(file);
  EXPECT_NEAR(facts.focal->mm(), loaded.now.lens.focal.mm(), 1e-4);
  EXPECT_NEAR(facts.distance->m(), loaded.answer.mark->m(), 1e-5);
  EXPECT_NEAR(facts.fps.value_or(0.0), 24.0, 1e-6);
}

TEST(StandardAttributes, WorldToNdcLandsOnTheLamps) {
  const TempFolder folder;
  const std::string file = folder / "t.exr";
  ASSERT_EQ(
      run({"trace", demo("hero.shot.toml"), "--half", "--samples", "4", "--pinhole", "-o", file})
          .code,
      0);
  const auto in = OIIO::ImageInput::open(file);
  std::array<float, 16> m{};
  ASSERT_TRUE(in->spec().getattribute("worldtoNDC", OIIO::TypeMatrix, m.data()));
  const Picture p = read_picture(file).colour;
  std::vector<std::string> files;
  const LoadedShot loaded = open_shot({.file = demo("hero.shot.toml")}, files);
  int seen = 0;
  for (const SceneLamp& lamp : lamps_of(*loaded.scene, loaded.answer.place)) {
    const Vec3 w = loaded.answer.place * lamp.at;
    std::array<double, 4> ndc{};
    for (std::size_t i = 0; i < 4; ++i) {
      ndc[i] = w.x * m[i] + w.y * m[4 + i] + w.z * m[8 + i] + static_cast<double>(m[12 + i]);
    }
    if (!(ndc[3] > 0.0)) continue;
    const int x = static_cast<int>(std::floor(ndc[0] / ndc[3] * p.width()));
    const int y = static_cast<int>(std::floor(ndc[1] / ndc[3] * p.height()));
    if (x < 8 || y < 8 || x >= p.width() - 8 || y >= p.height() - 8) continue;
    float here = 0.0F;
    float beside = 0.0F;
    for (int dy = -1; dy <= 1; ++dy) {
      for (int dx = -1; dx <= 1; ++dx) {
        here = std::max(here, p.at(x + dx, y + dy)[0]);
        beside = std::max(beside, p.at(x + dx, y - 7 + dy)[0]);
      }
    }
    if (here > 5.0F * beside && here > 1.0F) ++seen;
  }
  EXPECT_GE(seen, 10) << "lamps that are where the header says";
}

TEST(DataWindow, ABoxKnowsItsPlaceInTheWhole) {
  const TempFolder folder;
  const std::string whole = folder / "whole.exr";
  const std::string part = folder / "part.exr";
  ASSERT_EQ(run({"defocus", demo("hero.shot.toml"), demo("pinhole.exr"), "-o", whole}).code, 0);
  ASSERT_EQ(run({"defocus", demo("hero.shot.toml"), demo("pinhole.exr"), "--box", "300,80,200,120",
                 "-o", part})
                .code,
            0);
  EXPECT_TRUE(
      holds(header_by_openexr(part, folder), "dataWindow (type box2i): (300 80) - (499 199)"));
  const Picture all = read_picture(whole).colour;
  const Picture one = read_picture(part).colour;
  ASSERT_EQ(one.size(), all.size());
  for (int y = 85; y < 195; ++y) {
    for (int x = 305; x < 495; ++x) {
      ASSERT_NEAR(static_cast<double>(one.at(x, y)[0]), static_cast<double>(all.at(x, y)[0]),
                  2e-3 * (1.0 + static_cast<double>(all.at(x, y)[0])));
    }
  }
  EXPECT_EQ(one.at(100, 100)[3], 0.0F);
  ASSERT_EQ(run({"trace", demo("hero.shot.toml"), "--half", "--samples", "1", "--box",
                 "10,20,30,40", "-o", part})
                .code,
            0);
  EXPECT_TRUE(holds(header_by_openexr(part, folder), "dataWindow (type box2i): (10 20) - (39 59)"));
}

// A picture as a renderer writes it: ids of 32 bits, a layer of light, an attribute of its own.
std::string rendered(const TempFolder& folder, bool ids_apart) {
  constexpr int w = 64;
  constexpr int h = 36;
  const std::string file = folder / "render.exr";
  OIIO::ImageSpec spec(w, h, 7, OIIO::TypeDesc::FLOAT);
  spec.channelnames = {"R", "G", "B", "A", "Z", "light.key.R", "id"};
  spec.channelformats.assign(7, OIIO::TypeDesc::FLOAT);
  spec.channelformats[5] = OIIO::TypeDesc::HALF;
  spec.channelformats[6] = OIIO::TypeDesc::UINT32;
  spec.attribute("renderer/settings", "quick");
  spec.attribute("seed", 77);
  OIIO::ImageSpec ids(w, h, 1, OIIO::TypeDesc::UINT32);
  ids.channelnames = {"id"};
  ids.attribute("oiio:subimagename", "objects");
  if (ids_apart) {
    spec.nchannels = 6;
    spec.channelnames.pop_back();
    spec.channelformats.pop_back();
    spec.attribute("oiio:subimagename", "beauty");
  }
  std::vector<unsigned char> bytes;
  std::vector<unsigned char> id_bytes;
  const auto put = [](std::vector<unsigned char>& to, const auto& v) {
    const auto* p = reinterpret_cast<const unsigned char*>(&v);
    to.insert(to.end(), p, p + sizeof v);
  };
  for (int y = 0; y < h; ++y) {
    for (int x = 0; x < w; ++x) {
      for (const float v : {0.1F, 0.2F, 0.3F, 1.0F, 2.0F + 0.1F * static_cast<float>(x)})
        put(bytes, v);
      put(bytes, static_cast<std::uint16_t>(0x3c00 + x));  // halves from 1 on
      const std::uint32_t id = 4000000000U + static_cast<std::uint32_t>(64 * y + x);
      put(ids_apart ? id_bytes : bytes, id);
    }
  }
  const auto out = OIIO::ImageOutput::create(file);
  const std::array<OIIO::ImageSpec, 2> both{spec, ids};
  EXPECT_TRUE(ids_apart ? out->open(file, 2, both.data()) : out->open(file, spec))
      << out->geterror();
  EXPECT_TRUE(out->write_image(OIIO::TypeDesc::UNKNOWN, bytes.data()));
  if (ids_apart) {
    EXPECT_TRUE(out->open(file, ids, OIIO::ImageOutput::AppendSubimage));
    EXPECT_TRUE(out->write_image(OIIO::TypeDesc::UNKNOWN, id_bytes.data()));
  }
  EXPECT_TRUE(out->close());
  return file;
}

TEST(PassesThrough, IdsLayersAndAttributesAreAsTheyWere) {
  for (const bool apart : {false, true}) {
    const TempFolder folder(apart ? "apart" : "together");
    const std::string from = rendered(folder, apart);
    const std::string to = folder / "blurred.exr";
    const Ran r = run({"defocus", demo("hero.shot.toml"), from, "-o", to});
    ASSERT_EQ(r.code, 0) << r.err;
    const std::string id = apart ? "objects.id" : "id";
    EXPECT_TRUE(holds(r.err, id)) << r.err;
    EXPECT_TRUE(holds(r.err, "neither blurred nor changed")) << r.err;
    const auto in = OIIO::ImageInput::open(to);
    const OIIO::ImageSpec& spec = in->spec();
    const int at = spec.channelindex(id);
    ASSERT_GE(at, 0);
    EXPECT_EQ(spec.channelformat(at), OIIO::TypeDesc(OIIO::TypeDesc::UINT32));
    std::vector<std::uint32_t> ids(64 * 36);
    ASSERT_TRUE(in->read_image(0, 0, at, at + 1, OIIO::TypeDesc::UINT32, ids.data()));
    for (std::size_t i = 0; i < ids.size(); ++i) ASSERT_EQ(ids[i], 4000000000U + i);
    const int light = spec.channelindex("light.key.R");
    ASSERT_GE(light, 0);
    std::vector<std::uint16_t> halves(64 * 36);
    ASSERT_TRUE(in->read_image(0, 0, light, light + 1, OIIO::TypeDesc::HALF, halves.data()));
    for (std::size_t i = 0; i < halves.size(); ++i) ASSERT_EQ(halves[i], 0x3c00 + i % 64);
    EXPECT_EQ(spec.get_string_attribute("renderer/settings"), "quick");
    EXPECT_EQ(spec.get_int_attribute("seed"), 77);
    // What we say of the camera stands before what came along.
    EXPECT_GT(spec.get_float_attribute("pinholeFocalLength"), 1.0F);
  }
}

TEST(PassesThrough, APictureOfAnotherSizeTakesNothingAlong) {
  const TempFolder folder;
  const std::string to = folder / "half.exr";
  const Ran r =
      run({"defocus", demo("hero.shot.toml"), rendered(folder, false), "--half", "-o", to});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_FALSE(holds(r.err, "neither blurred"));
  EXPECT_LT(OIIO::ImageInput::open(to)->spec().channelindex("id"), 0);
}

// A plate's own header is a witness; what we wrote into a picture of ours is none.
TEST(StandardAttributes, OurOwnPicturesAreNoWitnessAgainstTheNotes) {
  const TempFolder folder;
  const std::string plate = folder / "plate.exr";
  ASSERT_EQ(run({"trace", demo("dusk.shot.toml"), "--half", "--samples", "4", "-o", plate}).code,
            0);
  const auto noted = [&](const std::string& file) {
    return Json::parse(run({"match", demo("dusk.shot.toml"), "--set", "plate.file=" + file, "--set",
                            "take.iso=200", "--json"})
                           .out);
  };
  // Of the picture's size, and of nothing else.
  const std::string ours = noted(plate).dump();
  EXPECT_EQ(ours.find("\"what\":\"iso\""), std::string::npos) << ours;
  EXPECT_EQ(ours.find("the file's"), std::string::npos) << "no observation either";
  // The same numbers from somebody else.
  const std::string other = folder / "other.exr";
  ASSERT_EQ(
      std::system(("oiiotool " + plate +
                   " --attrib ImageDescription plate --eraseattrib 'jolly_iris:.*' -o " + other)
                      .c_str()),
      0);
  const std::string theirs = noted(other).dump();
  EXPECT_NE(theirs.find("\"what\":\"iso\""), std::string::npos) << theirs;
  EXPECT_NE(theirs.find("the file's"), std::string::npos);
}

}  // namespace exr_cli_test
}  // namespace jolly_iris
