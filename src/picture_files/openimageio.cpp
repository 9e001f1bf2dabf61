// The only file that includes OpenImageIO's picture readers and writers. Built as a module of its
// own, see backend.hpp.
#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imagebuf.h>
#include <OpenImageIO/imagebufalgo.h>
#include <OpenImageIO/imageio.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "backend.hpp"
#include "channels.hpp"
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

// A header that lists more is no picture.
constexpr int max_parts = 1024;

std::vector<OIIO::ImageSpec> parts_of(OIIO::ImageInput& in) {
  std::vector<OIIO::ImageSpec> parts;
  // Pages of other formats are other pictures.
  const int most = std::string(in.format_name()) == "openexr" ? max_parts : 1;
  for (int part = 0; part < most && in.seek_subimage(part, 0); ++part) parts.push_back(in.spec());
  in.seek_subimage(0, 0);
  return parts;
}

ChosenChannels channels_of(const std::vector<OIIO::ImageSpec>& parts, const std::string& layer,
                           const std::string& path) {
  std::vector<PartHeader> headers;
  for (const OIIO::ImageSpec& spec : parts) {
    std::string name(spec.get_string_attribute("oiio:subimagename"));
    if (name.empty()) name = spec.get_string_attribute("name");
    headers.push_back({name, spec.channelnames, spec.deep});
  }
  return choose_channels(headers, layer, path);
}

// One channel, row by row over the display window: what lies outside the data window is empty;
// what lies outside the display window is margin, which nobody asked for.
class Planes {
 public:
  Planes(OIIO::ImageInput& in, const std::vector<OIIO::ImageSpec>& parts, const std::string& path)
      : in_(in), parts_(parts), path_(path) {}

  /// Calls to(pixel number, value) for what lies in both windows.
  template <class To>
  void each(const ChannelPlace& place, PixelSize size, const To& to) {
    const OIIO::ImageSpec& spec = parts_[static_cast<std::size_t>(place.part)];
    if (spec.full_width != size.width || spec.full_height != size.height) {
      throw FileError(fmt::format("{}: its part {} is {} x {} px, but its colour is {} x {}", path_,
                                  place.part + 1, spec.full_width, spec.full_height, size.width,
                                  size.height));
    }
    load(place);
    const std::size_t stride = static_cast<std::size_t>(last_ - first_);
    const auto channel = static_cast<std::size_t>(place.index - first_);
    for (int y = 0; y < size.height; ++y) {
      const int sy = y + spec.full_y - spec.y;
      if (sy < 0 || sy >= spec.height) continue;
      for (int x = 0; x < size.width; ++x) {
        const int sx = x + spec.full_x - spec.x;
        if (sx < 0 || sx >= spec.width) continue;
        const std::size_t from =
            static_cast<std::size_t>(sy) * static_cast<std::size_t>(spec.width) +
            static_cast<std::size_t>(sx);
        to(static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) +
               static_cast<std::size_t>(x),
           data_[from * stride + channel]);
      }
    }
  }

 private:
  // Channels that stand side by side are read in one go, since files keep all of a row together.
  void load(const ChannelPlace& place) {
    constexpr int side_by_side = 8;
    if (part_ == place.part && place.index >= first_ && place.index < last_) return;
    const OIIO::ImageSpec& spec = parts_[static_cast<std::size_t>(place.part)];
    part_ = place.part;
    first_ = spec.nchannels <= side_by_side ? 0 : place.index;
    last_ =
        spec.nchannels <= side_by_side ? spec.nchannels : std::min(spec.nchannels, place.index + 1);
    data_.assign(static_cast<std::size_t>(spec.width) * static_cast<std::size_t>(spec.height) *
                     static_cast<std::size_t>(last_ - first_),
                 0.0F);
    if (!in_.read_image(place.part, 0, first_, last_, OIIO::TypeDesc::FLOAT, data_.data())) {
      throw FileError(fmt::format("{}: is cut off or damaged: {}", path_, trimmed(in_.geterror())));
    }
  }

  OIIO::ImageInput& in_;
  const std::vector<OIIO::ImageSpec>& parts_;
  const std::string& path_;
  int part_ = -1;
  int first_ = 0;
  int last_ = 0;
  std::vector<float> data_{};
};

Frame to_frame(OIIO::ImageInput& in, const std::vector<OIIO::ImageSpec>& parts,
               const ChosenChannels& c, const std::string& path) {
  const OIIO::ImageSpec& spec = parts[static_cast<std::size_t>(c.r.any() ? c.r.part : c.z.part)];
  const PixelSize size{spec.full_width, spec.full_height};
  Frame frame{Picture(size), {}};
  frame.notes = c.notes;
  Planes planes(in, parts, path);
  if (!c.a.any()) {
    // A missing alpha is 1 wherever there is a pixel at all.
    planes.each(c.r.any() ? c.r : c.z, size,
                [&](std::size_t i, float) { frame.colour.pixels()[i][3] = 1.0F; });
  }
  const std::array<ChannelPlace, 4> colour{c.r, c.g, c.b, c.a};
  for (std::size_t k = 0; k < colour.size(); ++k) {
    if (!colour[k].any()) continue;
    planes.each(colour[k], size, [&](std::size_t i, float v) { frame.colour.pixels()[i][k] = v; });
  }
  if (c.z.any()) {
    frame.depth.assign(frame.colour.pixels().size(), std::numeric_limits<float>::infinity());
    planes.each(c.z, size, [&](std::size_t i, float v) { frame.depth[i] = v; });
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

Frame read(const std::string& path, const PictureRead& how) {
  const auto in = open(path);
  const std::vector<OIIO::ImageSpec> parts = parts_of(*in);
  const bool exr = is_exr(parts.front(), *in);
  Frame frame = to_frame(*in, parts, channels_of(parts, how.layer, path), path);
  if (!exr || (how.transfer && *how.transfer != Transfer::linear)) {
    decode_straight(frame.colour, how.transfer.value_or(Transfer::srgb), how.curve);
  }
  return upright(path, std::move(frame), parts.front().get_int_attribute("Orientation", 1));
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

std::map<std::string, std::string> header(const std::string& path) {
  const auto in = open(path);
  std::map<std::string, std::string> out;
  for (const OIIO::ParamValue& v : in->spec().extra_attribs) {
    if (v.type() == OIIO::TypeDesc::STRING) out[v.name().string()] = v.get_string();
  }
  return out;
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
                                                          jolly_iris::picture_files::header,
                                                          jolly_iris::picture_files::moving};
  return &backend;
}
