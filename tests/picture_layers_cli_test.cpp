// Pictures as other programs write them: layers, parts, depth under other names, deep files; and
// sequences that are taken up again.
#include <OpenImageIO/deepdata.h>
#include <OpenImageIO/imageio.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <filesystem>
#include <fstream>

#include "cli_support.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "small_dusk.hpp"

namespace jolly_iris {
namespace picture_layers_cli_test {

using testing::demo;
using testing::holds;
using testing::Ran;
using testing::run;
using testing::TempFolder;
using Json = nlohmann::json;

constexpr int width = 48;
constexpr int height = 27;

struct Part {
  std::string name{};
  std::vector<std::string> channels{};
  std::vector<float> values{};  // one a channel, the same in every pixel
};

void write_parts(const std::string& file, const std::vector<Part>& parts) {
  std::vector<OIIO::ImageSpec> specs;
  for (const Part& p : parts) {
    OIIO::ImageSpec spec(width, height, static_cast<int>(p.channels.size()), OIIO::TypeDesc::FLOAT);
    spec.channelnames = p.channels;
    if (!p.name.empty()) spec.attribute("oiio:subimagename", p.name);
    specs.push_back(spec);
  }
  const auto out = OIIO::ImageOutput::create(file);
  ASSERT_TRUE(out) << OIIO::geterror();
  const bool opened = parts.size() == 1
                          ? out->open(file, specs.front())
                          : out->open(file, static_cast<int>(specs.size()), specs.data());
  ASSERT_TRUE(opened) << out->geterror();
  for (std::size_t i = 0; i < parts.size(); ++i) {
    if (i > 0) {
      ASSERT_TRUE(out->open(file, specs[i], OIIO::ImageOutput::AppendSubimage));
    }
    std::vector<float> pixels;
    for (int k = 0; k < width * height; ++k) {
      pixels.insert(pixels.end(), parts[i].values.begin(), parts[i].values.end());
    }
    ASSERT_TRUE(out->write_image(OIIO::TypeDesc::FLOAT, pixels.data())) << out->geterror();
  }
  ASSERT_TRUE(out->close());
}

std::string small_shot(const TempFolder& folder) {
  return folder.write("a.shot.toml",
                      "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"48 x 27\"\n[lens]\nfocal = \"50 "
                      "mm\"\n[take]\nstop = \"f/2\"\n[focus]\nat = \"2 m\"\n");
}

TEST(PictureLayers, TheOnlyLayerIsTakenAndSaid) {
  const TempFolder folder;
  const std::string shot = small_shot(folder);
  write_parts(folder / "a.exr",
              {{"",
                {"beauty.R", "beauty.G", "beauty.B", "depth.V", "motion.x", "motion.y", "id"},
                {0.5F, 0.25F, 0.125F, 3.0F, 1.0F, 1.0F, 7.0F}}});
  const Ran r = run({"defocus", shot, folder / "a.exr", "-o", folder / "out.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.err, "layer 'beauty', the only one")) << r.err;
  EXPECT_TRUE(holds(r.err, "depth is the channel depth.V")) << r.err;
  EXPECT_TRUE(holds(r.err, "not used: id, motion.x, motion.y")) << r.err;
  const Frame out = read_picture(folder / "out.exr");
  EXPECT_NEAR(out.colour.at(20, 12)[0], 0.5F, 0.01F);
  EXPECT_NEAR(out.colour.at(20, 12)[2], 0.125F, 0.01F);
}

// A page reads several pictures, here one of them twice: each doubt once, and for programs as well.
TEST(PictureLayers, AreToldOfOncePerPictureAndInJson) {
  const TempFolder folder;
  write_parts(folder / "z.exr", {{"", {"Z", "matte"}, {3.0F, 1.0F}}});
  write_parts(folder / "cg.exr", {{"", {"R", "G", "B", "id"}, {0.2F, 0.2F, 0.2F, 1.0F}}});
  const std::string shot = folder.write(
      "b.shot.toml", testing::slurp(small_shot(folder)) + "[depth]\nfile = \"z.exr\"\n");
  const Ran r = run({"page", shot, "--with", folder / "cg.exr", "--with", folder / "cg.exr", "-o",
                     folder / "p.html", "--json"});
  ASSERT_EQ(r.code, 0) << r.err;
  const Json notes = Json::parse(r.out)["notes"];
  ASSERT_EQ(notes.size(), 2U) << r.out;
  EXPECT_TRUE(holds(notes[0].get<std::string>(), "z.exr: not used: matte")) << r.out;
  EXPECT_TRUE(holds(notes[1].get<std::string>(), "cg.exr: not used: id")) << r.out;
  EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 2) << r.err;
}

TEST(PictureLayers, SeveralAreListedAndOneIsChosen) {
  const TempFolder folder;
  const std::string shot = small_shot(folder);
  write_parts(folder / "a.exr", {{"",
                                  {"day.R", "day.G", "day.B", "night.R", "night.G", "night.B", "Z"},
                                  {0.5F, 0.5F, 0.5F, 0.1F, 0.1F, 0.1F, 4.0F}}});
  Ran r = run({"defocus", shot, folder / "a.exr", "-o", folder / "out.exr"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "day, night")) << r.err;
  EXPECT_FALSE(std::filesystem::exists(folder / "out.exr"));
  r = run({"defocus", shot, folder / "a.exr", "--layer", "night", "-o", folder / "out.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_NEAR(read_picture(folder / "out.exr").colour.at(20, 12)[0], 0.1F, 0.01F);
  r = run({"defocus", shot, folder / "a.exr", "--layer", "dusk", "-o", folder / "x.exr"});
  EXPECT_EQ(r.code, 2);
  EXPECT_TRUE(holds(r.err, "no layer of colour called 'dusk'")) << r.err;
}

TEST(PictureLayers, DepthInAPartOfItsOwnIsFound) {
  const TempFolder folder;
  const std::string shot = small_shot(folder);
  write_parts(folder / "a.exr",
              {{"rgba", {"R", "G", "B", "A"}, {0.3F, 0.3F, 0.3F, 1.0F}}, {"depth", {"Z"}, {2.0F}}});
  const Ran r = run({"defocus", shot, folder / "a.exr", "-o", folder / "out.exr"});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.err, "of part 'depth'")) << r.err;
  EXPECT_EQ(read_picture(folder / "a.exr").depth.front(), 2.0F);
}

TEST(PictureLayers, ADeepFileIsCalledDeep) {
  const TempFolder folder;
  OIIO::ImageSpec spec(8, 8, 5, OIIO::TypeDesc::FLOAT);
  spec.channelnames = {"R", "G", "B", "A", "Z"};
  spec.deep = true;
  OIIO::DeepData data;
  data.init(spec);
  for (int i = 0; i < 64; ++i) data.set_samples(i, 2);
  const std::string file = folder / "deep.exr";
  const auto out = OIIO::ImageOutput::create(file);
  ASSERT_TRUE(out && out->open(file, spec)) << OIIO::geterror();
  ASSERT_TRUE(out->write_deep_image(data)) << out->geterror();
  ASSERT_TRUE(out->close());
  const Ran r = run({"defocus", small_shot(folder), file, "-o", folder / "out.exr"});
  EXPECT_EQ(r.code, 3);
  EXPECT_TRUE(holds(r.err, "deep picture")) << r.err;
}

TEST(PictureLayers, WhatWeWroteSaysHowItsDepthCounts) {
  const TempFolder folder;
  const auto [shot, cg] = testing::small_dusk(folder);
  // [depth] describes another program's pictures.
  const std::string other = folder.write(
      "other.shot.toml",
      testing::slurp(shot) + "\n[depth]\nkind = \"normalised\"\nnear = \"1 m\"\nfar = \"50 m\"\n");
  ASSERT_EQ(run({"trace", other, "--pinhole", "--samples", "1", "-o", folder / "own.exr"}).code, 0);
  const Ran r = run({"defocus", other, folder / "own.exr", "-o", folder / "out.exr"});
  EXPECT_EQ(r.code, 0) << r.err;
  // As where nothing describes another depth.
  ASSERT_EQ(run({"defocus", shot, folder / "own.exr", "-o", folder / "plain.exr"}).code, 0);
  const Picture out = read_picture(folder / "out.exr").colour;
  const Picture plain = read_picture(folder / "plain.exr").colour;
  for (std::size_t i = 0; i < plain.pixels().size(); ++i) {
    ASSERT_NEAR(out.pixels()[i][1], plain.pixels()[i][1], 1e-3F + 1e-3F * plain.pixels()[i][1]);
  }
}

TEST(Resume, PicturesMadeOtherwiseOrCutOffAreMadeAgain) {
  const TempFolder folder;
  const std::string shot = folder.write("a.shot.toml",
                                        "[body]\ngate = \"24 x 13.5 mm\"\npixels = \"48 x 27\"\n"
                                        "[lens]\nfocal = \"50 mm\"\n[take]\nstop = \"f/2\"\n"
                                        "[focus]\nat = \"2 m\"\n[frames]\nfirst = 1\nlast = 3\n");
  for (const int i : {1, 2, 3}) {
    write_parts(folder / ("cg." + std::to_string(i) + ".exr"),
                {{"", {"R", "G", "B", "Z"}, {0.1F * static_cast<float>(i), 0.2F, 0.3F, 3.0F}}});
  }
  for (const std::string ending : {".exr", ".png", ".tif", ".jpg"}) {
    const std::vector<std::string> args{"defocus",  shot,  folder / "cg.#.exr",
                                        "--frames", "all", "--resume",
                                        "--json",   "-o",  folder / ("out.#" + ending)};
    const auto counts = [&](std::vector<std::string> more = {}) {
      std::vector<std::string> all = args;
      all.insert(all.end(), more.begin(), more.end());
      const Ran r = run(all);
      EXPECT_EQ(r.code, 0) << r.err;
      const Json j = Json::parse(r.out);
      return std::pair(j["kept"].get<int>(), j["remade"].get<int>());
    };
    EXPECT_EQ(counts(), std::pair(0, 0)) << ending;
    EXPECT_EQ(counts(), std::pair(3, 0)) << ending;
    // A file of no bytes, and one that was cut off.
    std::ofstream(folder / ("out.1" + ending), std::ios::trunc);
    std::filesystem::resize_file(folder / ("out.2" + ending),
                                 std::filesystem::file_size(folder / ("out.2" + ending)) / 2);
    EXPECT_EQ(counts(), std::pair(1, 2)) << ending;
    // Other settings; another input.
    EXPECT_EQ(counts({"--set", "take.stop=f/4"}), std::pair(0, 3)) << ending;
    EXPECT_EQ(counts(), std::pair(0, 3)) << ending;
    write_parts(folder / "cg.3.exr", {{"", {"R", "G", "B", "Z"}, {0.9F, 0.2F, 0.3F, 3.0F}}});
    EXPECT_EQ(counts(), std::pair(2, 1)) << ending;
    write_parts(folder / "cg.3.exr", {{"", {"R", "G", "B", "Z"}, {0.3F, 0.2F, 0.3F, 3.0F}}});
  }
}

// A render with the margin that report asks for: in the file's data window, where defocus finds it
// without being told; the same as a larger picture of which it is told.
TEST(DataWindow, TraceWritesAMarginAndDefocusTakesIt) {
  const TempFolder folder;
  const std::string shot = demo("hero.shot.toml");
  const std::string traced = folder / "wide.exr";
  Ran r = run({"trace", shot, "--pinhole", "--half", "--samples", "1", "--margin", "-o", traced});
  ASSERT_EQ(r.code, 0) << r.err;
  EXPECT_TRUE(holds(r.out, "px beyond the frame beside")) << r.out;
  const Margin margin = picture_margin(traced);
  ASSERT_GT(margin.beside, 0);
  ASSERT_GT(margin.above, 0);
  const Frame inside = read_picture(traced);
  EXPECT_EQ(inside.colour.width(), 960);
  EXPECT_EQ(inside.margin.beside, 0);
  PictureRead how;
  how.beyond = margin;
  Frame all = read_picture(traced, how);
  EXPECT_EQ(all.colour.width(), 960 + 2 * margin.beside);
  EXPECT_EQ(all.colour.at(margin.beside, margin.above), inside.colour.at(0, 0));

  all.margin = {};
  write_picture(folder / "told.exr", all);
  write_picture(folder / "without.exr", inside);
  const auto blurred = [&](const std::string& of, const std::vector<std::string>& more) {
    const std::string out = folder / "out.exr";
    std::vector<std::string> words{"defocus", shot, of, "-o", out};
    words.insert(words.end(), more.begin(), more.end());
    const Ran done = run(words);
    EXPECT_EQ(done.code, 0) << done.err;
    EXPECT_EQ(holds(done.err + done.out, "its data window reaches"), of == traced) << done.err;
    return read_picture(out).colour;
  };
  const Picture found = blurred(traced, {});
  const Picture told =
      blurred(folder / "told.exr",
              {"--margin", std::to_string(margin.beside) + "," + std::to_string(margin.above)});
  EXPECT_EQ(found.pixels(), told.pixels());
  EXPECT_EQ(found.width(), 960);
  const Picture without = blurred(folder / "without.exr", {});
  EXPECT_NE(found.at(959, 163), without.at(959, 163));
  // Parts are counted in the frame, whatever is beyond it.
  const Picture part = blurred(traced, {"--box", "800,100,160,90"});
  EXPECT_EQ(part.at(959, 163), found.at(959, 163));
  EXPECT_EQ(part.at(790, 163)[3], 0.0F) << "beside the box";

  for (const char* more : {"--shutter", "--motion", "--squeezed"}) {
    const Ran no = run({"trace", shot, "--pinhole", "--margin", more, "-o", folder / "no.exr"});
    EXPECT_EQ(no.code, 2) << more;
  }
  EXPECT_EQ(run({"trace", shot, "--margin", "-o", folder / "no.png"}).code, 2);
  EXPECT_FALSE(std::filesystem::exists(folder / "no.exr"));
}

}  // namespace picture_layers_cli_test
}  // namespace jolly_iris
