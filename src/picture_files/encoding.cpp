#include "encoding.hpp"

#include <OpenImageIO/filesystem.h>
#include <OpenImageIO/imageio.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <sstream>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"

namespace jolly_iris::picture_files {

namespace {

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
    sheet.spec.channelnames.emplace_back("Z");
    sheet.spec.channelformats.emplace_back(OIIO::TypeDesc::FLOAT);
  }
  sheet.spec.alpha_channel = 3;
  sheet.spec.z_channel = depth ? 4 : -1;
  sheet.spec.attribute("compression", "zip");
  // The display window begins at 0, 0; what is beyond it has places below that.
  sheet.spec.x = -frame.margin.beside;
  sheet.spec.y = -frame.margin.above;
  sheet.spec.full_width = frame.colour.width() - 2 * frame.margin.beside;
  sheet.spec.full_height = frame.colour.height() - 2 * frame.margin.above;
  if (frame.part) {
    sheet.spec.x = frame.part->x;
    sheet.spec.y = frame.part->y;
    sheet.spec.full_width = frame.part->whole.width;
    sheet.spec.full_height = frame.part->whole.height;
  }
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

Frame without_margin(const Frame& frame) {
  const Margin& m = frame.margin;
  Frame out = crop(frame, {m.beside, m.above, frame.colour.width() - 2 * m.beside,
                           frame.colour.height() - 2 * m.above});
  out.margin = {};
  return out;
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

// Standard attributes of an EXR that are numbers: how many.
int numbers_in(const std::string& name) {
  if (name == "worldtocamera" || name == "worldtoNDC") return 16;
  if (name == "chromaticities") return 8;
  constexpr std::array single{"focus",
                              "FNumber",
                              "tStop",
                              "isoSpeed",
                              "ExposureTime",
                              "shutterAngle",
                              "nominalFocalLength",
                              "pinholeFocalLength"};
  return std::any_of(single.begin(), single.end(), [&](const char* n) { return name == n; }) ? 1
                                                                                             : 0;
}

void put_numbers(OIIO::ImageSpec& spec, const std::string& name, const std::string& text,
                 int count) {
  std::istringstream in(text);
  std::vector<float> values(static_cast<std::size_t>(count));
  for (float& v : values) {
    std::string word;
    in >> word;
    v = std::strtof(word.c_str(), nullptr);
  }
  if (count == 16) {
    spec.attribute(name, OIIO::TypeMatrix, values.data());
  } else if (count == 8) {
    spec.attribute(name, OIIO::TypeDesc(OIIO::TypeDesc::FLOAT, 8), values.data());
  } else {
    spec.attribute(name, values.front());
  }
}

void put_attributes(OIIO::ImageSpec& spec, const std::map<std::string, std::string>& attributes) {
  // Else the EXR and TIFF writers put the time of day there, and two runs differ. An empty one is
  // not written.
  spec.attribute("DateTime", "");
  for (const auto& [name, value] : attributes) {
    if (name == "PixelAspectRatio") {  // files keep it as a number
      spec.attribute(name, std::stof(value));
    } else if (const int count = numbers_in(name); count > 0) {
      put_numbers(spec, name, value, count);
    } else if (name == "framesPerSecond") {
      const auto over = value.find('/');
      const int rate[2] = {std::stoi(value), std::stoi(value.substr(over + 1))};
      spec.attribute(name, OIIO::TypeRational, rate);
    } else if (name == "Orientation") {
      spec.attribute(name, std::stoi(value));
    } else if (!value.empty()) {
      spec.attribute(name, value);
    }
  }
}

}  // namespace

std::string trimmed(std::string text) {
  while (!text.empty() && (text.back() == '\n' || text.back() == ' ')) text.pop_back();
  return text.empty() ? "no reason given" : text;
}

std::string encode(const std::string& path, const Frame& frame,
                   const std::map<std::string, std::string>& attributes, int quality) {
  const std::string format(OIIO::Filesystem::extension(path, false));
  const auto is = [&](const char* name) { return OIIO::Strutil::iequals(format, name); };
  const bool cut = !is("exr") && (frame.margin.beside > 0 || frame.margin.above > 0);
  const Frame shown = cut ? without_margin(frame) : Frame{};
  Sheet sheet = is("exr") ? exr_sheet(frame)
                          : viewing_sheet(cut ? shown : frame, is("jpg") || is("jpeg"),
                                          is("tif") || is("tiff"), quality);
  put_attributes(sheet.spec, attributes);
  return encoded(path, sheet);
}

std::string encode_layers(const std::string& path, const Frame& frame,
                          const std::vector<NamedPicture>& layers,
                          const std::map<std::string, std::string>& attributes) {
  const auto own = static_cast<std::size_t>(frame.has_depth() ? 5 : 4);
  const std::size_t all = own + 3 * layers.size();
  Sheet sheet = exr_sheet(frame);
  for (OIIO::TypeDesc& format : sheet.spec.channelformats) format = OIIO::TypeDesc::FLOAT;
  for (const NamedPicture& layer : layers) {
    for (const char* channel : {".R", ".G", ".B"}) {
      sheet.spec.channelnames.push_back(layer.name + channel);
      sheet.spec.channelformats.emplace_back(OIIO::TypeDesc::FLOAT);
    }
  }
  sheet.spec.nchannels = static_cast<int>(all);
  std::vector<float> data(all * frame.colour.pixels().size());
  for (std::size_t i = 0; i < frame.colour.pixels().size(); ++i) {
    float* to = data.data() + all * i;
    std::copy_n(sheet.data.data() + own * i, own, to);
    to += own;
    for (const NamedPicture& layer : layers) {
      to = std::copy_n(layer.picture.pixels()[i].data(), 3, to);
    }
  }
  sheet.data = std::move(data);
  put_attributes(sheet.spec, attributes);
  return encoded(path, sheet);
}

std::string encode_map(const std::string& path, PixelSize size, const std::vector<float>& pairs) {
  Sheet sheet{OIIO::ImageSpec(size.width, size.height, 2, OIIO::TypeDesc::FLOAT), pairs};
  sheet.spec.channelnames = {"R", "G"};
  sheet.spec.attribute("compression", "zip");
  return encoded(path, sheet);
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

}  // namespace jolly_iris::picture_files
