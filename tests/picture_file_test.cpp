#include "jolly_iris/picture_files/picture_file.hpp"

#include <OpenImageIO/imageio.h>
#include <gtest/gtest.h>

#include <cmath>
#include <cstring>
#include <limits>

#include "disk/module.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/picture/meter.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace picture_file_test {

using testing::holds;
using testing::message_of;
using testing::slurp;
using testing::TempFolder;

constexpr float infinity = std::numeric_limits<float>::infinity();

Frame sample() {
  Frame frame{Picture({5, 3}), {}};
  for (int y = 0; y < 3; ++y) {
    for (int x = 0; x < 5; ++x) {
      frame.colour.at(x, y) = {0.125F * static_cast<float>(x), 0.25F * static_cast<float>(y), 0.5F,
                               1.0F};
      frame.depth.push_back(1.0F + static_cast<float>(x + 5 * y));
    }
  }
  frame.depth[7] = infinity;
  return frame;
}

// Writes a picture with our own choice of header, through the library that formats come from.
void write_with(const std::string& path, OIIO::ImageSpec spec) {
  const std::vector<float> pixels(
      static_cast<std::size_t>(spec.width * spec.height * spec.nchannels), 0.5F);
  auto out = OIIO::ImageOutput::create(path);
  ASSERT_TRUE(out && out->open(path, spec)) << OIIO::geterror();
  ASSERT_TRUE(out->write_image(OIIO::TypeDesc::FLOAT, pixels.data()));
  ASSERT_TRUE(out->close());
}

TEST(PictureFile, ExrKeepsColourDepthAndInfinity) {
  const TempFolder folder;
  const Frame frame = sample();
  write_picture(folder / "a.exr", frame);
  const Frame back = read_picture(folder / "a.exr");
  EXPECT_EQ(back.colour.pixels(), frame.colour.pixels());
  EXPECT_EQ(back.depth, frame.depth);
  EXPECT_EQ(folder.count(), 1U);  // nothing left beside it
}

TEST(PictureFile, LampsThatDoNotFitHalfFloatsAreKept) {
  const TempFolder folder;
  Frame frame = sample();
  frame.colour.at(1, 1) = {1e6F, 70000.0F, 3.0F, 1.0F};
  write_picture(folder / "a.exr", frame);
  EXPECT_EQ(read_picture(folder / "a.exr").colour.at(1, 1), frame.colour.at(1, 1));
}

TEST(PictureFile, ViewingFormatsAreDecodedByTheirTransfer) {
  const TempFolder folder;
  const Frame grey{Picture({8, 8}, {0.18F, 0.18F, 0.18F, 1.0F}), {}};
  for (const char* name : {"a.png", "a.tif", "a.jpg"}) {
    write_picture(folder / name, grey);
    EXPECT_NEAR(read_picture(folder / name).colour.at(4, 4)[1], 0.18F, 0.002F) << name;
    EXPECT_NEAR(read_picture(folder / name, Transfer::linear).colour.at(4, 4)[1], 0.46136F, 0.005F)
        << name;
    EXPECT_FALSE(read_picture(folder / name).has_depth());
  }
  EXPECT_NEAR(read_picture(folder / "a.tif", Transfer::rec709).colour.at(4, 4)[1],
              decode(0.46136F, Transfer::rec709), 1e-4F);
}

TEST(PictureFile, StraightAlphaOfPngIsPremultiplied) {
  const TempFolder folder;
  OIIO::ImageSpec spec(2, 2, 4, OIIO::TypeDesc::UINT16);
  spec.attribute("oiio:UnassociatedAlpha", 1);
  write_with(folder / "a.png", spec);
  const Rgba p = read_picture(folder / "a.png").colour.at(0, 0);
  EXPECT_NEAR(p[3], 0.5F, 1e-4F);
  EXPECT_NEAR(p[0], 0.21404F * 0.5F, 1e-4F);
}

TEST(PictureFile, DataWindowIsPlacedInTheDisplayWindow) {
  const TempFolder folder;
  OIIO::ImageSpec spec(2, 2, 3, OIIO::TypeDesc::FLOAT);
  spec.x = 1;
  spec.y = 1;
  spec.full_width = 4;
  spec.full_height = 4;
  write_with(folder / "a.exr", spec);
  const Frame frame = read_picture(folder / "a.exr");
  EXPECT_EQ(frame.colour.width(), 4);
  EXPECT_EQ(frame.colour.at(0, 0)[0], 0.0F);
  EXPECT_EQ(frame.colour.at(1, 1)[0], 0.5F);
}

