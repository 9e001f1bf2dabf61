#include "metadata.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <limits>
#include <optional>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris::picture_files {

namespace {

// Reads numbers of a header under several names, keeping what cannot be believed.
class Header {
 public:
  Header(const OIIO::ImageSpec& spec, PlateFacts& facts) : spec_(spec), facts_(facts) {}

  std::optional<double> number(std::initializer_list<const char*> names, double min, double max) {
    for (const char* name : names) {
      const OIIO::ParamValue* found = spec_.find_attribute(name);
      if (found == nullptr) continue;
      const bool text = found->type().basetype == OIIO::TypeDesc::STRING;
      const double value =
          text ? std::nan("") : static_cast<double>(found->get_float(std::nanf("")));
      if (value >= min && value <= max) return value;
      facts_.doubts.push_back(fmt::format("{} = '{}'", name, printable(found->get_string())));
    }
    return std::nullopt;
  }

  std::optional<std::string> text(std::initializer_list<const char*> names) {
    for (const char* name : names) {
      const OIIO::ParamValue* found = spec_.find_attribute(name);
      if (found == nullptr || found->type().basetype != OIIO::TypeDesc::STRING) continue;
      const std::string value = printable(found->get_string());
      if (!value.empty()) return value;
    }
    return std::nullopt;
  }

 private:
  static std::string printable(const std::string& raw) {
    std::string out;
    for (const char c : raw.substr(0, 80)) {
      if (static_cast<unsigned char>(c) >= 0x20 && static_cast<unsigned char>(c) < 0x7f) out += c;
    }
    return out;
  }
  const OIIO::ImageSpec& spec_;
  PlateFacts& facts_;
};

void refuse_out_of_scope(const OIIO::ImageSpec& spec, const std::string& path) {
  if (spec.find_attribute("envmap") != nullptr ||
      !spec.get_string_attribute("textureformat").compare("LatLong Environment")) {
    throw OpticsError(path +
                      ": is a panorama (it has the attribute envmap); blur and framing are "
                      "computed for one rectilinear lens, so it is out of scope");
  }
  if (spec.find_attribute("multiView") != nullptr) {
    throw OpticsError(path +
                      ": is a stereo pair (it has the attribute multiView), which is out of "
                      "scope; give one eye as a picture of its own");
  }
}

bool begins_with(const std::string& text, const std::string& word) {
  const std::string first = word.substr(0, word.find(' '));
  return text.size() >= first.size() &&
         std::equal(first.begin(), first.end(), text.begin(), [](unsigned char a, unsigned char b) {
           return std::tolower(a) == std::tolower(b);
         });
}

// Photosites (of the picture as it was taken) for each unit of length.
void read_focal_plane(Header& header, PlateFacts& facts) {
  const auto x = header.number({"Exif:FocalPlaneXResolution"}, 1.0, 1e6);
  const auto y = header.number({"Exif:FocalPlaneYResolution"}, 1.0, 1e6);
  if (!x || !y) return;
  // Exif 2.32: 2 is the inch, which is also meant where nothing is said; 3 the centimetre.
  const double unit =
      header.number({"Exif:FocalPlaneResolutionUnit"}, 2.0, 3.0).value_or(2.0) == 3.0 ? 10.0 : 25.4;
  const double width =
      header.number({"Exif:PixelXDimension"}, 1.0, 1e6).value_or(facts.pixels.width);
  const double height =
      header.number({"Exif:PixelYDimension"}, 1.0, 1e6).value_or(facts.pixels.height);
  const Extent gate{Length::from_mm(width / *x * unit), Length::from_mm(height / *y * unit)};
  // No sensor is smaller than a pinhead or larger than a sheet.
  if (gate.width.mm() > 1.0 && gate.width.mm() < 300.0 && gate.height.mm() > 0.5) {
    facts.gate = gate;
  } else {
    facts.doubts.push_back(
        fmt::format("a focal plane of {:.3g} x {:.3g} mm", gate.width.mm(), gate.height.mm()));
  }
}

void read_distance(Header& header, PlateFacts& facts) {
  // Exif writes infinity as the largest 32-bit number.
  const auto metres = header.number({"Exif:SubjectDistance", "focus"}, 1e-3,
                                    std::numeric_limits<double>::infinity());
  if (!metres) return;
  facts.distance = *metres > 1e8 ? Length::infinity() : Length::from_m(*metres);
}

}  // namespace

PlateFacts plate_facts(const OIIO::ImageSpec& spec, const std::string& path, bool exr) {
  refuse_out_of_scope(spec, path);
  PlateFacts facts;
  facts.pixels = {spec.full_width, spec.full_height};
  if (spec.get_int_attribute("Orientation", 1) >= 5) {
    std::swap(facts.pixels.width, facts.pixels.height);
  }
  facts.from_a_shot = exr && spec.find_attribute("jolly_iris:shot") != nullptr &&
                      spec.find_attribute("pinholeFocalLength") != nullptr;
  Header header(spec, facts);
  const auto make = header.text({"cameraMake", "Make"});
  const auto model = header.text({"cameraModel", "Model"});
  // Many models begin with their maker's name.
  if (model) facts.camera = make && !begins_with(*model, *make) ? *make + " " + *model : *model;
  facts.lens = header.text({"lensModel", "Exif:LensModel"});
  if (const auto v = header.number({"nominalFocalLength", "Exif:FocalLength"}, 0.5, 1e4)) {
    facts.focal = Length::from_mm(*v);
  }
  facts.equivalent_mm = header.number({"Exif:FocalLengthIn35mmFilm"}, 1.0, 1e5);
  facts.f_number = header.number({"FNumber", "Exif:FNumber", "aperture"}, 0.3, 256.0);
  facts.iso =
      header.number({"Exif:PhotographicSensitivity", "Exif:ISOSpeedRatings", "isoSpeed"}, 1.0, 1e8);
  if (const auto v = header.number({"ExposureTime", "expTime"}, 1e-7, 1e5)) {
    facts.exposure_time = Duration::from_seconds(*v);
  }
  read_focal_plane(header, facts);
  facts.fps = header.number({"FramesPerSecond", "framesPerSecond"}, 0.1, 1e5);
  read_distance(header, facts);
  const auto aspect = header.number({"PixelAspectRatio"}, 0.05, 20.0);
  if (aspect && *aspect != 1.0) facts.pixel_aspect = aspect;
  if (exr)
    facts.transfer = Transfer::linear;
  else
    facts.transfer = Transfer::srgb;
  return facts;
}

}  // namespace jolly_iris::picture_files
