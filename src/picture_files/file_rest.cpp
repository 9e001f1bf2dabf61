#include "file_rest.hpp"

#include <OpenImageIO/filesystem.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <string_view>

#include "encoding.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"

namespace jolly_iris::picture_files {

namespace {

// How a file is kept, and what each writer says of itself.
bool is_about_the_file(std::string_view name) {
  constexpr std::array technical{"compression",
                                 "DateTime",
                                 "Software",
                                 "Orientation",
                                 "name",
                                 "type",
                                 "chunkCount",
                                 "version",
                                 "capDate",
                                 "lineOrder",
                                 "planarconfig",
                                 "ImageDescription",
                                 "envmap",
                                 "multiView",
                                 "textureformat",
                                 "CompressionQuality",
                                 "PixelAspectRatio",
                                 "worldtocamera",
                                 "worldtoNDC"};
  constexpr std::array families{"oiio:", "openexr:", "jolly_iris:"};
  return std::any_of(technical.begin(), technical.end(),
                     [&](const char* t) { return name == t; }) ||
         std::any_of(families.begin(), families.end(),
                     [&](const char* f) { return name.starts_with(f); });
}

std::string part_name(const OIIO::ImageSpec& spec) {
  const std::string name(spec.get_string_attribute("oiio:subimagename"));
  return name.empty() ? std::string(spec.get_string_attribute("name")) : name;
}

bool same_display(const OIIO::ImageSpec& a, const OIIO::ImageSpec& b) {
  return a.full_width == b.full_width && a.full_height == b.full_height;
}

// The name that a channel gets beside the colour's own.
std::string carried_name(const std::vector<OIIO::ImageSpec>& parts, std::size_t part,
                         std::size_t colour_part, const std::string& channel) {
  const std::string name = part_name(parts[part]);
  if (part == colour_part || name.empty() || channel.starts_with(name + ".")) return channel;
  return name + "." + channel;
}

bool is_ours(const std::string& name) {
  constexpr std::array ours{"R", "G", "B", "A", "Z"};
  return std::any_of(ours.begin(), ours.end(), [&](const char* o) { return name == o; });
}

std::size_t colour_part_of(const ChosenChannels& c) {
  return static_cast<std::size_t>(c.r.any() ? c.r.part : c.z.part);
}

OIIO::TypeDesc type_of(const OIIO::ImageSpec& spec, std::size_t channel) {
  return spec.channelformats.empty() ? spec.format : spec.channelformats[channel];
}

// All of a part's pixels, each channel in its own type.
std::vector<unsigned char> pixels_of(OIIO::ImageInput& in, int part, const std::string& path) {
  in.seek_subimage(part, 0);
  const OIIO::ImageSpec spec = in.spec();
  require_memory(static_cast<double>(spec.image_bytes(true)), path + ": its other channels");
  std::vector<unsigned char> pixels(spec.image_bytes(true));
  if (!in.read_image(part, 0, 0, spec.nchannels, OIIO::TypeDesc::UNKNOWN, pixels.data())) {
    throw FileError(fmt::format("{}: is cut off or damaged: {}", path, trimmed(in.geterror())));
  }
  return pixels;
}

std::size_t offset_of(const OIIO::ImageSpec& spec, std::size_t channel) {
  std::size_t bytes = 0;
  for (std::size_t c = 0; c < channel; ++c) bytes += type_of(spec, c).size();
  return bytes;
}

// A picture whose pixels are bytes, channel by channel.
struct NativePixels {
  OIIO::ImageSpec spec;
  std::vector<unsigned char> pixels;
};

// Copies channels of `from` behind those of `to`, where both windows have a pixel.
void append(NativePixels& to, const NativePixels& from, const std::vector<std::size_t>& channels,
            const std::vector<std::string>& names) {
  const std::size_t before = to.spec.pixel_bytes(true);
  OIIO::ImageSpec spec = to.spec;
  if (spec.channelformats.empty()) {
    spec.channelformats.assign(static_cast<std::size_t>(spec.nchannels), spec.format);
  }
  for (std::size_t i = 0; i < channels.size(); ++i) {
    spec.channelnames.push_back(names[i]);
    spec.channelformats.push_back(type_of(from.spec, channels[i]));
  }
  spec.nchannels += static_cast<int>(channels.size());
  const std::size_t after = spec.pixel_bytes(true);
  const std::size_t source = from.spec.pixel_bytes(true);
  require_memory(static_cast<double>(spec.image_bytes(true)), "a picture with all its channels");
  std::vector<unsigned char> pixels(spec.image_bytes(true), 0);
  for (int y = 0; y < spec.height; ++y) {
    // Both count from the display window's corner.
    const int sy = y + spec.y - spec.full_y - (from.spec.y - from.spec.full_y);
    for (int x = 0; x < spec.width; ++x) {
      const auto at = static_cast<std::size_t>(y) * static_cast<std::size_t>(spec.width) +
                      static_cast<std::size_t>(x);
      unsigned char* out = pixels.data() + at * after;
      std::memcpy(out, to.pixels.data() + at * before, before);
      out += before;
      const int sx = x + spec.x - spec.full_x - (from.spec.x - from.spec.full_x);
      if (sx < 0 || sy < 0 || sx >= from.spec.width || sy >= from.spec.height) continue;
      const unsigned char* in =
          from.pixels.data() +
          source * (static_cast<std::size_t>(sy) * static_cast<std::size_t>(from.spec.width) +
                    static_cast<std::size_t>(sx));
      for (const std::size_t channel : channels) {
        const std::size_t size = type_of(from.spec, channel).size();
        std::memcpy(out, in + offset_of(from.spec, channel), size);
        out += size;
      }
    }
  }
  to = {std::move(spec), std::move(pixels)};
}

}  // namespace

FileRest rest_of(const std::string& path, const std::vector<OIIO::ImageSpec>& parts,
                 const ChosenChannels& chosen) {
  const std::size_t colour = colour_part_of(chosen);
  const OIIO::ImageSpec& own = parts[colour];
  FileRest rest{path, {}, false, {own.full_width, own.full_height}, static_cast<int>(colour)};
  const std::array used{chosen.r, chosen.g, chosen.b, chosen.a, chosen.z};
  for (std::size_t part = 0; part < parts.size(); ++part) {
    if (parts[part].deep || !same_display(parts[part], own)) continue;
    for (std::size_t i = 0; i < parts[part].channelnames.size(); ++i) {
      const bool read = std::any_of(used.begin(), used.end(), [&](const ChannelPlace& p) {
        return p.any() && p.part == static_cast<int>(part) && p.index == static_cast<int>(i);
      });
      const std::string name = carried_name(parts, part, colour, parts[part].channelnames[i]);
      if (!read && !is_ours(name)) rest.channels.push_back(name);
    }
  }
  rest.header =
      std::any_of(own.extra_attribs.begin(), own.extra_attribs.end(),
                  [](const OIIO::ParamValue& v) { return !is_about_the_file(v.name().string()); });
  return rest;
}

std::string with_rest(const std::string& path, const std::string& bytes, const FileRest& rest) {
  OIIO::Filesystem::IOMemReader memory(const_cast<char*>(bytes.data()), bytes.size());
  auto made = OIIO::ImageInput::open(path, nullptr, &memory);
  if (!made) throw FileError(fmt::format("{}: {}", path, trimmed(OIIO::geterror())));
  NativePixels out{made->spec(), pixels_of(*made, 0, path)};
  const auto in = OIIO::ImageInput::open(rest.file);
  if (!in) throw FileError(fmt::format("{}: {}", rest.file, trimmed(OIIO::geterror())));
  std::vector<OIIO::ImageSpec> parts;
  while (in->seek_subimage(static_cast<int>(parts.size()), 0)) parts.push_back(in->spec());
  const auto colour = static_cast<std::size_t>(rest.part);
  for (std::size_t part = 0; part < parts.size(); ++part) {
    std::vector<std::size_t> channels;
    std::vector<std::string> names;
    for (std::size_t i = 0; i < parts[part].channelnames.size(); ++i) {
      const std::string name = carried_name(parts, part, colour, parts[part].channelnames[i]);
      const auto& have = out.spec.channelnames;
      const bool wanted =
          std::find(rest.channels.begin(), rest.channels.end(), name) != rest.channels.end() &&
          std::find(have.begin(), have.end(), name) == have.end() &&
          std::find(names.begin(), names.end(), name) == names.end();
      if (!wanted) continue;
      channels.push_back(i);
      names.push_back(name);
    }
    if (channels.empty()) continue;
    append(out, {parts[part], pixels_of(*in, static_cast<int>(part), rest.file)}, channels, names);
  }
  if (colour < parts.size()) {
    for (const OIIO::ParamValue& v : parts[colour].extra_attribs) {
      const std::string name = v.name().string();
      if (is_about_the_file(name) || out.spec.find_attribute(name) != nullptr) continue;
      out.spec.attribute(name, v.type(), v.data());
    }
  }
  // Else the writer puts the time of day there.
  if (out.spec.find_attribute("DateTime") == nullptr) out.spec.attribute("DateTime", "");
  std::vector<unsigned char> again;
  OIIO::Filesystem::IOVecOutput into(again);
  auto writer = OIIO::ImageOutput::create(path, &into);
  const bool good = writer && writer->open(path, out.spec) &&
                    writer->write_image(OIIO::TypeDesc::UNKNOWN, out.pixels.data()) &&
                    writer->close();
  if (!good) {
    throw FileError(fmt::format("{}: cannot be encoded: {}", path,
                                trimmed(writer ? writer->geterror() : OIIO::geterror())));
  }
  return {again.begin(), again.end()};
}

}  // namespace jolly_iris::picture_files