TEST(PictureFile, TurnedPicturesComeUpright) {
  const TempFolder folder;
  OIIO::ImageSpec spec(6, 2, 3, OIIO::TypeDesc::UINT8);
  spec.attribute("Orientation", 6);
  write_with(folder / "a.jpg", spec);
  EXPECT_EQ(read_picture(folder / "a.jpg").colour.size(), (PixelSize{2, 6}));
  EXPECT_EQ(read_plate_facts(folder / "a.jpg").pixels, (PixelSize{2, 6}));
}

TEST(PictureFile, BrokenFilesAreRefused) {
  const TempFolder folder;
  write_picture(folder / "whole.exr", sample());
  const std::string bytes = slurp(folder / "whole.exr");
  for (const double fraction : {0.2, 0.6, 0.95}) {
    folder.write(
        "cut.exr",
        bytes.substr(0, static_cast<std::size_t>(fraction * static_cast<double>(bytes.size()))));
    EXPECT_TRUE(
        holds(message_of<FileError>([&] { (void)read_picture(folder / "cut.exr"); }), "cut.exr"));
  }
  EXPECT_TRUE(holds(message_of<FileError>([&] { (void)read_picture(folder / "none.exr"); }),
                    "No such file"));
  EXPECT_TRUE(holds(message_of<FileError>([&] { (void)read_picture(folder.path()); }), "folder"));
  folder.write("text.png", "this is no picture");
  EXPECT_TRUE(
      holds(message_of<FileError>([&] { (void)read_picture(folder / "text.png"); }), "text.png"));
  folder.write("empty.exr", "");
  EXPECT_THROW((void)read_picture(folder / "empty.exr"), FileError);
}

// A header of 0 × 0 pixels: the data window's far corner is put before its near one.
TEST(PictureFile, PictureOfNoPixelsIsRefused) {
  const TempFolder folder;
  write_picture(folder / "a.exr", sample());
  std::string bytes = slurp(folder / "a.exr");
  const auto at = bytes.find("dataWindow");
  ASSERT_NE(at, std::string::npos);
  const std::size_t corner = at + std::strlen("dataWindow") + 1 + std::strlen("box2i") + 1 + 4 + 8;
  const std::int32_t far[2] = {-1, -1};
  std::memcpy(bytes.data() + corner, far, sizeof far);
  folder.write("a.exr", bytes);
  EXPECT_THROW((void)read_picture(folder / "a.exr"), FileError);
}

TEST(PictureFile, OtherEndingsAndFoldersThatAreNotThereAreRefused) {
  const TempFolder folder;
  EXPECT_TRUE(
      holds(message_of<UsageError>([&] { write_picture(folder / "a.bmp", sample()); }), ".exr"));
  EXPECT_THROW(write_picture(folder / "not/there/a.exr", sample()), FileError);
  EXPECT_EQ(folder.count(), 0U);
}

TEST(PlateFacts, ExifSaysHowItWasTaken) {
  const TempFolder folder;
  OIIO::ImageSpec spec(600, 400, 3, OIIO::TypeDesc::UINT8);
  spec.attribute("Make", "Meadow");
  spec.attribute("Model", "Tansy");
  spec.attribute("Exif:FocalLength", 58.0F);
  spec.attribute("Exif:FocalLengthIn35mmFilm", 84);
  spec.attribute("FNumber", 2.0F);
  spec.attribute("ExposureTime", 0.02F);
  spec.attribute("Exif:PhotographicSensitivity", 800);
  spec.attribute("Exif:SubjectDistance", 2.4F);
  write_with(folder / "a.jpg", spec);
  const PlateFacts facts = read_plate_facts(folder / "a.jpg");
  EXPECT_EQ(facts.camera, "Meadow Tansy");
  EXPECT_NEAR(facts.focal->mm(), 58, 1e-3);
  EXPECT_NEAR(*facts.equivalent_mm, 84, 1e-9);
  EXPECT_NEAR(*facts.f_number, 2.0, 1e-6);
  EXPECT_NEAR(facts.exposure_time->seconds(), 0.02, 2e-6);  // Exif keeps a rational
  EXPECT_NEAR(*facts.iso, 800, 1e-9);
  EXPECT_NEAR(facts.distance->m(), 2.4, 1e-6);
  EXPECT_EQ(facts.transfer, Transfer::srgb);
  EXPECT_NEAR(gate_from_equivalent(facts)->width.mm(),
              43.2666 * 58 / 84 * 600 / std::hypot(600, 400), 1e-3);
}

