// The only file that includes OpenImageIO's picture readers and writers. Built as a module of its
// own, see backend.hpp.
#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imagebuf.h>
#include <OpenImageIO/imagebufalgo.h>
#include <OpenImageIO/imageio.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "backend.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/version.hpp"
#include "metadata.hpp"
#include "picture/decode_straight.hpp"

namespace jolly_iris::picture_files {

namespace {

std::string trimmed(std::string text) {
  while (!text.empty() && (text.back() == '\n' || text.back() == ' ')) text.pop_back();
  return text.empty() ? "no reason given" : text;
}

bool is_exr(const OIIO::ImageSpec&, const OIIO::ImageInput& in) {
  return std::string(in.format_name()) == "openexr";
}

std::unique_ptr<OIIO::ImageInput> open(const std::string& path) {
  OIIO::ImageSpec config;
  config.attribute("oiio:UnassociatedAlpha", 1);  // premultiplying encoded numbers would be wrong
  auto in = OIIO::ImageInput::open(path, &config);
  if (!in) {
    throw FileError(
        fmt::format("{}: cannot be read as a picture: {}", path, trimmed(OIIO::geterror())));
  }
  const OIIO::ImageSpec& spec = in->spec();
  if (spec.width < 1 || spec.height < 1 || spec.full_width < 1 || spec.full_height < 1) {
    throw FileError(fmt::format("{}: is a picture of {} x {} pixels: there is nothing in it", path,
                                spec.width, spec.height));
  }
  return in;
}

int channel(const OIIO::ImageSpec& spec, std::initializer_list<const char*> names) {
  for (const char* name : names) {
    const int index = spec.channelindex(name);
    if (index >= 0) return index;
  }
  return -1;
}

struct Channels {
  int r, g, b, a, z;
};

Channels channels_of(const OIIO::ImageSpec& spec, const std::string& path) {
  Channels c{channel(spec, {"R", "r", "red", "Y", "I"}), channel(spec, {"G", "g", "green"}),
             channel(spec, {"B", "b", "blue"}), channel(spec, {"A", "a", "alpha"}),
             channel(spec, {"Z", "z", "depth.Z"})};
  if (c.r < 0 && c.z < 0) {
    throw FileError(fmt::format("{}: has no colour channels R, G, B (its channels: {})", path,
                                OIIO::Strutil::join(spec.channelnames, ", ")));
  }
  if (c.g < 0 && c.b < 0) c.g = c.b = c.r;  // grey
  return c;
}

// What lies outside the data window is empty and infinitely far; what lies outside the display
// window is margin, which nobody asked for.
Frame to_frame(const std::vector<float>& data, const OIIO::ImageSpec& spec, const Channels& c) {
  Frame frame{Picture({spec.full_width, spec.full_height}), {}};
  if (c.z >= 0) {
    frame.depth.assign(frame.colour.pixels().size(), std::numeric_limits<float>::infinity());
  }
  const auto channels = static_cast<std::size_t>(spec.nchannels);
  for (int y = 0; y < spec.full_height; ++y) {
    for (int x = 0; x < spec.full_width; ++x) {
      const int sx = x + spec.full_x - spec.x;
      const int sy = y + spec.full_y - spec.y;
      if (sx < 0 || sy < 0 || sx >= spec.width || sy >= spec.height) continue;
      const float* from =
          data.data() + (static_cast<std::size_t>(sy) * static_cast<std::size_t>(spec.width) +
                         static_cast<std::size_t>(sx)) *
                            channels;
      const auto value = [&](int index, float otherwise) {
        return index < 0 ? otherwise : from[index];
      };
      frame.colour.at(x, y) = {value(c.r, 0.0F), value(c.g, 0.0F), value(c.b, 0.0F),
                               value(c.a, 1.0F)};
      if (c.z >= 0) {
        frame.depth[static_cast<std::size_t>(y) * static_cast<std::size_t>(spec.full_width) +
                    static_cast<std::size_t>(x)] = from[c.z];
      }
    }
  }
  return frame;
}

// Turns a picture that a camera wrote lying on its side.
Frame upright(const std::string& path, Frame frame, int orientation) {
  if (orientation <= 1 || orientation > 8 || frame.has_depth()) return frame;
  OIIO::ImageSpec spec(frame.colour.width(), frame.colour.height(), 4, OIIO::TypeDesc::FLOAT);
  spec.attribute("Orientation", orientation);
  OIIO::ImageBuf lying(spec, frame.colour.pixels().data());
  OIIO::ImageBuf turned = OIIO::ImageBufAlgo::reorient(lying);
  if (turned.has_error()) {
    throw FileError(fmt::format("{}: cannot turn it upright: {}", path, turned.geterror()));
  }
  Frame out{Picture({turned.spec().width, turned.spec().height}), {}};
  turned.get_pixels(turned.roi(), OIIO::TypeDesc::FLOAT, out.colour.pixels().data());
  return out;
}

Frame read(const std::string& path, std::optional<Transfer> transfer, const Curve& curve) {
  const auto in = open(path);
  const OIIO::ImageSpec spec = in->spec();
  const Channels c = channels_of(spec, path);
  std::vector<float> data(static_cast<std::size_t>(spec.width) *
                          static_cast<std::size_t>(spec.height) *
                          static_cast<std::size_t>(spec.nchannels));
  if (!in->read_image(0, 0, 0, spec.nchannels, OIIO::TypeDesc::FLOAT, data.data())) {
    throw FileError(fmt::format("{}: is cut off or damaged: {}", path, trimmed(in->geterror())));
  }
  const bool exr = is_exr(spec, *in);
  Frame frame = to_frame(data, spec, c);
  if (!exr || (transfer && *transfer != Transfer::linear)) {
    decode_straight(frame.colour, transfer.value_or(Transfer::srgb), curve);
  }
  return upright(path, std::move(frame), spec.get_int_attribute("Orientation", 1));
}

bool fits_half(const Picture& picture) {
  constexpr float largest = 65504.0F;
  return std::all_of(picture.pixels().begin(), picture.pixels().end(), [](const Rgba& p) {
    return std::all_of(p.begin(), p.end(), [](float v) { return std::abs(v) <= largest; });
  });
}

struct Sheet {
  OIIO::ImageSpec spec;
  std::vector<float> data;
};

Sheet exr_sheet(const Frame& frame) {
  const bool depth = frame.has_depth();
  Sheet sheet{OIIO::ImageSpec(frame.colour.width(), frame.colour.height(), depth ? 5 : 4,
                              OIIO::TypeDesc::FLOAT),
              {}};
  const OIIO::TypeDesc colour =
      fits_half(frame.colour) ? OIIO::TypeDesc::HALF : OIIO::TypeDesc::FLOAT;
  sheet.spec.channelnames = {"R", "G", "B", "A"};
  sheet.spec.channelformats = {colour, colour, colour, colour};
  if (depth) {
    sheet.spec.channelnames.push_back("Z");
    sheet.spec.channelformats.push_back(OIIO::TypeDesc::FLOAT);
  }
  sheet.spec.alpha_channel = 3;
  sheet.spec.z_channel = depth ? 4 : -1;
  sheet.spec.attribute("compression", "zip");
  for (std::size_t i = 0; i < frame.colour.pixels().size(); ++i) {
    const Rgba& p = frame.colour.pixels()[i];
    sheet.data.insert(sheet.data.end(), p.begin(), p.end());
    if (depth) sheet.data.push_back(frame.depth[i]);
  }
  return sheet;
}

// Over black and without alpha: light that nothing covers (a lamp before an empty sky) would be
// lost by every viewer that multiplies by alpha.
Sheet viewing_sheet(const Frame& frame, bool jpeg, bool deep, int quality) {
  const Picture& picture = frame.colour;
  Sheet sheet{OIIO::ImageSpec(picture.width(), picture.height(), 3,
                              deep ? OIIO::TypeDesc::UINT16 : OIIO::TypeDesc::UINT8),
              {}};
  // In a TIFF this would become an Exif directory, which the library then fails to write.
  if (!deep) sheet.spec.attribute("oiio:ColorSpace", "sRGB");
  if (jpeg) sheet.spec.attribute("CompressionQuality", quality);
  for (const Rgba& p : picture.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) {
      sheet.data.push_back(jolly_iris::encode(std::clamp(p[c], 0.0F, 1.0F), Transfer::srgb));
    }
  }
  return sheet;
}

std::string encoded(const std::string& path, const Sheet& sheet) {
  // Encoded in memory and written by ourselves: these writers do not tell a full disk.
  std::vector<unsigned char> bytes;
  OIIO::Filesystem::IOVecOutput memory(bytes);
  auto out = OIIO::ImageOutput::create(path, &memory);
  const bool good = out && out->open(path, sheet.spec) &&
                    out->write_image(OIIO::TypeDesc::FLOAT, sheet.data.data()) && out->close();
  if (!good) {
    throw FileError(fmt::format("{}: cannot be encoded: {}", path,
                                trimmed(out ? out->geterror() : OIIO::geterror())));
  }
  return {bytes.begin(), bytes.end()};
}

std::string encode(const std::string& path, const Frame& frame,
                   const std::map<std::string, std::string>& attributes, int quality) {
  const std::string format(OIIO::Filesystem::extension(path, false));
  const auto is = [&](const char* name) { return OIIO::Strutil::iequals(format, name); };
  Sheet sheet =
      is("exr") ? exr_sheet(frame)
                : viewing_sheet(frame, is("jpg") || is("jpeg"), is("tif") || is("tiff"), quality);
  for (const auto& [name, value] : attributes) {
    if (name == "PixelAspectRatio") {  // files keep it as a number
      sheet.spec.attribute(name, std::stof(value));
    } else if (name == "Orientation") {
      sheet.spec.attribute(name, std::stoi(value));
    } else if (!value.empty()) {
      sheet.spec.attribute(name, value);
    }
  }
  return encoded(path, sheet);
}

std::string encode_map(const std::string& path, PixelSize size, const std::vector<float>& pairs) {
  Sheet sheet{OIIO::ImageSpec(size.width, size.height, 2, OIIO::TypeDesc::FLOAT), pairs};
  sheet.spec.channelnames = {"R", "G"};
  sheet.spec.attribute("compression", "zip");
  return encoded(path, sheet);
}

std::string stamped(const std::string& path, const std::map<std::string, std::string>& attributes) {
  auto in = open(path);
  if (!is_exr(in->spec(), *in)) {
    throw UsageError(path + ": is not an EXR; only its header takes numbers of any name");
  }
  if (in->seek_subimage(1, 0)) {
    throw UsageError(path + ": has several parts; stamp a picture of one part");
  }
  in = open(path);
  OIIO::ImageSpec spec = in->spec();
  if (spec.deep) throw UsageError(path + ": is a deep picture; stamp a flat one");
  // In the channels' own types, so that nothing is rounded.
  std::vector<unsigned char> pixels(spec.image_bytes(true));
  if (!in->read_image(0, 0, 0, spec.nchannels, OIIO::TypeDesc::UNKNOWN, pixels.data())) {
    throw FileError(fmt::format("{}: is cut off or damaged: {}", path, trimmed(in->geterror())));
  }
  for (const auto& [name, value] : attributes) {
    if (!value.empty()) spec.attribute(name, value);
  }
  std::vector<unsigned char> bytes;
  OIIO::Filesystem::IOVecOutput memory(bytes);
  auto out = OIIO::ImageOutput::create(path, &memory);
  const bool good = out && out->open(path, spec) &&
                    out->write_image(OIIO::TypeDesc::UNKNOWN, pixels.data()) && out->close();
  if (!good) {
    throw FileError(fmt::format("{}: cannot be encoded: {}", path,
                                trimmed(out ? out->geterror() : OIIO::geterror())));
  }
  return {bytes.begin(), bytes.end()};
}

PlateFacts facts(const std::string& path) {
  const auto in = open(path);
  return plate_facts(in->spec(), path, is_exr(in->spec(), *in));
}

std::string description(const std::string& path) {
  const auto in = open(path);
  return std::string(in->spec().get_string_attribute("ImageDescription"));
}

// This writer knows only files, so it gets one of its own.
std::string moving(const std::vector<Picture>& pictures, double seconds_each) {
  const std::string name = OIIO::Filesystem::temp_directory_path() + "/" +
                           OIIO::Filesystem::unique_path("jolly-iris-%%%%%%%%") + ".gif";
  std::vector<OIIO::ImageSpec> specs;
  std::vector<Sheet> sheets;
  for (const Picture& p : pictures) {
    sheets.push_back(viewing_sheet({p, {}}, false, false, 95));
    sheets.back().spec.attribute("gif:LoopCount", 0);
    // The format counts hundredths of a second.
    const int hundredths = std::max(1, static_cast<int>(std::lround(100.0 * seconds_each)));
    const int rate[2] = {100, hundredths};
    sheets.back().spec.attribute("FramesPerSecond", OIIO::TypeRational, rate);
    specs.push_back(sheets.back().spec);
  }
  auto out = OIIO::ImageOutput::create("gif");
  bool good = out && out->open(name, static_cast<int>(specs.size()), specs.data());
  for (std::size_t i = 0; good && i < sheets.size(); ++i) {
    if (i > 0) good = out->open(name, specs[i], OIIO::ImageOutput::AppendSubimage);
    good = good && out->write_image(OIIO::TypeDesc::FLOAT, sheets[i].data.data());
  }
  good = good && out->close();
  std::string bytes;
  good = good && OIIO::Filesystem::read_text_file(name, bytes);
  const std::string why = good ? "" : trimmed(out ? out->geterror() : OIIO::geterror());
  std::string unused;
  OIIO::Filesystem::remove(name, unused);
  if (!good) throw FileError(fmt::format("the moving picture cannot be encoded: {}", why));
  return bytes;
}

}  // namespace

}  // namespace jolly_iris::picture_files

extern "C" __attribute__((visibility("default"))) const void* jolly_iris_picture_backend() {
  static const jolly_iris::picture_files::Backend backend{JOLLY_IRIS_VERSION,
                                                          jolly_iris::picture_files::read,
                                                          jolly_iris::picture_files::encode,
                                                          jolly_iris::picture_files::encode_map,
                                                          jolly_iris::picture_files::stamped,
                                                          jolly_iris::picture_files::facts,
                                                          jolly_iris::picture_files::description,
                                                          jolly_iris::picture_files::moving};
  return &backend;
}
