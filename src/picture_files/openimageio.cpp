// Pictures read by OpenImageIO, and the module's entry. Built as a module of its own, see
// backend.hpp; the writers are in encoding.cpp.
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
#include "encoding.hpp"
#include "exr_header.hpp"
#include "file_rest.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/version.hpp"
#include "metadata.hpp"
#include "picture/decode_straight.hpp"

namespace jolly_iris::picture_files {

namespace {

bool is_exr(const OIIO::ImageSpec&, const OIIO::ImageInput& in) {
  return std::string(in.format_name()) == "openexr";
}

// How a kind of picture begins, which reader takes it, and how many numbers one of its bytes holds
// at the most: deflate makes a byte of 1032 (RFC 1951: 258 bytes in two bits), and 16 bits of depth
// halve that; JPEG's and EXR's coders make runs of far more, but each block costs bits (a JPEG
// block of 64 some 0.1 byte where it is progressive, EXR's chunks some 30 bytes and a place in a
// table).
struct Kind {
  std::string_view begin;
  const char* reader;
  double numbers_a_byte;
};
constexpr std::array kinds{Kind{"\x76\x2f\x31\x01", "openexr", 40'000.0},
                           Kind{"\x89PNG\r\n\x1a\n", "png", 1100.0},
                           Kind{"\xff\xd8\xff", "jpeg", 20'000.0},
                           Kind{std::string_view("II*\0", 4), "tiff", 20'000.0},
                           Kind{std::string_view("MM\0*", 4), "tiff", 20'000.0},
                           Kind{std::string_view("II+\0", 4), "tiff", 20'000.0},
                           Kind{std::string_view("MM\0+", 4), "tiff", 20'000.0},
                           Kind{"SDPX", "dpx", 1100.0},
                           Kind{"XPDS", "dpx", 1100.0}};

// By what it holds, not by its name; other kinds are refused, since each reader is a risk of its
// own.
const Kind& kind_of(const std::string& path) {
  std::array<char, 8> bytes{};
  OIIO::Filesystem::read_bytes(path, bytes.data(), bytes.size());
  const std::string_view head(bytes.data(), bytes.size());
  for (const Kind& k : kinds) {
    if (head.starts_with(k.begin)) return k;
  }
  throw FileError(fmt::format(
      "{}: cannot be read as a picture: it is no EXR, PNG, JPEG, TIFF or DPX; save it as one",
      path));
}

// Before memory is taken for it.
void require_credible(const std::string& path, const OIIO::ImageSpec& spec, const Kind& kind) {
  const double numbers = static_cast<double>(spec.width) * spec.height * spec.nchannels;
  const auto bytes = static_cast<double>(OIIO::Filesystem::file_size(path));
  if (numbers > kind.numbers_a_byte * bytes) {
    throw FileError(
        fmt::format("{}: is cut off or damaged: its header tells of {} x {} pixels, which its {} "
                    "bytes cannot hold",
                    path, spec.width, spec.height, static_cast<std::size_t>(bytes)));
  }
  constexpr int farthest = 1 << 28;  // windows beyond it would not subtract
  for (const int at : {spec.x, spec.y, spec.full_x, spec.full_y}) {
    if (at < -farthest || at > farthest) {
      throw FileError(
          fmt::format("{}: is cut off or damaged: its picture begins at pixel {}", path, at));
    }
  }
  // What is read is kept as four floats a pixel, with depth five.
  const double pixels = std::max(static_cast<double>(spec.width) * spec.height,
                                 static_cast<double>(spec.full_width) * spec.full_height);
  require_memory(20.0 * pixels, fmt::format("{}: a picture of {} x {} pixels", path,
                                            spec.full_width, spec.full_height));
}

void require_credible_exr(const std::string& path) {
  constexpr std::size_t longest_header = 1 << 24;
  std::string head(std::min<std::size_t>(longest_header, OIIO::Filesystem::file_size(path)), '\0');
  head.resize(OIIO::Filesystem::read_bytes(path, head.data(), head.size()));
  const std::string why = incredible_exr(head, OIIO::Filesystem::file_size(path));
  if (!why.empty()) throw FileError(fmt::format("{}: is cut off or damaged: {}", path, why));
}

// Its reader takes memory for what the header calls user data, and for the picture (SMPTE 268M:
// sizes at bytes 24, 28 and 32, the picture's place at byte 4).
void require_credible_dpx(const std::string& path) {
  std::array<unsigned char, 36> head{};
  (void)OIIO::Filesystem::read_bytes(path, head.data(), head.size());
  const auto bytes = static_cast<double>(OIIO::Filesystem::file_size(path));
  const bool big = head[0] == 'S';
  const auto number = [&](std::size_t at) {
    double value = 0.0;
    for (std::size_t i = 0; i < 4; ++i) value = 256.0 * value + head[at + (big ? i : 3 - i)];
    return value;
  };
  if (number(4) <= bytes && number(24) + number(28) + number(32) <= bytes) return;
  throw FileError(
      fmt::format("{}: is cut off or damaged: its headers are longer than it is", path));
}

std::unique_ptr<OIIO::ImageInput> open(const std::string& path) {
  OIIO::ImageSpec config;
  config.attribute("oiio:UnassociatedAlpha", 1);  // premultiplying encoded numbers would be wrong
  const Kind& kind = kind_of(path);
  if (kind.reader == std::string_view("openexr")) require_credible_exr(path);
  if (kind.reader == std::string_view("dpx")) require_credible_dpx(path);
  auto in = OIIO::ImageInput::create(kind.reader);
  OIIO::ImageSpec unused;
  if (!in || !in->open(path, unused, config)) {
    throw FileError(fmt::format("{}: cannot be read as a picture: {}", path,
                                trimmed(in ? in->geterror() : OIIO::geterror())));
  }
  const OIIO::ImageSpec& spec = in->spec();
  if (spec.width < 1 || spec.height < 1 || spec.full_width < 1 || spec.full_height < 1) {
    throw FileError(fmt::format("{}: is a picture of {} x {} pixels: there is nothing in it", path,
                                spec.width, spec.height));
  }
  require_credible(path, spec, kind);
  return in;
}

// A header that lists more is no picture.
constexpr int max_parts = 1024;

std::vector<OIIO::ImageSpec> parts_of(OIIO::ImageInput& in, const std::string& path) {
  std::vector<OIIO::ImageSpec> parts;
  // Pages of other formats are other pictures.
  const int most = std::string(in.format_name()) == "openexr" ? max_parts : 1;
  for (int part = 0; part < most && in.seek_subimage(part, 0); ++part) {
    parts.push_back(in.spec());
    if (part > 0) require_credible(path, parts.back(), kind_of(path));
  }
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

// Where one channel goes: `into`, every `step` floats.
struct Target {
  ChannelPlace place;
  float* into;
  std::size_t step;
  bool coverage = false;  // 1 wherever there is a pixel, instead of its value
};

// Channels, row by row over the display window, and a margin beyond it where one is asked for: what
// lies outside the data window is empty.
class Planes {
 public:
  Planes(OIIO::ImageInput& in, const std::vector<OIIO::ImageSpec>& parts, const std::string& path,
         PixelSize size, const Margin& beyond)
      : in_(in), parts_(parts), path_(path), size_(size), beyond_(beyond) {}

  /// Channels of one part that stand side by side are read in one go, since files keep all of a row
  /// together.
  void read(std::vector<Target> targets) {
    constexpr int side_by_side = 8;
    while (!targets.empty()) {
      const auto [part, index] = targets.front().place;
      const OIIO::ImageSpec& spec = parts_[static_cast<std::size_t>(part)];
      const bool together = spec.nchannels <= side_by_side;
      std::vector<Target> now;
      std::vector<Target> later;
      for (const Target& t : targets) {
        const bool fits = t.place.part == part && (together || t.place.index == index);
        (fits ? now : later).push_back(t);
      }
      const int first = together ? 0 : index;
      read_part(part, first, together ? spec.nchannels : first + 1, now);
      targets = std::move(later);
    }
  }

 private:
  void read_part(int part, int first, int last, const std::vector<Target>& targets) {
    const OIIO::ImageSpec& spec = parts_[static_cast<std::size_t>(part)];
    const PixelSize shown{size_.width - 2 * beyond_.beside, size_.height - 2 * beyond_.above};
    if (spec.full_width != shown.width || spec.full_height != shown.height) {
      throw FileError(fmt::format("{}: its part {} is {} x {} px, but its colour is {} x {}", path_,
                                  part + 1, spec.full_width, spec.full_height, shown.width,
                                  shown.height));
    }
    // In strips, so that memory is the picture's and not twice that.
    const int rows = rows_of(spec, last - first);
    std::vector<float> strip;
    for (int from = 0; from < spec.height; from += rows) {
      const int to = std::min(from + rows, spec.height);
      strip.assign(static_cast<std::size_t>(spec.width) * static_cast<std::size_t>(to - from) *
                       static_cast<std::size_t>(last - first),
                   0.0F);
      const bool good =
          spec.tile_width > 0
              ? in_.read_tiles(part, 0, spec.x, spec.x + spec.width, spec.y + from, spec.y + to, 0,
                               1, first, last, OIIO::TypeDesc::FLOAT, strip.data())
              : in_.read_scanlines(part, 0, spec.y + from, spec.y + to, 0, first, last,
                                   OIIO::TypeDesc::FLOAT, strip.data());
      if (!good) {
        throw FileError(
            fmt::format("{}: is cut off or damaged: {}", path_, trimmed(in_.geterror())));
      }
      for (const Target& t : targets) deliver(t, spec, {from, to}, strip, first, last);
    }
  }

  static int rows_of(const OIIO::ImageSpec& spec, int channels) {
    constexpr double floats = 16e6;  // 64 MB
    const int fit = static_cast<int>(
        std::clamp(floats / (static_cast<double>(spec.width) * channels), 1.0, 1e6));
    const int tile = spec.tile_width > 0 ? std::max(1, spec.tile_height) : 1;
    return std::max(1, fit / tile) * tile;
  }

  void deliver(const Target& t, const OIIO::ImageSpec& spec, std::pair<int, int> rows,
               const std::vector<float>& strip, int first, int last) const {
    const auto stride = static_cast<std::size_t>(last - first);
    const auto channel = static_cast<std::size_t>(t.place.index - first);
    for (int sy = rows.first; sy < rows.second; ++sy) {
      const int y = sy + spec.y - spec.full_y + beyond_.above;
      if (y < 0 || y >= size_.height) continue;
      const std::size_t row =
          static_cast<std::size_t>(sy - rows.first) * static_cast<std::size_t>(spec.width);
      const int left = spec.full_x - beyond_.beside;
      const int begin = std::max(0, left - spec.x);
      const int end = std::min(spec.width, size_.width + left - spec.x);
      for (int sx = begin; sx < end; ++sx) {
        const std::size_t to = static_cast<std::size_t>(y) * static_cast<std::size_t>(size_.width) +
                               static_cast<std::size_t>(sx + spec.x - left);
        t.into[to * t.step] =
            t.coverage ? 1.0F : strip[(row + static_cast<std::size_t>(sx)) * stride + channel];
      }
    }
  }

  OIIO::ImageInput& in_;
  const std::vector<OIIO::ImageSpec>& parts_;
  const std::string& path_;
  PixelSize size_;
  Margin beyond_;
};

Frame to_frame(OIIO::ImageInput& in, const std::vector<OIIO::ImageSpec>& parts,
               const ChosenChannels& c, const std::string& path, const Margin& beyond) {
  const OIIO::ImageSpec& spec = parts[static_cast<std::size_t>(c.r.any() ? c.r.part : c.z.part)];
  const PixelSize size{spec.full_width + 2 * beyond.beside, spec.full_height + 2 * beyond.above};
  Frame frame{Picture(size), {}};
  frame.notes = c.notes;
  frame.margin = beyond;
  float* colour = frame.colour.pixels().front().data();
  std::vector<Target> targets;
  // A missing alpha is 1 wherever there is a pixel at all.
  if (!c.a.any()) targets.push_back({c.r.any() ? c.r : c.z, colour + 3, 4, true});
  const std::array<ChannelPlace, 4> places{c.r, c.g, c.b, c.a};
  for (std::size_t k = 0; k < places.size(); ++k) {
    if (places[k].any()) targets.push_back({places[k], colour + k, 4});
  }
  if (c.z.any()) {
    frame.depth.assign(frame.colour.pixels().size(), std::numeric_limits<float>::infinity());
    targets.push_back({c.z, frame.depth.data(), 1});
  }
  Planes(in, parts, path, size, beyond).read(std::move(targets));
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
  Frame out{Picture({turned.spec().width, turned.spec().height}), {}, std::move(frame.notes)};
  turned.get_pixels(turned.roi(), OIIO::TypeDesc::FLOAT, out.colour.pixels().data());
  return out;
}

void divide_by_alpha(Picture& picture) {
  for (Rgba& p : picture.pixels()) {
    if (!(p[3] > 0.0F) || p[3] == 1.0F) continue;  // light that nothing covers stays as it is
    for (std::size_t c = 0; c < 3; ++c) p[c] /= p[3];
  }
}

Frame read(const std::string& path, const PictureRead& how) {
  const auto in = open(path);
  const std::vector<OIIO::ImageSpec> parts = parts_of(*in, path);
  const bool exr = is_exr(parts.front(), *in);
  const ChosenChannels chosen = channels_of(parts, how.layer, path);
  Frame frame = to_frame(*in, parts, chosen, path, how.beyond);
  if (exr && !how.as_it_is) {
    FileRest rest = rest_of(path, parts, chosen);
    if (rest.any()) frame.rest = std::move(rest);
  }
  if (how.transfer == Transfer::managed) {
    // Who asked converts them: straight numbers, as they are in other files.
    if (exr) divide_by_alpha(frame.colour);
  } else if (!exr || (how.transfer && *how.transfer != Transfer::linear)) {
    decode_straight(frame.colour, how.transfer.value_or(Transfer::srgb), how.curve);
  }
  return upright(path, std::move(frame), parts.front().get_int_attribute("Orientation", 1));
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
  if (spec.find_attribute("DateTime") == nullptr) spec.attribute("DateTime", "");  // no time of day
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

Margin margin(const std::string& path) {
  const auto in = open(path);
  const OIIO::ImageSpec& s = in->spec();
  if (!is_exr(s, *in)) return {};
  const int left = s.full_x - s.x;
  const int right = s.x + s.width - s.full_x - s.full_width;
  const int top = s.full_y - s.y;
  const int bottom = s.y + s.height - s.full_y - s.full_height;
  return {std::max(0, std::min(left, right)), std::max(0, std::min(top, bottom))};
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

}  // namespace

}  // namespace jolly_iris::picture_files

extern "C" __attribute__((visibility("default"))) const void* jolly_iris_picture_backend() {
  static const jolly_iris::picture_files::Backend backend{JOLLY_IRIS_VERSION,
                                                          jolly_iris::picture_files::read,
                                                          jolly_iris::picture_files::encode,
                                                          jolly_iris::picture_files::encode_layers,
                                                          jolly_iris::picture_files::encode_map,
                                                          jolly_iris::picture_files::with_rest,
                                                          jolly_iris::picture_files::stamped,
                                                          jolly_iris::picture_files::margin,
                                                          jolly_iris::picture_files::facts,
                                                          jolly_iris::picture_files::header,
                                                          jolly_iris::picture_files::moving};
  return &backend;
}