TEST(PlateFacts, ExrAttributesSayItToo) {
  const TempFolder folder;
  OIIO::ImageSpec spec(64, 32, 3, OIIO::TypeDesc::HALF);
  spec.attribute("nominalFocalLength", 40.0F);
  spec.attribute("aperture", 2.8F);
  spec.attribute("isoSpeed", 400.0F);
  spec.attribute("expTime", 0.01F);
  spec.attribute("focus", 3.5F);
  write_with(folder / "a.exr", spec);
  const PlateFacts facts = read_plate_facts(folder / "a.exr");
  EXPECT_NEAR(facts.focal->mm(), 40, 1e-4);
  EXPECT_NEAR(*facts.f_number, 2.8, 1e-4);
  EXPECT_NEAR(*facts.iso, 400, 1e-4);
  EXPECT_NEAR(facts.exposure_time->seconds(), 0.01, 1e-6);
  EXPECT_NEAR(facts.distance->m(), 3.5, 1e-4);
  EXPECT_EQ(facts.transfer, Transfer::linear);
}

TEST(PlateFacts, AbsurdValuesAreDoubtedNotBelieved) {
  const TempFolder folder;
  OIIO::ImageSpec spec(64, 32, 3, OIIO::TypeDesc::HALF);
  spec.attribute("nominalFocalLength", std::numeric_limits<float>::quiet_NaN());
  spec.attribute("aperture", infinity);
  spec.attribute("isoSpeed", "fast");
  spec.attribute("focus", 4294967295.0F);
  write_with(folder / "a.exr", spec);
  const PlateFacts facts = read_plate_facts(folder / "a.exr");
  EXPECT_FALSE(facts.focal || facts.f_number || facts.iso);
  EXPECT_EQ(facts.doubts.size(), 3U);
  EXPECT_TRUE(facts.distance->is_infinite());
}

TEST(PlateFacts, PanoramasAndStereoPairsAreOutOfScope) {
  const TempFolder folder;
  OIIO::ImageSpec spec(64, 32, 3, OIIO::TypeDesc::HALF);
  OIIO::ImageSpec pano = spec;
  pano.attribute("textureformat", "LatLong Environment");
  write_with(folder / "pano.exr", pano);
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)read_plate_facts(folder / "pano.exr"); }),
                    "panorama"));
  const char* names[] = {"left", "right"};
  spec.attribute("multiView", OIIO::TypeDesc(OIIO::TypeDesc::STRING, 2), names);
  write_with(folder / "eyes.exr", spec);
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)read_plate_facts(folder / "eyes.exr"); }),
                    "stereo"));
}

TEST(Module, ThatIsNotThereIsTold) {
  EXPECT_TRUE(holds(message_of<FileError>([] { (void)module_entry("libnone.so", "none"); }),
                    "cannot load a part"));
  EXPECT_TRUE(holds(
      message_of<FileError>([] { (void)module_entry("libjolly_iris_openimageio.so", "none"); }),
      "is not part of this version"));
}

TEST(PictureFile, OfOneChannelIsGreyAndCanBeMetered) {
  const TempFolder folder;
  for (const char* name : {"grey.exr", "grey.tif"}) {
    OIIO::ImageSpec spec(16, 9, 1, OIIO::TypeDesc::FLOAT);
    spec.channelnames = {"Y"};
    const std::vector<float> light(16 * 9, 0.09F);
    auto out = OIIO::ImageOutput::create(folder / name);
    ASSERT_TRUE(out && out->open(folder / name, spec));
    ASSERT_TRUE(out->write_image(OIIO::TypeDesc::FLOAT, light.data()) && out->close());
    const Frame frame = read_picture(folder / name, Transfer::linear);
    EXPECT_EQ(frame.colour.at(3, 3)[2], frame.colour.at(3, 3)[0]);
    EXPECT_NEAR(meter(frame.colour, {}).stops(), 1.0, 1e-5) << name;
  }
}

}  // namespace picture_file_test
}  // namespace jolly_iris
